<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown } from "@/api/types";
import { dayTimeText } from "@/shared/format";

/** The crank's circle with its visits in order: how often it is turned, and where it goes twice. */
const props = defineProps<{ moves: PlanShown["moves"]; cycle: number }>();
const { t } = useI18n();
const R = 78;
const turn = (deg: number): number => (deg / props.cycle) * 2 * Math.PI - Math.PI / 2;
const at = (deg: number, r: number): { x: number; y: number } => ({
  x: 110 + r * Math.cos(turn(deg)),
  y: 110 + r * Math.sin(turn(deg)),
});
const SAME_DEG = 4;
/** Visits of one angle stand beside each other: the second of them is one too many, or had to be. */
const spots = computed(() => {
  const found: { deg: number; visits: number[] }[] = [];
  props.moves.forEach((move, k) => {
    const spot = found.find((one) => Math.abs(one.deg - move.to_deg) < SAME_DEG);
    if (spot) spot.visits.push(k + 1);
    else found.push({ deg: move.to_deg, visits: [k + 1] });
  });
  return found.map((spot) => ({
    ...spot,
    inner: at(spot.deg, R - 8),
    outer: at(spot.deg, R + 8),
    label: at(spot.deg, R + 20),
    often: spot.visits.length > 1,
  }));
});
</script>

<template>
  <div class="wheel">
    <svg viewBox="0 0 220 220" aria-hidden="true" translate="no">
      <circle cx="110" cy="110" :r="R" />
      <g v-for="spot in spots" :key="spot.deg">
        <line
          :x1="spot.inner.x"
          :y1="spot.inner.y"
          :x2="spot.outer.x"
          :y2="spot.outer.y"
          :class="{ often: spot.often }"
        />
        <text :x="spot.label.x" :y="spot.label.y">{{ spot.visits[0] }}{{ spot.often ? "+" : "" }}</text>
      </g>
    </svg>
    <ol class="plain">
      <li v-for="(move, k) in moves" :key="move.start_at">
        {{ t("plan.visit", { n: k + 1, angle: Math.round(move.to_deg), at: dayTimeText(move.start_at) }) }}
      </li>
    </ol>
  </div>
</template>

<style scoped>
.wheel {
  display: grid;
  gap: 12px;
  grid-template-columns: 240px minmax(0, 1fr);
}

.at-narrow .wheel {
  grid-template-columns: minmax(0, 1fr);
  justify-items: center;
}

svg {
  width: 240px;
}

circle {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: 2;
}

line {
  stroke: var(--ink);
  stroke-width: 3;
}

.often {
  stroke: var(--now);
  stroke-width: 5;
}

text {
  dominant-baseline: central;
  fill: var(--ink);
  font-family: var(--figures);
  font-size: 10px;
  text-anchor: middle;
}

ol {
  columns: 2;
  font-size: var(--size-1);
}

.at-narrow ol {
  columns: 1;
}

li {
  break-inside: avoid;
  padding: 2px 0;
}
</style>
