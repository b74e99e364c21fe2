<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { OpenQuestion } from "@/api/types";
import { useWords } from "@/bench/words";
import VerdictMark from "@/components/bench/VerdictMark.vue";
import { figureText } from "@/format";

defineProps<{ question: OpenQuestion; mayAccept: boolean }>();
const emit = defineEmits<{ strike: []; redo: []; accept: [] }>();
const { t } = useI18n();
const words = useWords();
</script>

<template>
  <section class="question" role="alert">
    <p class="words what">
      <span translate="no">{{ question.row.title }}</span>
      <span v-if="question.row.fastener">{{
        t(`bench.${question.row.piece}`, { name: question.row.fastener })
      }}</span>
      <span>{{ words.item(question.row.kind, question.row.item) }}</span>
      <span class="figure" translate="no">{{ figureText(question.row.judged ?? question.row.read) }}</span>
      <verdict-mark :row="question.row" />
    </p>
    <p class="why">{{ words.reasons(question.row.reasons) }}. {{ t("bench.question_why") }}</p>
    <div class="acts">
      <v-btn v-if="question.may_strike" @click="emit('strike')">{{ t("bench.read_again") }}</v-btn>
      <v-btn @click="emit('redo')">{{ t("bench.redo") }}</v-btn>
      <v-btn v-if="mayAccept" @click="emit('accept')">{{ t("bench.accept") }}</v-btn>
    </div>
  </section>
</template>

<style scoped>
.question {
  border: 2px solid var(--out);
  padding: 8px 12px 10px;
}

p {
  margin: 0;
}

.what {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: 21px;
  gap: 8px;
}

.what .figure {
  font-size: 19px;
}

.why {
  font-size: 14px;
}

.acts {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}

.acts .v-btn {
  flex: 1 1 0;
  font-size: 18px;
  min-width: 0;
  padding: 0 6px;
}

.acts :deep(.v-btn__content) {
  white-space: normal;
}
</style>
