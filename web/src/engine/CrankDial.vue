<script setup lang="ts">
import { computed } from "vue";
import type { CrankView } from "@/api/types";

/** The crank's circle with the firing dead centre of each cylinder, and where it stands. */
const props = defineProps<{ crank: CrankView }>();
const R = 70;
const turn = (deg: number): number => (deg / props.crank.cycle_deg) * 2 * Math.PI - Math.PI / 2;
const at = (deg: number, r: number): { x: number; y: number } => ({
  x: 100 + r * Math.cos(turn(deg)),
  y: 100 + r * Math.sin(turn(deg)),
});
const marks = computed(() =>
  Object.entries(props.crank.dead_centres).map(([name, deg]) => ({
    name,
    inner: at(deg, R - 7),
    outer: at(deg, R + 7),
    label: at(deg, R + 19),
    here: props.crank.at_top.includes(name),
  })),
);
const hand = computed(() => (props.crank.angle_deg === null ? null : at(props.crank.angle_deg, R - 10)));
</script>

<template>
  <svg class="dial" viewBox="0 0 200 200" aria-hidden="true" translate="no">
    <circle cx="100" cy="100" :r="R" />
    <g v-for="mark in marks" :key="mark.name">
      <line :x1="mark.inner.x" :y1="mark.inner.y" :x2="mark.outer.x" :y2="mark.outer.y" />
      <text :x="mark.label.x" :y="mark.label.y" :class="{ here: mark.here }">{{ mark.name }}</text>
    </g>
    <template v-if="hand">
      <line class="hand" x1="100" y1="100" :x2="hand.x" :y2="hand.y" />
      <circle class="hub" cx="100" cy="100" r="7" />
    </template>
    <circle v-else class="lost" cx="100" cy="100" r="26" />
  </svg>
</template>

<style scoped>
.dial {
  display: block;
  height: 180px;
  width: 180px;
}

circle {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: 2;
}

line {
  stroke: var(--ink);
  stroke-width: 2;
}

.hand {
  stroke: var(--now);
  stroke-width: 6;
}

.hub {
  fill: var(--now);
  stroke: none;
}

text {
  dominant-baseline: central;
  fill: var(--muted);
  font-family: var(--figures);
  font-size: 14px;
  text-anchor: middle;
}

.here {
  fill: var(--ink);
  font-weight: 700;
}

.lost {
  stroke-dasharray: 4 5;
}
</style>
