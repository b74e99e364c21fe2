<script setup lang="ts">
import WideTable from "@/shared/WideTable.vue";
import { scaleLinear } from "d3-scale";
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { StripSheet } from "@/api/types";
import { dayTimeText } from "@/shared/format";
import { useFollowedAnswer } from "@/shared/followed";
import EngineField from "@/shared/EngineField.vue";

/** At which pressure each nut came free: round the joint, against tightening, and against last time. */
const { t } = useI18n();
/** None until somebody chooses: the engine last worked on. */
const engine = ref<string | null>(null);
const AT_ONCE = 24;
const most = ref(AT_ONCE);
watch(engine, () => (most.value = AT_ONCE));
const strips = useFollowedAnswer(
  () => answerOf(api.GET("/api/strips", { params: { query: { engine: engine.value, most: most.value } } })),
  [engine, most],
);
const sheets = computed(() => strips.value?.sheets ?? null);
/** The one looked at stays, also when work elsewhere changes the order. */
const chosen = ref<string | null>(null);
const key = (one: StripSheet): string => `${one.run_id} ${one.title}`;

const sheet = computed(() => sheets.value?.find((one) => key(one) === chosen.value) ?? sheets.value?.[0]);

const WIDTH = 860;
/** Room for the words of the lines. */
const RIGHT = 136;
const HEIGHT = 330;
const LEFT = 58;
const BOTTOM = 40;
const y = computed(() => {
  const s = sheet.value;
  if (!s) return scaleLinear();
  const all = s.nuts
    .flatMap((n) => [n.tight_bar, n.free_bar, n.last_bar, n.tightened_bar])
    .concat(s.expected_bar)
    .filter((v) => v != null);
  const high = Math.max(s.ceiling_bar ?? 0, ...all) * 1.04;
  return scaleLinear([Math.min(high, ...all) * 0.9, high], [HEIGHT - BOTTOM, 16]);
});
const x = computed(() =>
  scaleLinear([-0.5, Math.max(sheet.value?.nuts.length ?? 1, 1) - 0.5], [LEFT, WIDTH - RIGHT - 10]),
);
const lines = computed(() => {
  const s = sheet.value;
  if (!s) return [];
  return [
    { key: "expected", bar: s.expected_bar },
    { key: "ceiling", bar: s.ceiling_bar },
  ].flatMap(({ key, bar }) => (bar == null ? [] : [{ key, bar }]));
});
const noted = computed(() => sheet.value?.nuts.filter((nut) => nut.free_bar != null).length ?? 0);
const whole = (value: number | null | undefined): string => (value == null ? "" : value.toFixed(0));
</script>

<template>
  <main id="content" class="strips">
    <h1 class="visually-hidden">{{ t("strips.title") }}</h1>
    <nav :aria-label="t('strips.title')">
      <engine-field
        v-if="strips?.engine"
        class="choose"
        :model-value="strips.engine"
        :engines="strips.engines"
        @update:model-value="(id) => (engine = id)"
      />
      <p v-if="sheets?.length === 0" class="none">{{ t("strips.none") }}</p>
      <button
        v-for="one in sheets ?? []"
        :key="key(one)"
        type="button"
        class="entry"
        :class="{ here: one === sheet }"
        :aria-pressed="one === sheet"
        @click="chosen = key(one)"
      >
        <span class="words" translate="no">{{ one.engine }} · {{ one.joint }}</span>
        <small translate="no">{{ one.title }} · {{ one.by }} · {{ dayTimeText(one.at) }}</small>
      </button>
      <v-btn v-if="strips?.older" height="48" @click="most += AT_ONCE">{{ t("strips.older") }}</v-btn>
    </nav>
    <section v-if="sheet">
      <h2 translate="no">{{ sheet.engine }} · {{ sheet.joint }}</h2>
      <p class="pattern">
        {{
          sheet.pattern
            ? t(`strips.pattern.${sheet.pattern}`)
            : t("strips.so_far", { n: noted, of: sheet.nuts.length })
        }}
      </p>
      <p v-if="!sheet.told && noted > 0" class="pattern muted">{{ t("strips.too_few") }}</p>
      <div class="nuts" tabindex="0" role="group" :aria-label="t('strips.title')">
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          role="img"
          :aria-label="t('strips.chart', { joint: sheet.joint })"
        >
          <path class="axis" :d="`M${LEFT} 10 V${HEIGHT - BOTTOM} H${WIDTH - RIGHT}`" />
          <text x="6" y="20">{{ "bar" }}</text>
          <g v-for="line in lines" :key="line.key">
            <path class="line" :class="line.key" :d="`M${LEFT} ${y(line.bar)} H${WIDTH - RIGHT}`" />
            <text :x="WIDTH - RIGHT + 4" :y="y(line.bar) + 5">
              {{ t(`strips.${line.key}`) }}
              <tspan class="figure" translate="no">{{ whole(line.bar) }}</tspan>
            </text>
          </g>
          <g v-for="(nut, k) in sheet.nuts" :key="nut.name" :transform="`translate(${x(k)} 0)`">
            <text class="figure name" :y="HEIGHT - 12" text-anchor="middle" translate="no">
              {{ nut.name }}
            </text>
            <path
              v-if="nut.tightened_bar != null"
              class="tightened"
              :d="`M-22 ${y(nut.tightened_bar)} h44`"
            />
            <path v-if="nut.last_bar != null" class="last" :d="`M16 ${y(nut.last_bar)} l7 -7 l7 7 l-7 7 z`" />
            <g
              v-if="nut.free_bar != null && nut.tight_bar != null"
              :class="[nut.standing, { out: nut.stands_out !== null }]"
            >
              <rect
                class="bar"
                x="-11"
                width="22"
                :y="y(nut.free_bar)"
                :height="Math.max(4, y(nut.tight_bar) - y(nut.free_bar))"
              />
              <text class="figure" :y="y(nut.free_bar) - 8" text-anchor="middle" translate="no">
                {{ whole(nut.free_bar) }}
              </text>
            </g>
          </g>
        </svg>
      </div>
      <wide-table file="strips" :label="t('strips.title')">
        <thead>
          <tr>
            <th scope="col">{{ t("strips.nut") }}</th>
            <th scope="col">{{ t("strips.free") }}</th>
            <th scope="col">{{ t("strips.tight") }}</th>
            <th scope="col">{{ t("strips.load") }}</th>
            <th scope="col">{{ t("strips.share") }}</th>
            <th scope="col">{{ t("strips.last") }}</th>
            <th scope="col">{{ t("strips.tightened") }}</th>
            <th scope="col">
              <span class="visually-hidden">{{ t("strips.expected") }}</span>
            </th>
          </tr>
        </thead>
        <tbody class="figure">
          <tr
            v-for="nut in sheet.nuts"
            :key="nut.name"
            :class="[nut.standing, { out: nut.stands_out !== null }]"
          >
            <th scope="row" translate="no">{{ nut.name }}</th>
            <td v-if="nut.free_bar == null" colspan="4">{{ t("strips.waiting") }}</td>
            <template v-else>
              <td translate="no">{{ whole(nut.free_bar) }}</td>
              <td translate="no">{{ whole(nut.tight_bar) }}</td>
              <td translate="no">
                {{ whole(nut.load_kN)
                }}<small v-if="nut.spread_kN != null">{{ ` ± ${whole(nut.spread_kN)}` }}</small>
              </td>
              <td translate="no">{{ `${whole(nut.share_pct)} %` }}</td>
            </template>
            <td translate="no">{{ whole(nut.last_bar) || "–" }}</td>
            <td translate="no">{{ whole(nut.tightened_bar) || "–" }}</td>
            <td class="words">
              {{ nut.standing ? t(`strips.class.${nut.standing}`) : "" }}
              <b v-if="nut.stands_out">· {{ t(`strips.stands_out_${nut.stands_out}`) }}</b>
            </td>
          </tr>
        </tbody>
      </wide-table>
    </section>
  </main>
</template>

<style scoped>
.strips {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  min-height: calc(100vh - 64px);
}

nav {
  background: var(--panel-2);
  border-right: 1px solid var(--line);
}

.none {
  padding: 16px;
}

.choose {
  margin: 16px 12px 12px;
}

.entry {
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  border-left: 6px solid transparent;
  color: var(--ink);
  cursor: pointer;
  display: block;
  min-height: 64px;
  padding: 9px 12px 9px 10px;
  text-align: left;
  width: 100%;
}

.entry.here {
  background: var(--panel);
  border-left-color: var(--now);
}

.entry .words {
  display: block;
  font-size: var(--size-4);
}

.entry small {
  color: var(--muted);
  font-family: var(--run);
  font-size: var(--size-1);
}

section {
  padding: 16px 24px 32px;
}

h2 {
  font-size: var(--size-5);
}

.pattern {
  font-size: var(--size-3);
  margin: 2px 0 8px;
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

.name {
  font-size: var(--size-3);
  font-weight: 700;
}

.axis,
.line {
  fill: none;
  stroke: var(--ink);
}

.line.expected {
  stroke: var(--now);
  stroke-dasharray: 3 4;
}

.line.ceiling {
  stroke: var(--out);
  stroke-width: 2;
}

.bar {
  fill: var(--fill);
}

.low .bar,
.high .bar {
  fill: var(--panel);
  stroke: var(--out);
  stroke-dasharray: 5 3;
  stroke-width: 3;
}

.tightened {
  stroke: var(--line-strong);
  stroke-width: 3;
}

.last {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}

table {
  border-collapse: collapse;
  font-size: var(--size-2);
  margin-top: 12px;
  width: 100%;
}

th,
td {
  border-top: 1px solid var(--line);
  padding: 6px 10px 6px 0;
  text-align: left;
}

td:not(.words) {
  white-space: nowrap;
}

thead th {
  border-top: 0;
  color: var(--muted);
  font-size: var(--size-1);
  font-weight: 400;
}

tr.low td.words,
tr.high td.words,
tr.out td.words {
  color: var(--out);
  font-size: var(--size-3);
}

.at-narrow .strips {
  display: block;
}

.at-narrow section {
  padding: var(--gap-3);
}

.at-narrow .nuts {
  overflow-x: auto;
}

.at-narrow .nuts svg {
  min-width: 620px;
}
</style>
