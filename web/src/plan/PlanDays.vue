<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown, PlannedWork } from "@/api/types";
import { dayOf, usePlanWords } from "@/plan/plan";
import { timeText } from "@/shared/format";

/** The work of a day in its order, with the moves of the crank between. */
const props = defineProps<{ plan: PlanShown; day: string }>();
const emit = defineEmits<{ pick: [work: PlannedWork] }>();
const { t } = useI18n();
const words = usePlanWords(() => props.plan);

interface Line {
  key: string;
  at: string;
  until: string;
  work: PlannedWork | null;
  move: string;
}
const lines = computed<Line[]>(() =>
  [
    ...props.plan.work.map((work) => ({
      key: work.id,
      at: work.start_at,
      until: work.end_at,
      work,
      move: "",
    })),
    ...props.plan.moves.map((one) => ({
      key: one.start_at + String(one.to_deg),
      at: one.start_at,
      until: one.end_at,
      work: null,
      move: t("plan.move", { angle: Math.round(one.to_deg) }),
    })),
  ]
    .filter((one) => dayOf(one.at) === props.day)
    .sort((a, b) => a.at.localeCompare(b.at)),
);
const who = (work: PlannedWork): string =>
  [work.who.map(words.who).join(", "), ...work.sets, work.crane ? t("plan.crane") : ""]
    .filter(Boolean)
    .join(" · ");
</script>

<template>
  <p v-if="lines.length === 0" class="muted">{{ t("plan.day_free") }}</p>
  <ol class="plain">
    <li v-for="one in lines" :key="one.key" :class="{ move: one.work === null }">
      <span class="figure time" translate="no">{{ [timeText(one.at), timeText(one.until)].join("–") }}</span>
      <strong v-if="one.work === null" class="words">{{ one.move }}</strong>
      <button v-else type="button" class="work" @click="emit('pick', one.work)">
        <strong class="words" translate="no">{{ one.work.label }}</strong>
        <span translate="no">{{ one.work.title }}</span>
        <small class="muted" translate="no">{{ who(one.work) }}</small>
        <small class="why">{{ words.why(one.work) }}</small>
      </button>
    </li>
  </ol>
</template>

<style scoped>
li {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 14px;
  grid-template-columns: 116px minmax(0, 1fr);
  min-height: 44px;
}

.work {
  align-items: baseline;
  background: none;
  border: 0;
  color: inherit;
  display: grid;
  font: inherit;
  gap: 0 14px;
  grid-template-columns: 110px minmax(0, 1fr) minmax(0, 1fr);
  min-height: 44px;
  padding: 4px 0;
  text-align: left;
}

.work small {
  grid-column: 2;
}

.work .why {
  grid-column: 3;
  grid-row: 1 / span 2;
}

.at-narrow li,
.at-narrow .work {
  grid-template-columns: minmax(0, 1fr);
}

.at-narrow .work > * {
  grid-column: 1;
  grid-row: auto;
}

.at-narrow li {
  padding: 6px 0;
}

.time {
  font-size: var(--size-1);
}

.move {
  border-left: 4px solid var(--now);
  padding-left: 8px;
}

strong {
  font-size: var(--size-3);
}

small {
  font-size: var(--size-1);
}
</style>
