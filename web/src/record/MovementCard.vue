<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { MovedAsExpected, MovementSheet } from "@/api/types";

/** How far the fasteners moved, trip by trip; who stands out is named. */
defineProps<{ sheets: readonly MovementSheet[]; expected: readonly MovedAsExpected[] }>();
const { t } = useI18n();
const whole = (value: number): string => String(Math.round(value));
const highest = (sheet: MovementSheet): number =>
  Math.max(1, ...sheet.fasteners.map((one) => Math.max(one.moved_deg ?? 0, one.before_deg ?? 0)));
</script>

<template>
  <section class="card">
    <h2>{{ t("record.movement") }}</h2>
    <p
      v-for="one in expected"
      :key="one.group"
      class="expected"
      :class="{ odd: one.verdict.startsWith('too') }"
    >
      <b translate="no">{{ one.group }}</b>
      {{
        t(`expected.${one.verdict}`, {
          share: whole(one.share_pct),
          least: whole(one.least_pct),
          most: whole(one.most_pct),
        })
      }}
      <em v-if="one.little.length > 0">{{ t("expected.little", { names: one.little.join(", ") }) }}</em>
      <em v-if="one.much.length > 0">{{ t("expected.much", { names: one.much.join(", ") }) }}</em>
      <em v-if="one.one_of.length > 0">{{ t("expected.one_of", { names: one.one_of.join(", ") }) }}</em>
    </p>
    <article v-for="sheet in sheets" :key="`${sheet.step}/${sheet.group}`">
      <h3>
        <span translate="no">{{ sheet.title }} · {{ sheet.group }}</span>
        <small>
          {{ t("record.moved_of", { moved: sheet.moved, pulled: sheet.pulled }) }}
          <template v-if="sheet.middle_deg !== null"
            >· {{ t("record.middle", { angle: whole(sheet.middle_deg) }) }}</template
          >
          <template v-if="sheet.drop_pct !== null"
            >· {{ t("record.drop", { pct: whole(sheet.drop_pct) }) }}</template
          >
        </small>
      </h3>
      <ol class="plain">
        <li v-for="one in sheet.fasteners" :key="one.name" :class="{ odd: one.findings.length > 0 }">
          <b class="figure" translate="no">{{ one.name }}</b>
          <span class="track" aria-hidden="true">
            <i
              v-if="one.before_deg !== null"
              class="before"
              :style="{ width: `${(100 * one.before_deg) / highest(sheet)}%` }"
            />
            <i class="now" :style="{ width: `${(100 * (one.moved_deg ?? 0)) / highest(sheet)}%` }" />
          </span>
          <span class="figure n">{{
            one.moved_deg === null ? t("record.unmeasured") : `${whole(one.moved_deg)}°`
          }}</span>
          <em v-for="finding in one.findings" :key="finding">{{ t(`record.finding_${finding}`) }}</em>
        </li>
      </ol>
    </article>
  </section>
</template>

<style scoped>
.expected {
  font-size: var(--size-2);
  margin: 4px 0;
}

.expected.odd {
  border-left: 5px solid var(--out);
  padding-left: 10px;
}

h3 {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-4);
  gap: 4px 14px;
  margin: 12px 0 4px;
}

small {
  color: var(--muted);
  font-size: var(--size-2);
  font-weight: 400;
}

ol {
  columns: 3;
  column-gap: 28px;
}

li {
  align-items: center;
  break-inside: avoid;
  display: grid;
  gap: 2px 8px;
  grid-template-columns: 34px 1fr 74px;
  min-height: 24px;
}

li em {
  color: var(--out);
  font-style: normal;
  font-weight: 600;
  grid-column: 2 / -1;
}

.track {
  border-left: 1px solid var(--line-strong, currentcolor);
  display: grid;
  height: 14px;
}

.track i {
  align-self: center;
  grid-area: 1 / 1;
  height: 8px;
}

.before {
  border: 1px dashed var(--muted);
  height: 14px !important;
}

.now {
  background: var(--filled, #32505e);
}

.odd .now {
  background: repeating-linear-gradient(45deg, var(--out) 0 4px, transparent 4px 7px);
  border: 1px solid var(--out);
}

.n {
  text-align: right;
}
</style>
