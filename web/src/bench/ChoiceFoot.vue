<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { vFocusFirst } from "@/shared/focusFirst";
import type { Answer, Call } from "@/api/types";
import { useDigits } from "@/shared/shortcuts";

/** One of several answers; those that leave something open owe a word of why, or where. */
const props = defineProps<{ call: Call }>();
const emit = defineEmits<{ give: [answer: Answer] }>();
const i18n = useI18n();
const { t } = i18n;
const chosen = ref<string | null>(null);
const note = ref("");
const mark = ref("");
watch(
  () => `${props.call.cell}/${props.call.attempt}`,
  () => {
    chosen.value = null;
    note.value = "";
    mark.value = "";
  },
);
/** Codes have words; names of parts are the author's. */
const coded = computed(() => props.call.choices.every((one) => i18n.te(`choice.${one}`)));

/** While a word is written for one answer the others make room; the chosen one pressed again brings them back. */
const offered = computed(() => (chosen.value === null ? props.call.choices : [chosen.value]));

function choose(choice: string): void {
  if (choice === chosen.value) chosen.value = null;
  else if (props.call.owing.includes(choice)) chosen.value = choice;
  else emit("give", { type: "choice", choice, piece: piece() });
}
/** A fastener that could have gone back and does not is known by its mark from then on. */
const marked = computed(() => props.call.marked);
const whole = computed(
  () => note.value.trim() !== "" && (chosen.value !== "replace" || !marked.value || mark.value.trim() !== ""),
);
const piece = (): string | null => (mark.value.trim() === "" ? null : mark.value.trim());

/** While a word is written the digits are its own. */
useDigits(
  () => `${props.call.cell}/${props.call.attempt}`,
  (k) => {
    const choice = chosen.value === null ? props.call.choices[k] : undefined;
    if (choice !== undefined) choose(choice);
  },
);

function give(): void {
  if (chosen.value === null || !whole.value) return;
  emit("give", { type: "choice", choice: chosen.value, note: note.value.trim(), piece: piece() });
}
</script>

<template>
  <form class="choices" @submit.prevent="give">
    <v-btn
      v-for="(choice, k) in offered"
      :key="choice"
      :class="{ main: k === 0 && chosen === null }"
      :aria-pressed="choice === chosen"
      @click="choose(choice)"
    >
      <span v-if="coded">{{ t(`choice.${choice}`) }}</span>
      <span v-else translate="no">{{ choice }}</span>
      <span v-if="chosen === null" class="key" aria-hidden="true" translate="no">{{ k + 1 }}</span>
    </v-btn>
    <v-text-field v-if="marked" v-model="mark" :label="t('bench.mark')" maxlength="40" />
    <template v-if="chosen !== null">
      <v-text-field v-model="note" v-focus-first :label="t('bench.why_where')" maxlength="400" />
      <v-btn class="main" type="submit" :disabled="!whole">{{ t("ui.confirm") }}</v-btn>
    </template>
  </form>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 8px;
}

.v-btn {
  font-size: var(--size-5);
  height: 68px !important;
}

.v-btn[aria-pressed="true"] {
  border: 3px solid var(--now);
}

label {
  display: grid;
  font-size: var(--size-4);
  gap: 5px;
}

input {
  background: var(--ground);
  border: 2px solid var(--line-strong);
  color: var(--ink);
  font-size: var(--size-4);
  height: 60px;
  padding: 0 12px;
}

input:focus-visible {
  outline: 3px solid var(--now);
}
</style>
