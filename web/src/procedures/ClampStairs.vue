<script setup lang="ts">
import { scaleLinear } from "d3-scale";
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Staircase } from "@/api/types";
import { numberText } from "@/shared/format";

/** The load that the stages build up in one stud, against what must not be passed. */
const props = defineProps<{ stairs: Staircase }>();
const { t } = useI18n();
const WIDTH = 470;
const HEIGHT = 270;
const LEFT = 22;
const BOTTOM = 34;
/** Room for the words of the lines. */
const RIGHT = 192;

const top = computed(() => {
  const { yield_N, ceiling_N, rating_N, stairs } = props.stairs;
  const tools = stairs.map((stair) => stair.tool_N ?? stair.most_N);
  return Math.max(yield_N, ceiling_N ?? 0, Math.min(rating_N ?? 0, yield_N * 1.15), ...tools) * 1.06;
});
const y = computed(() => scaleLinear([0, top.value], [HEIGHT - BOTTOM, 14]));
const kilo = (load: number): string => numberText((load / 1000).toFixed(load < 99_500 ? 1 : 0));
const slot = computed(() => (WIDTH - LEFT - RIGHT - 12) / Math.max(props.stairs.stairs.length, 1));
const bars = computed(() =>
  props.stairs.stairs.map((stair, k) => ({ stair, x: LEFT + 8 + k * slot.value, wide: slot.value * 0.78 })),
);
const crowded = computed(() => props.stairs.stairs.length > 4);
/** The loads of single fasteners, where the pulls of neighbours make them differ. */
const apart = computed(() => {
  const last = [...props.stairs.stairs].reverse().find((stair) => Object.keys(stair.each_N).length > 0);
  return last ? Object.entries(last.each_N).map(([name, load]) => `${name}: ${kilo(load)}`) : [];
});

interface Limit {
  key: string;
  load: number;
  hard: boolean;
}

/** Lines, their words kept from lying on one another. */
const limits = computed(() => {
  const { yield_N, allowed_N, ceiling_N, target_N, rating_N } = props.stairs;
  const stated = (key: string, load: number | null | undefined, hard: boolean): Limit[] =>
    load == null ? [] : [{ key, load, hard }];
  const all: Limit[] = [
    { key: rating_N == null ? "turned_yield" : "yield", load: yield_N, hard: true },
    ...stated("allowed", allowed_N, true),
    ...stated("rating", rating_N, false),
    ...stated("ceiling", ceiling_N, false),
    ...stated("target", target_N, false),
  ];
  let last = -Infinity;
  return all
    .filter((limit) => limit.load <= top.value)
    .sort((a, b) => b.load - a.load)
    .map((limit) => {
      const at = Math.max(y.value(limit.load) + 4, last + 18);
      last = at;
      return { ...limit, at };
    });
});
</script>

<template>
  <figure class="stairs">
    <figcaption class="words">
      {{ t("procedure.stairs") }}: <span translate="no">{{ stairs.title }}</span>
    </figcaption>
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      role="img"
      :aria-label="`${t('procedure.stairs')}: ${stairs.title}`"
    >
      <path class="axis" :d="`M${LEFT} 8 V${HEIGHT - BOTTOM} H${WIDTH - RIGHT}`" />
      <text class="small" x="0" y="12">{{ "kN" }}</text>
      <g v-for="{ stair, x, wide } in bars" :key="`${stair.step}-${stair.cycle}`">
        <rect
          v-if="stair.tool_N != null"
          class="tool"
          :x="x"
          :y="y(stair.tool_N)"
          :width="wide"
          :height="y(stair.held_N) - y(stair.tool_N)"
        />
        <rect
          class="held"
          :class="{ released: stair.released }"
          :x="x"
          :y="y(stair.held_N)"
          :width="wide"
          :height="HEIGHT - BOTTOM - y(stair.held_N)"
        />
        <path
          class="doubt"
          :d="`M${x + wide / 2} ${y(stair.most_N)} V${y(stair.least_N)} m-7 0 h14 M${x + wide / 2 - 7} ${y(stair.most_N)} h14`"
        />
        <text
          class="figure in"
          :class="{ out: y(stair.held_N) > HEIGHT - BOTTOM - 30, tight: crowded }"
          :x="x + wide / 2"
          :y="y(stair.held_N) > HEIGHT - BOTTOM - 30 ? y(stair.most_N) - 5 : HEIGHT - BOTTOM - 12"
          text-anchor="middle"
          translate="no"
        >
          {{ kilo(stair.held_N) }}
        </text>
        <text :x="x + wide / 2" :y="HEIGHT - BOTTOM + 16" text-anchor="middle" translate="no">
          {{ crowded ? (stair.aim.split(" ")[0] ?? "") : stair.aim }}
        </text>
        <text class="small" :x="x + wide / 2" :y="HEIGHT - 4" text-anchor="middle">
          <template v-if="stair.names.length > 0">
            <tspan translate="no">{{ stair.names.join(" ") }}</tspan>
          </template>
          <template v-else-if="stair.cycle > 1">{{ t("procedure.cycle", { n: stair.cycle }) }}</template>
          <template v-else-if="stair.kind === 'tension'">
            {{ stair.released ? t("procedure.released") : t("procedure.goes_on") }}
          </template>
          <template v-else>{{ t(`procedure.kind.${stair.kind}`) }}</template>
        </text>
      </g>
      <g v-for="limit in limits" :key="limit.key">
        <path
          class="limit"
          :class="[limit.key, { hard: limit.hard }]"
          :d="`M${LEFT} ${y(limit.load)} H${WIDTH - RIGHT} L${WIDTH - RIGHT + 8} ${limit.at - 4}`"
        />
        <text :x="WIDTH - RIGHT + 12" :y="limit.at">
          {{ t(`procedure.limit.${limit.key}`) }}
          <tspan class="figure" translate="no">{{ kilo(limit.load) }}</tspan>
        </text>
      </g>
    </svg>
    <p class="legend">
      <span class="swatch held" />
      {{ stairs.rating_N == null ? t("procedure.built") : t("procedure.held") }}
      <template v-if="stairs.rating_N != null"
        ><span class="swatch tool" /> {{ t("procedure.tool_load") }}</template
      >
    </p>
    <p v-if="apart.length > 0" class="legend figures">
      {{ t("procedure.each_load") }} <span translate="no">{{ apart.join("  ") }}</span>
    </p>
  </figure>
</template>

<style scoped>
.stairs {
  margin: 0 0 16px;
}

figcaption {
  font-size: var(--size-4);
}

svg {
  display: block;
  width: 100%;
}

text {
  fill: var(--ink);
  font-family: var(--run);
  font-size: var(--size-1);
}

text.small {
  font-size: var(--size-1);
}

text.in {
  fill: #fff;
  font-size: var(--size-2);
}

text.in.tight {
  font-size: var(--size-1);
}

text.in.out {
  fill: var(--ink);
}

.axis {
  fill: none;
  stroke: var(--ink);
}

.held {
  fill: #7b929c;
}

rect.held:not(.released) {
  fill: #587483;
}

rect.held.released {
  fill: var(--fill);
}

.tool {
  fill: none;
  stroke: var(--fill);
  stroke-dasharray: 3 3;
}

.doubt {
  fill: none;
  stroke: var(--now);
  stroke-width: 2;
}

.limit {
  fill: none;
  stroke: var(--line-strong);
}

.limit.hard {
  stroke: var(--out);
  stroke-width: 1.6;
}

.limit.allowed {
  stroke-dasharray: 8 4;
}

.limit.target {
  stroke: var(--now);
  stroke-dasharray: 2 3;
}

.legend {
  align-items: center;
  display: flex;
  font-size: var(--size-1);
  gap: 6px;
  margin: 4px 0 0;
}

.swatch {
  background: var(--fill);
  display: inline-block;
  height: 12px;
  margin-left: 8px;
  width: 16px;
}

.swatch.tool {
  background: none;
  border: 1.5px dashed var(--fill);
}
</style>
