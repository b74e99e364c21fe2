<script setup lang="ts">
import { scaleLinear } from "d3-scale";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { counted } from "@/shared/problem";
import { api, answerOf } from "@/api/client";
import type { EngineGates, GateSheet } from "@/api/types";
import { useFollowedAnswer } from "@/shared/followed";
import EngineField from "@/shared/EngineField.vue";
import { numberText } from "@/shared/format";

/** Gate readings with their limits, each at its place along the engine. */
const i18n = useI18n();
const { t } = i18n;
/** None until somebody chooses: the engine last worked on. */
const engine = ref<string | null>(null);
const gates = useFollowedAnswer(
  () => answerOf(api.GET("/api/gates", { params: { query: { engine: engine.value } } })),
  [engine],
);
const along = computed(() => (gates.value?.along ? [gates.value.along] : []));

const WIDTH = 760;
const HEIGHT = 190;
const LEFT = 88;
const TOP = 16;
const BOTTOM = 34;

interface Panel {
  key: string;
  engine: EngineGates;
  measure: string;
  gates: GateSheet[];
}
/** Pictures with limits come first, words last. */
function rank(panel: Panel): number {
  if (!drawable(panel)) return 2;
  return panel.gates.some((g) => g.lower != null || g.upper != null) ? 0 : 1;
}
/** One picture for each kind of measurement on an engine, its joints side by side. */
const panels = computed<Panel[]>(() =>
  along.value.flatMap((engine) => {
    const byMeasure = new Map<string, GateSheet[]>();
    for (const gate of engine.gates)
      byMeasure.set(gate.measure, [...(byMeasure.get(gate.measure) ?? []), gate]);
    const all = [...byMeasure].map(([measure, gates]) => ({
      key: engine.engine + measure,
      engine,
      measure,
      gates,
    }));
    return all.sort((a, b) => rank(a) - rank(b));
  }),
);

function scale(panel: Panel): (value: number) => number {
  const values = panel.gates
    .flatMap((g) => [...g.points.map((p) => p.value), g.lower, g.upper])
    .filter((v): v is number => v != null);
  const low = Math.min(...values, Infinity);
  const high = Math.max(...values, -Infinity);
  const pad = Math.max((high - low) * 0.18, 0.005);
  return scaleLinear([low - pad, high + pad], [HEIGHT - BOTTOM, TOP]);
}
const x = (panel: Panel, slot: number): number =>
  scaleLinear([-1, panel.engine.pitches], [LEFT, WIDTH - 20])(slot);
/** A blade goes in or not; there is nothing to draw. */
function drawable(panel: Panel): boolean {
  return panel.gates.some((g) => g.points.some((p) => p.value != null));
}
/** Numbers beside the picture: the limits, or how far the readings reach when there are none. */
function marks(panel: Panel): number[] {
  const limits = panel.gates.flatMap((g) => [g.lower, g.upper]).filter((v): v is number => v != null);
  const read = panel.gates.flatMap((g) => g.points.map((p) => p.value)).filter((v): v is number => v != null);
  const all = limits.length > 0 ? limits : read;
  return [...new Set([Math.max(...all), Math.min(...all)])];
}
const shown = (value: number | null | undefined): string =>
  value == null ? "–" : numberText(value.toFixed(3));
</script>

<template>
  <main id="content" class="gates">
    <h1 class="visually-hidden">{{ t("gates.title") }}</h1>
    <engine-field
      v-if="gates?.along"
      class="choose"
      :model-value="gates.along.id"
      :engines="gates.engines"
      @update:model-value="(id) => (engine = id)"
    />
    <p v-if="gates && panels.length === 0">{{ t("gates.none") }}</p>
    <section v-for="panel in panels" :key="panel.key">
      <header>
        <h2>{{ t(`procedure.code.${panel.measure}`) }}</h2>
        <p class="muted" translate="no">{{ panel.engine.engine }}</p>
        <p v-if="panel.gates[0]?.lower != null || panel.gates[0]?.upper != null" class="muted">
          {{ t("gates.limits", { low: shown(panel.gates[0].lower), high: shown(panel.gates[0].upper) }) }}
        </p>
      </header>
      <div class="both" :class="{ plain: !drawable(panel) }">
        <div
          v-if="drawable(panel)"
          class="drawn"
          tabindex="0"
          role="group"
          :aria-label="t(`procedure.code.${panel.measure}`)"
        >
          <svg
            :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
            role="img"
            :aria-label="
              t('gates.chart', { what: t(`procedure.code.${panel.measure}`), engine: panel.engine.engine })
            "
          >
            <path class="axis" :d="`M${LEFT - 14} ${HEIGHT - BOTTOM} H${WIDTH}`" />
            <text
              v-for="mark in marks(panel)"
              :key="mark"
              class="figure"
              :x="LEFT - 14"
              :y="scale(panel)(mark) + 5"
              text-anchor="end"
              translate="no"
            >
              {{ shown(mark) }}
            </text>
            <g v-for="gate in panel.gates" :key="gate.joint + gate.title">
              <rect
                v-if="gate.lower != null && gate.upper != null"
                class="band"
                :x="x(panel, gate.slot) - 34"
                width="68"
                :y="scale(panel)(gate.upper)"
                :height="scale(panel)(gate.lower) - scale(panel)(gate.upper)"
              />
              <path
                v-for="side in [gate.lower, gate.upper].filter((v) => v != null)"
                :key="side ?? 0"
                class="limit"
                :d="`M${x(panel, gate.slot) - 38} ${scale(panel)(side ?? 0)} h76`"
              />
              <g v-for="(point, k) in gate.points" :key="k">
                <circle
                  v-if="point.value != null"
                  :class="point.verdict"
                  :cx="x(panel, gate.slot) - 26 + (52 * (k + 0.5)) / gate.points.length"
                  :cy="scale(panel)(point.value)"
                  :r="point.verdict === 'out_of_band' ? 6 : 4.5"
                />
              </g>
              <text :x="x(panel, gate.slot)" :y="HEIGHT - 12" text-anchor="middle" translate="no">
                {{ gate.joint }}
              </text>
            </g>
          </svg>
        </div>
        <ul class="plain">
          <li v-for="gate in panel.gates" :key="gate.joint + gate.title">
            <router-link class="words to-record" :to="{ name: 'record', params: { run: gate.run_id } }">
              <span translate="no">{{ gate.joint }} · {{ gate.title }}</span>
            </router-link>
            <span v-for="figure in gate.figures" :key="figure.label" class="figures">
              {{ t(`item.${figure.label}`) }} <b class="figure" translate="no">{{ shown(figure.value) }}</b>
              <small v-if="figure.upper != null" class="muted"
                >{{ t("bench.at_most") }} <span translate="no">{{ shown(figure.upper) }}</span></small
              >
            </span>
            <template v-if="!drawable(panel)">
              <span v-for="point in gate.points" :key="point.label" class="figures">
                <span translate="no">{{ point.label }}</span>
                <b class="words">{{ t(`verdict.${point.verdict ?? "noted"}`) }}</b>
              </span>
            </template>
            <span v-if="gate.part" class="part words">{{ t("gates.chosen", { part: gate.part }) }}</span>
            <span v-for="point in gate.points.filter((p) => p.tries > 1)" :key="point.label" class="muted">
              <span translate="no">{{ point.label }}</span>:
              {{ counted(i18n, "gates.tries", { n: point.tries }) }}
            </span>
          </li>
        </ul>
      </div>
      <p v-if="drawable(panel)" class="ends muted words">
        <span translate="no">{{ panel.engine.left_end }}</span>
        <span translate="no">{{ panel.engine.right_end }}</span>
      </p>
    </section>
  </main>
</template>

<style scoped>
.gates {
  display: grid;
  gap: 14px;
  padding: 18px 24px 32px;
}

.choose {
  max-width: 340px;
}

.at-phone .choose {
  max-width: none;
}

section {
  background: var(--panel);
  border: 1px solid var(--line);
  padding: 12px 20px 6px;
}

header {
  align-items: baseline;
  display: flex;
  gap: 16px;
}

header p {
  margin: 0;
}

h2 {
  font-size: var(--size-5);
}

h2::first-letter {
  text-transform: uppercase;
}

.both {
  display: grid;
  gap: 20px;
  grid-template-columns: minmax(0, 2.2fr) minmax(0, 1fr);
}

.both.plain {
  grid-template-columns: 1fr;
}

svg {
  display: block;
  width: 100%;
}

.axis {
  stroke: var(--line-strong);
}

.band {
  fill: var(--fill);
  opacity: 0.16;
}

.limit {
  stroke: var(--ink);
  stroke-width: 1.6;
}

circle {
  fill: var(--fill);
}

circle.out_of_band {
  fill: var(--panel);
  stroke: var(--out);
  stroke-dasharray: 3 2;
  stroke-width: 3;
}

circle.too_near {
  fill: var(--panel);
  stroke: var(--doubt);
  stroke-dasharray: 1 3;
  stroke-width: 3;
}

text {
  fill: var(--ink);
  font-family: var(--run);
  font-size: var(--size-1);
}

li {
  border-top: 1px solid var(--line);
  padding: 6px 0;
}

li a {
  color: var(--ink);
  display: block;
  font-size: var(--size-3);
}

.figures,
.part {
  display: inline-flex;
  align-items: baseline;
  flex-wrap: wrap;
  font-size: var(--size-2);
  gap: 0 8px;
  margin-right: 22px;
  max-width: 100%;
}

.part {
  font-size: var(--size-3);
}

.ends {
  display: flex;
  justify-content: space-between;
  margin: 0 33% 0 0;
}

.at-narrow .ends {
  margin-right: 0;
}

.at-narrow .gates {
  padding: var(--gap-3);
}

.at-narrow section {
  padding: var(--gap-3);
}

.at-narrow header {
  flex-wrap: wrap;
}

.at-narrow .both {
  grid-template-columns: minmax(0, 1fr);
}

.at-narrow .drawn {
  overflow-x: auto;
}

.at-narrow .drawn svg {
  min-width: 560px;
}

.to-record {
  align-items: center;
  display: inline-flex;
  min-height: var(--touch);
}

.to-record {
  margin-right: var(--gap-3);
}
</style>
