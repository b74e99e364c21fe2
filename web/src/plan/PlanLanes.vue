<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown, PlannedWork } from "@/api/types";
import LaneLine from "@/plan/LaneLine.vue";
import { dayOf, usePlanWords, type Pins } from "@/plan/plan";
import { timeText } from "@/shared/format";

/** One day: who does what, which set and the crane are where, and where the crank stands. */
const props = defineProps<{ plan: PlanShown; day: string; pins: Pins }>();
const emit = defineEmits<{ pick: [work: PlannedWork] }>();
const { t } = useI18n();
const words = usePlanWords(() => props.plan);
const MINUTE_MS = 60_000;
const HOUR_MIN = 60;
const MARGIN_MIN = 30;
const DAY_MIN = 1440;

const work = computed(() => props.plan.work.filter((one) => dayOf(one.start_at) === props.day));
const moves = computed(() => props.plan.moves.filter((one) => dayOf(one.start_at) === props.day));
const midnight = computed(() => new Date(`${props.day}T00:00`).getTime());
const minute = (at: string): number => (new Date(at).getTime() - midnight.value) / MINUTE_MS;
/** The shift, and whatever lies outside of it. */
const from = computed(() =>
  Math.max(
    0,
    Math.min(props.plan.asked.from_min, ...work.value.map((one) => minute(one.start_at))) - MARGIN_MIN,
  ),
);
const to = computed(() =>
  Math.min(
    DAY_MIN,
    Math.max(props.plan.asked.to_min, ...work.value.map((one) => minute(one.end_at))) + MARGIN_MIN,
  ),
);
const share = (min: number): number => ((min - from.value) / (to.value - from.value)) * 100;
const placed = (start: string, end: string): Record<string, string> => ({
  left: `${share(minute(start))}%`,
  width: `${share(minute(end)) - share(minute(start))}%`,
});
const hours = computed(() => {
  const first = Math.ceil(from.value / HOUR_MIN);
  const last = Math.floor(to.value / HOUR_MIN);
  return Array.from({ length: last - first + 1 }, (_, k) => first + k);
});
const night = computed(() => [
  { left: "0%", width: `${share(props.plan.asked.from_min)}%` },
  { left: `${share(props.plan.asked.to_min)}%`, width: `${100 - share(props.plan.asked.to_min)}%` },
]);

interface Lane {
  key: string;
  name: string;
  work: PlannedWork[];
}
const people = computed<Lane[]>(() =>
  Array.from({ length: props.plan.hands }, (_, k) => ({
    key: `p${k}`,
    name: words.who(k),
    work: work.value.filter((one) => one.who.includes(k)),
  })),
);
const things = computed<Lane[]>(() => [
  ...Object.keys(props.plan.sets)
    .sort()
    .map((name) => ({ key: name, name, work: work.value.filter((one) => one.sets.includes(name)) })),
  { key: "crane", name: t("plan.lane_crane"), work: work.value.filter((one) => one.crane) },
]);
const said = (one: PlannedWork): string =>
  [words.span(one), one.label, one.title, one.id in props.pins.at ? t("plan.kept") : ""]
    .filter(Boolean)
    .join(", ");

/** Dragged sideways, a piece is kept where it is let go, by quarters of an hour. */
const STEP_MIN = 15;
const LEAST_PX = 8;
const dragged = ref<{ id: string; x: number; by: number } | null>(null);
function down(event: PointerEvent, one: PlannedWork): void {
  dragged.value = { id: one.id, x: event.clientX, by: 0 };
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
}
function move(event: PointerEvent): void {
  if (dragged.value !== null) dragged.value.by = event.clientX - dragged.value.x;
}
function up(event: PointerEvent, one: PlannedWork): void {
  const drag = dragged.value;
  dragged.value = null;
  const lane = (event.currentTarget as HTMLElement).parentElement;
  if (drag === null || lane === null || Math.abs(drag.by) < LEAST_PX) return;
  const minutes = (drag.by / lane.clientWidth) * (to.value - from.value);
  props.pins.moveBy(one, Math.round(minutes / STEP_MIN) * STEP_MIN);
}
</script>

<template>
  <div class="frame" tabindex="0" role="region" :aria-label="t('plan.lanes')">
    <div class="lanes">
      <div class="scale" aria-hidden="true">
        <span />
        <div class="line">
          <span v-for="hour in hours" :key="hour" class="hour" :style="{ left: `${share(hour * 60)}%` }">{{
            String(hour).padStart(2, "0")
          }}</span>
        </div>
      </div>
      <lane-line v-for="lane in people" :key="lane.key" :name="lane.name" :night="night" raw>
        <button
          v-for="one in lane.work"
          :key="one.id"
          class="bar"
          type="button"
          :class="{ kept: one.id in pins.at, together: one.hands > 1 }"
          :style="[
            placed(one.start_at, one.end_at),
            dragged?.id === one.id ? { transform: `translateX(${dragged.by}px)` } : {},
          ]"
          :aria-label="said(one)"
          :title="said(one)"
          @click="emit('pick', one)"
          @pointerdown="down($event, one)"
          @pointermove="move"
          @pointerup="up($event, one)"
          @pointercancel="dragged = null"
        >
          <span class="words" translate="no">{{ one.label }}</span>
        </button>
      </lane-line>
      <lane-line v-for="lane in things" :key="lane.key" :name="lane.name" :night="night" thin raw>
        <span
          v-for="one in lane.work"
          :key="one.id"
          class="bar"
          :style="placed(one.start_at, one.end_at)"
          translate="no"
          >{{ one.label }}</span
        >
      </lane-line>
      <lane-line :name="t('plan.lane_crank')" :night="night" thin>
        <span
          v-for="one in moves"
          :key="one.start_at"
          class="turn"
          :style="{ left: `${share(minute(one.start_at))}%` }"
          :title="timeText(one.start_at)"
          translate="no"
          >{{ `${Math.round(one.to_deg)}°` }}</span
        >
      </lane-line>
    </div>
  </div>
</template>

<style scoped>
.frame {
  overflow-x: auto;
}

.lanes {
  display: grid;
  gap: 3px;
  min-width: 860px;
}

.scale {
  display: grid;
  grid-template-columns: 132px minmax(0, 1fr);
}

.scale .line {
  height: 22px;
  position: relative;
}

.hour {
  font-family: var(--figures);
  font-size: var(--size-1);
  position: absolute;
  transform: translateX(-50%);
}

.bar {
  background: var(--panel);
  border: 1px solid var(--ink);
  bottom: 2px;
  color: var(--ink);
  container-type: inline-size;
  font-size: var(--size-1);
  line-height: 1.1;
  min-width: 3px;
  overflow: hidden;
  padding: 0 2px;
  position: absolute;
  text-align: left;
  top: 2px;
  touch-action: pan-y;
  white-space: nowrap;
}

/* Half a letter tells nothing: what it is stands in the list below, and under the finger. */
@container (max-width: 34px) {
  .bar > .words {
    visibility: hidden;
  }
}

.together {
  border-left-width: 5px;
}

.kept {
  border: 3px solid var(--now);
}

span.bar {
  background: var(--fill);
  border: 0;
  border-left: 1px solid var(--panel);
  color: #fff;
  font-size: 0.75rem;
  line-height: 26px;
}

.turn {
  border-left: 2px solid var(--now);
  color: var(--ink);
  font-family: var(--figures);
  font-size: 0.75rem;
  line-height: 30px;
  padding-left: 2px;
  position: absolute;
}
</style>
