<script setup lang="ts">
import ChoiceField from "@/shared/ChoiceField.vue";
import { computed, onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { ProcedureRead } from "@/api/types";

/** The plan of a document: outlines, fasteners with their names, and an order played on it. */
const props = defineProps<{ document: ProcedureRead["document"] }>();
const { t } = useI18n();
const mm = (text: string): number => Number(text.split(" ")[0] ?? 0);

const chosen = ref("");
const names = computed(() => Object.keys(props.document.orders));
watch(
  names,
  (now) => {
    if (!now.includes(chosen.value)) chosen.value = now[0] ?? "";
  },
  { immediate: true },
);
const order = computed(() => props.document.orders[chosen.value]);
/** Fasteners taken at once share a turn. */
const turns = computed(() => {
  const found = new Map<string, number>();
  (order.value?.sequence ?? []).forEach((place, k) => {
    for (const name of typeof place === "string" ? [place] : place) found.set(name, k + 1);
  });
  return found;
});
const last = computed(() => order.value?.sequence.length ?? 0);

const spots = computed(() =>
  props.document.fasteners.flatMap((group) =>
    group.positions.map((spot) => ({
      name: spot.name,
      x: mm(spot.x),
      y: -mm(spot.y),
      across: mm(group.across),
      turn: turns.value.get(spot.name) ?? 0,
    })),
  ),
);
/** Heads are drawn larger than they are where there is room, so that their names can be read. */
const head = computed(() => {
  const all = spots.value;
  let nearest = Infinity;
  all.forEach((a, k) => {
    for (const b of all.slice(k + 1)) nearest = Math.min(nearest, Math.hypot(a.x - b.x, a.y - b.y));
  });
  const across = Math.max(...all.map((s) => s.across), 40);
  return Math.min(nearest * 0.36, Math.max(across * 0.62, reach.value / 15));
});
const reach = computed(() => {
  const xs = spots.value.map((s) => s.x);
  const ys = spots.value.map((s) => s.y);
  return Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys), 60);
});
const box = computed(() => {
  const widest = head.value * 1.6;
  const xs = spots.value.map((s) => s.x);
  const ys = spots.value.map((s) => s.y);
  for (const shape of props.document.outline) {
    const half =
      shape.shape === "circle"
        ? [mm(shape.diameter) / 2, mm(shape.diameter) / 2]
        : [mm(shape.width) / 2, mm(shape.height) / 2];
    xs.push(mm(shape.x) - (half[0] ?? 0), mm(shape.x) + (half[0] ?? 0));
    ys.push(-mm(shape.y) - (half[1] ?? 0), -mm(shape.y) + (half[1] ?? 0));
  }
  const pad = widest * 0.9;
  const left = Math.min(...xs) - pad;
  const high = Math.min(...ys) - pad;
  return { left, high, wide: Math.max(...xs) - left + pad, tall: Math.max(...ys) - high + pad };
});
const thin = computed(() => Math.max(box.value.wide, box.value.tall) / 220);

/** While an order plays, `now` walks through it; standing still, every turn is shown. */
const now = ref(0);
let timer: number | undefined;
const playing = computed(() => now.value > 0);

function stop(): void {
  window.clearInterval(timer);
  now.value = 0;
}
function play(): void {
  if (playing.value) {
    stop();
    return;
  }
  now.value = 1;
  timer = window.setInterval(() => {
    if (now.value >= last.value) stop();
    else now.value += 1;
  }, 650);
}
watch(chosen, stop);
onBeforeUnmount(stop);
const stands = (turn: number): string =>
  !playing.value || turn === 0 ? "" : turn === now.value ? "now" : turn < now.value ? "done" : "later";
</script>

<template>
  <figure class="draft" :class="{ wide: box.wide > box.tall * 1.7 }">
    <svg
      :viewBox="`${box.left} ${box.high} ${box.wide} ${box.tall}`"
      role="img"
      :aria-label="t('procedure.plan')"
      translate="no"
    >
      <template v-for="(shape, k) in document.outline" :key="k">
        <circle
          v-if="shape.shape === 'circle'"
          class="line"
          :stroke-width="thin"
          :cx="mm(shape.x)"
          :cy="-mm(shape.y)"
          :r="mm(shape.diameter) / 2"
        />
        <rect
          v-else
          class="line"
          :stroke-width="thin"
          :x="mm(shape.x) - mm(shape.width) / 2"
          :y="-mm(shape.y) - mm(shape.height) / 2"
          :width="mm(shape.width)"
          :height="mm(shape.height)"
          :rx="thin * 6"
        />
      </template>
      <g
        v-for="spot in spots"
        :key="spot.name"
        class="spot"
        :class="stands(spot.turn)"
        :transform="`translate(${spot.x} ${spot.y})`"
      >
        <circle class="nut" :r="head" :stroke-width="thin" />
        <text text-anchor="middle" :y="head * 0.36" :font-size="head * (spot.name.length > 1 ? 0.92 : 1.15)">
          {{ spot.name }}
        </text>
        <text v-if="spot.turn > 0" class="turn" :x="head * 1.12" :y="-head * 0.55" :font-size="head * 0.86">
          {{ spot.turn }}
        </text>
      </g>
    </svg>
    <figcaption v-if="names.length > 0">
      <choice-field
        v-model="chosen"
        :label="t('procedure.orders')"
        :items="names.map((name) => ({ value: name, title: name, raw: true }))"
      />
      <v-btn height="44" @click="play">{{
        playing ? t("procedure.stop_play") : t("procedure.played")
      }}</v-btn>
    </figcaption>
    <p v-if="order" class="said">
      <span v-if="order.made">
        {{ t("procedure.made", { rule: t(`procedure.rule.${order.made.rule}`) }) }}
        <span translate="no">{{ order.made.of ?? order.made.group ?? "" }}</span>
      </span>
      <span v-if="order.stated_by" translate="no">{{ order.stated_by }}</span>
    </p>
  </figure>
</template>

<style scoped>
.draft {
  margin: 0;
  width: 250px;
}

.draft.wide {
  order: -1;
  margin-bottom: 6px;
  width: 100%;
}

svg {
  display: block;
  height: 190px;
  width: 100%;
}

.line {
  fill: none;
  stroke: var(--line-strong);
}

.nut {
  fill: var(--panel-2);
  stroke: var(--ink);
}

text {
  fill: var(--ink);
  font-family: var(--figures);
}

.turn {
  fill: var(--now);
  font-weight: 700;
}

.spot.later {
  opacity: 0.42;
}

.spot.done .nut {
  fill: var(--fill);
}

.spot.done text:not(.turn) {
  fill: #fff;
}

.spot.now .nut {
  fill: var(--now);
}

.spot.now text:not(.turn) {
  fill: var(--on-now);
}

figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

figcaption .v-btn {
  font-size: var(--size-3);
  padding: 0 10px;
}

.said {
  color: var(--muted);
  font-size: var(--size-1);
  line-height: 1.3;
  margin: 4px 0 0;
}

.said span {
  display: block;
}

figcaption > :first-child {
  flex: 1 1 170px;
  max-width: 260px;
}
</style>
