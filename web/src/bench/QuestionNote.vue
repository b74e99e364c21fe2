<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { OpenQuestion } from "@/api/types";
import { useActions } from "@/bench/actions";
import { useWords } from "@/bench/words";
import PhotoButton from "@/bench/PhotoButton.vue";
import VerdictMark from "@/bench/VerdictMark.vue";
import { figureText } from "@/shared/format";
import TwoLines from "@/shared/TwoLines.vue";
import NeedsTag from "@/shared/NeedsTag.vue";

/** A reading outside or too near its limits, and what may be done about it. */
const props = defineProps<{ question: OpenQuestion }>();
const { t } = useI18n();
/** Under too much pressure nobody reads long: the one reason that matters, and what to do. */
const why = computed(() => {
  const all = props.question.row.reasons;
  return props.question.let_down_first ? all.slice(0, 1) : all;
});
/** Letting the oil off comes before everything; what nobody can accept says so. */
const whatNow = computed(() => {
  if (props.question.let_down_first) return t("bench.let_down_first");
  return t(props.question.may_accept ? "bench.question_why" : "bench.question_never");
});
const words = useWords();
const actions = useActions();
</script>

<template>
  <section
    class="note question"
    :class="{ pictured: !question.let_down_first, beside: question.let_down_first }"
    role="alert"
  >
    <p class="words what">
      <span translate="no">{{ question.row.title }}</span>
      <span v-if="question.row.fastener">{{
        t(`bench.${question.row.noun}`, { name: question.row.fastener })
      }}</span>
      <span>{{ words.item(question.row.item) }}</span>
      <span class="figure" translate="no">{{ figureText(question.row.judged ?? question.row.read) }}</span>
      <verdict-mark :row="question.row" />
    </p>
    <p class="why">{{ words.reasons(why) }}. {{ whatNow }}</p>
    <photo-button v-if="!question.let_down_first" :cell="question.row.cell" :taken="null" small />
    <div class="ways">
      <v-btn v-if="question.may_strike" @click="actions.strike(question.row)"
        ><two-lines :word="t('bench.read_again')" :then="t('bench.then_read_again')"
      /></v-btn>
      <v-btn v-if="question.may_redo" @click="actions.askRedo(question.row)"
        ><two-lines :word="t('bench.redo')" :then="t('bench.then_redo')"
      /></v-btn>
      <v-btn
        v-if="question.may_concern_sisters"
        @click="actions.dialog.value = { kind: 'cause', cell: question.row.cell }"
        ><two-lines :word="t('bench.cause')" :then="t('bench.then_cause')"
      /></v-btn>
      <v-btn
        v-if="question.may_reject"
        @click="actions.dialog.value = { kind: 'reject', row: question.row, piece: '' }"
        ><two-lines :word="t('bench.reject')" :then="t('bench.then_reject')"
          ><needs-tag act="accept" /></two-lines
      ></v-btn>
      <v-btn v-if="question.may_accept" @click="actions.dialog.value = { kind: 'accept', row: question.row }"
        ><two-lines :word="t('bench.accept')" :then="t('bench.then_accept')"
          ><needs-tag act="accept" /></two-lines
      ></v-btn>
    </div>
  </section>
</template>

<style scoped>
/* Letting the oil off is the call below: the note takes no more room than its words. */
.beside {
  align-items: center;
  display: grid;
  gap: 0 10px;
  grid-template-columns: minmax(0, 1fr) 132px;
}

.beside .ways {
  grid-column: 2;
  grid-row: 1 / span 2;
  margin: 0;
}

.beside .ways .v-btn {
  white-space: normal;
}

.what {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-4);
  gap: 8px;
}

.what .figure {
  font-size: var(--size-3);
}
</style>
