<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Row } from "@/api/types";
import { useWords } from "@/bench/words";
import VerdictMark from "@/bench/VerdictMark.vue";
import { figureText, whenText } from "@/shared/format";

/** The newest reading that counts, with what became of it. */
defineProps<{ row: Row }>();
const { t } = useI18n();
const words = useWords();
</script>

<template>
  <p class="last" :class="{ hatched: row.verdict === 'out_of_band' }" aria-live="polite">
    <span class="words muted">{{ t("bench.last") }}</span>
    <span class="what words">
      <template v-if="row.fastener">{{ t(`bench.${row.noun}`, { name: row.fastener }) }} · </template>
      <span v-if="words.authored(row)" translate="no">{{ row.text }}</span>
      <template v-else>{{
        row.answer === "turn_to_mark" ? words.answer(row) : words.item(row.item)
      }}</template>
    </span>
    <span class="figure" translate="no">
      {{ figureText(row.read) }}<template v-if="row.judged"> → {{ figureText(row.judged) }}</template>
    </span>
    <verdict-mark :row="row" />
    <span class="who muted" translate="no">{{ row.by }} {{ whenText(row.at) }}</span>
  </p>
</template>

<style scoped>
.last {
  align-items: baseline;
  border-top: 1px solid var(--line);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 9px;
  margin: 0;
  padding-top: 8px;
}

.last .words {
  font-size: var(--size-3);
}

.last .who {
  font-size: var(--size-1);
  margin-left: auto;
}
</style>
