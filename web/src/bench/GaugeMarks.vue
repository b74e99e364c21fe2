<script setup lang="ts">
import { computed } from "vue";
import type { Measuring } from "@/api/types";
import { turned, type Orientation, type Place } from "@/bench/turning";

/** Where the gauge stands in the measurement at work: across a bore, or with its tip on a point. */
const props = defineProps<{ measuring: Measuring; orientation: Orientation; reach: number }>();

interface Across {
  label: string;
  state: string;
  from: Place;
  to: Place;
}
interface Tip {
  label: string;
  state: string;
  at: Place;
  /** Turn of the tip on the screen; null where it stands onto the face. */
  turn: number | null;
}

/** A place so far from another, in a direction of the plan, as it is seen on the screen. */
function away(x: number, y: number, deg: number, far: number): Place {
  const rad = (deg * Math.PI) / 180;
  return turned({ x: x + far * Math.cos(rad), y: y + far * Math.sin(rad) }, props.orientation);
}

const across = computed<Across[]>(() =>
  props.measuring.marks.flatMap((mark) => {
    const { across_mm: span, points_deg: deg } = mark;
    if (span === null || deg === null) return [];
    const [from, to] = [away(mark.x, mark.y, deg + 180, span / 2), away(mark.x, mark.y, deg, span / 2)];
    return [{ label: mark.label, state: mark.state, from, to }];
  }),
);
const tips = computed<Tip[]>(() =>
  props.measuring.marks
    .filter((mark) => mark.across_mm === null)
    .map((mark) => {
      const at = turned(mark, props.orientation);
      if (mark.points_deg === null) return { label: mark.label, state: mark.state, at, turn: null };
      const ahead = away(mark.x, mark.y, mark.points_deg, 1);
      const turn = (Math.atan2(ahead.y - at.y, ahead.x - at.x) * 180) / Math.PI;
      return { label: mark.label, state: mark.state, at, turn };
    }),
);
const size = computed(() => props.reach / 14);
const SECTION = { left: 1.16, width: 0.2, high: 0.82 };
const depths = computed(() =>
  props.measuring.depths.map((depth) => ({
    ...depth,
    y: props.reach * SECTION.high * (2 * 0.94 * depth.share - 1),
  })),
);
</script>

<template>
  <g class="gauges" aria-hidden="true">
    <g v-for="one in across" :key="one.label" :class="one.state">
      <line :x1="one.from.x" :y1="one.from.y" :x2="one.to.x" :y2="one.to.y" />
      <template v-if="one.state === 'now'">
        <circle :cx="one.from.x" :cy="one.from.y" :r="size * 0.7" />
        <circle :cx="one.to.x" :cy="one.to.y" :r="size * 0.7" />
      </template>
    </g>
    <g
      v-for="tip in tips"
      :key="tip.label"
      :class="tip.state"
      :transform="`translate(${tip.at.x} ${tip.at.y}) rotate(${tip.turn ?? 0})`"
    >
      <template v-if="tip.turn === null">
        <circle :r="size" class="onto" />
        <circle :r="size * 0.3" />
      </template>
      <template v-else>
        <line :x1="-size * 3.4" :x2="-size" y1="0" y2="0" />
        <path :d="`M0 0 l${-size * 1.5} ${-size * 0.8} v${size * 1.6} z`" />
      </template>
    </g>
    <template v-if="depths.length > 0">
      <rect
        class="section"
        :x="reach * SECTION.left"
        :y="-reach * SECTION.high"
        :width="reach * SECTION.width"
        :height="reach * SECTION.high * 2"
      />
      <g v-for="depth in depths" :key="depth.label" :class="depth.state">
        <line
          :x1="reach * SECTION.left"
          :x2="reach * (SECTION.left + SECTION.width)"
          :y1="depth.y"
          :y2="depth.y"
        />
        <text
          class="figure"
          :x="reach * (SECTION.left + SECTION.width + 0.04)"
          :y="depth.y + size * 0.6"
          :font-size="size * (depth.state === 'now' ? 1.7 : 1.4)"
          translate="no"
        >
          {{ depth.label }}
        </text>
      </g>
    </template>
  </g>
</template>

<style scoped>
.gauges {
  pointer-events: none;
}

line,
.onto {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: calc(var(--hair) * 1.2);
}

circle,
path {
  fill: var(--line-strong);
}

.todo line {
  stroke-dasharray: calc(var(--hair) * 3) calc(var(--hair) * 3);
}

.done line,
.done .onto {
  stroke: var(--ink);
}

.done circle,
.done path {
  fill: var(--ink);
}

.now line,
.now .onto {
  stroke: var(--now);
  stroke-width: calc(var(--hair) * 2.6);
}

.now circle,
.now path {
  fill: var(--now);
}

.done .onto,
.now .onto,
.onto {
  fill: none;
}

.section {
  fill: none;
  stroke: var(--line);
  stroke-width: var(--hair);
}

text {
  fill: var(--muted);
}

.now text {
  fill: var(--ink);
  font-weight: 700;
}
</style>
