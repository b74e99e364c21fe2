<script setup lang="ts">
import WideTable from "@/shared/WideTable.vue";
import { useId } from "vue";
import { useI18n } from "vue-i18n";
import type { Row } from "@/api/types";
import { useWords } from "@/bench/words";
import VerdictMark from "@/bench/VerdictMark.vue";
import { dayTimeText, figureText, numberText, secondsText } from "@/shared/format";

defineProps<{ rows: readonly Row[]; caption: string; stud?: string | undefined }>();
const { t } = useI18n();
const id = useId();
const words = useWords();

function band(row: Row): string {
  if (row.lower && row.upper) return `${numberText(row.lower.text)} … ${figureText(row.upper)}`;
  if (row.upper) return `≤ ${figureText(row.upper)}`;
  return row.lower ? `≥ ${figureText(row.lower)}` : "";
}
</script>

<template>
  <wide-table :labelledby="id">
    <caption :id="id" class="visually-hidden" translate="no">
      {{
        caption
      }}
    </caption>
    <thead>
      <tr>
        <th scope="col">{{ t("record.what") }}</th>
        <th scope="col" class="n">{{ t("record.read") }}</th>
        <th scope="col" class="n">{{ t("record.judged") }}</th>
        <th scope="col">{{ t("record.band") }}</th>
        <th scope="col">{{ t("record.verdict") }}</th>
        <th scope="col">{{ t("record.tool") }}</th>
        <th scope="col">{{ t("record.by") }}</th>
        <th scope="col">{{ t("record.at") }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="row in rows"
        :key="`${row.cell}/${row.attempt}`"
        :class="{ off: row.struck || row.fallen }"
        :aria-current="(stud !== undefined && row.fastener === stud) || undefined"
      >
        <td class="what">
          <b v-if="row.fastener" class="figure" translate="no">{{ row.fastener }}</b>
          <span v-if="words.authored(row)" translate="no">{{ row.text }}</span>
          <span v-else>{{ words.item(row.item) }}</span>
        </td>
        <td class="n figure value">
          <component :is="row.struck || row.fallen ? 's' : 'span'">
            <span v-if="row.read" translate="no">{{ figureText(row.read) }}</span>
            <template v-else>{{ words.answer(row) }}</template>
          </component>
        </td>
        <td class="n figure" translate="no">{{ figureText(row.judged ?? row.corrected) }}</td>
        <td class="figure band" translate="no">{{ band(row) }}</td>
        <td>
          <verdict-mark :row="row" />
          <span v-if="row.verdict === 'out_of_band' || row.verdict === 'too_near'" class="aside">
            {{ words.reasons(row.reasons) }}
          </span>
          <i18n-t v-if="row.made_at" keypath="record.made_at" scope="global" tag="span" class="aside">
            <template #at
              ><span translate="no">{{ dayTimeText(row.made_at) }}</span></template
            >
          </i18n-t>
          <i18n-t v-if="row.written" keypath="sheet.from_paper" scope="global" tag="span" class="aside">
            <template #by
              ><span translate="no">{{ row.written.by }}</span></template
            >
            <template #at
              ><span translate="no">{{ dayTimeText(row.written.at) }}</span></template
            >
          </i18n-t>
          <span v-if="row.note" class="aside" translate="no">{{ row.note }}</span>
          <i18n-t v-if="row.struck" keypath="record.struck_by" scope="global" tag="span" class="aside">
            <template #by
              ><span translate="no">{{ row.struck.by }}</span></template
            >
            <template #at
              ><span translate="no">{{ dayTimeText(row.struck.at) }}</span></template
            >
            <template #reason>
              <span v-if="row.struck.reason" translate="no">{{ row.struck.reason }}</span>
              <template v-else>{{ t("record.struck_no_reason") }}</template>
            </template>
          </i18n-t>
          <i18n-t v-if="row.accepted" keypath="record.accepted_by" scope="global" tag="span" class="aside">
            <template #by
              ><span translate="no">{{ row.accepted.by }}</span></template
            >
            <template #at
              ><span translate="no">{{ dayTimeText(row.accepted.at) }}</span></template
            >
            <template #reason
              ><span translate="no">{{ row.accepted.reason }}</span></template
            >
          </i18n-t>
          <i18n-t v-if="row.rejected" keypath="record.rejected_by" scope="global" tag="span" class="aside">
            <template #piece
              ><span translate="no">{{ row.rejected.piece }}</span></template
            >
            <template #by
              ><span translate="no">{{ row.rejected.by }}</span></template
            >
            <template #at
              ><span translate="no">{{ dayTimeText(row.rejected.at) }}</span></template
            >
            <template #reason
              ><span translate="no">{{ row.rejected.reason }}</span></template
            >
          </i18n-t>
          <span v-if="row.fallen" class="aside">{{ t("record.fallen") }}</span>
        </td>
        <td class="figure" translate="no">{{ row.tool }}</td>
        <td translate="no">{{ row.by }}</td>
        <td class="figure" translate="no">{{ secondsText(row.at) }}</td>
      </tr>
    </tbody>
  </wide-table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  font-size: var(--size-1);
  table-layout: fixed;
  width: 100%;
}

th {
  border-bottom: 1px solid var(--ink);
  font-family: var(--words);
  font-size: var(--size-2);
  padding: 3px 8px;
  text-align: left;
}

th:nth-child(1) {
  width: 25%;
}

th:nth-child(2),
th:nth-child(3) {
  width: 10%;
}

th:nth-child(4) {
  width: 15%;
}

th:nth-child(5) {
  width: 17%;
}

th:nth-child(6) {
  width: 7%;
}

th:nth-child(8) {
  width: 7%;
}

td {
  border-bottom: 1px solid var(--line);
  padding: 5px 8px;
  vertical-align: top;
}

.n {
  text-align: right;
}

td.figure {
  font-size: var(--size-1);
}

.what b {
  margin-right: 8px;
}

s {
  text-decoration-thickness: 2px;
}

.aside {
  display: block;
  font-size: var(--size-1);
}
</style>
