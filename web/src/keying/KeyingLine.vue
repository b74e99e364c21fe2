<script setup lang="ts">
import { computed, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { PaperLine } from "@/api/types";
import { useWords } from "@/bench/words";
import VerdictMark from "@/bench/VerdictMark.vue";
import { dayTimeText, figureText, numberText, unitText } from "@/shared/format";

/** One line of a work sheet: what was asked, what stands there, or the place to type it. */
const props = defineProps<{ line: PaperLine; now: boolean; run: string }>();
const emit = defineEmits<{ keyed: [text: string, unit: string | null] }>();
const i18n = useI18n();
const { t } = i18n;
const words = useWords();
const text = ref("");
const unit = ref(props.line.units[0] ?? null);
const field = ref<HTMLInputElement | null>(null);

const aim = computed(() => {
  const { aim: target, lower, upper } = props.line;
  const band = lower && upper ? `${numberText(lower.text)} … ${numberText(upper.text)}` : "";
  const one = upper ? `≤ ${figureText(upper)}` : lower ? `≥ ${figureText(lower)}` : "";
  const of = props.line.as_stretch ? t("bench.as_stretch") : "";
  return [figureText(target), band || one, of].filter(Boolean).join("  ");
});
const choiceWord = (choice: string): string => (i18n.te(`choice.${choice}`) ? t(`choice.${choice}`) : choice);
const hint = computed(() => {
  if (props.line.ask === "choice") {
    return props.line.choices.map((one, k) => `${k + 1} ${choiceWord(one)}`).join(", ");
  }
  return i18n.te(`sheet.hint_${props.line.ask}`) ? t(`sheet.hint_${props.line.ask}`) : "";
});

function focusNow(): void {
  if (props.now && props.line.by_hand) field.value?.focus();
}
onMounted(focusNow);
watch(() => props.now, focusNow, { flush: "post" });

function nextUnit(): void {
  const units = props.line.units;
  unit.value = units[(units.indexOf(unit.value ?? "") + 1) % units.length] ?? null;
}
</script>

<template>
  <div class="line" :class="{ now, in: line.row, hatched: line.row?.verdict === 'out_of_band' }">
    <b class="figure" translate="no">{{ line.fastener }}</b>
    <span v-if="line.worded" class="what" translate="no">{{ line.text }}</span>
    <span v-else class="what">{{ words.item(line.item) }}</span>
    <span class="aim figure" translate="no">{{ aim }}</span>
    <template v-if="line.row">
      <span class="figure value" translate="no">{{
        line.row.read ? figureText(line.row.read) : words.answer(line.row)
      }}</span>
      <span class="judged">
        <verdict-mark :row="line.row" />
        <small v-if="line.row.reasons.length > 0"> {{ words.reasons(line.row.reasons) }}</small>
      </span>
      <small class="muted">
        <i18n-t v-if="line.row.written" keypath="sheet.from_paper" scope="global">
          <template #by
            ><span translate="no">{{ line.row.written.by }}</span></template
          >
          <template #at
            ><span translate="no">{{ dayTimeText(line.row.written.at) }}</span></template
          >
        </i18n-t>
      </small>
    </template>
    <template v-else-if="line.by_hand">
      <input
        ref="field"
        v-model="text"
        class="figure"
        :class="{ entry: now }"
        type="text"
        maxlength="200"
        autocomplete="off"
        :disabled="!now"
        :aria-label="[line.title, line.fastener, words.item(line.item)].filter(Boolean).join(', ')"
        @keydown.enter.prevent="emit('keyed', text, unit)"
      />
      <button
        v-if="line.units.length > 0"
        type="button"
        class="unit figure"
        :disabled="!now"
        @click="nextUnit"
      >
        <span translate="no">{{ unitText(unit ?? "") }}</span>
        <span class="visually-hidden">{{ t("ui.unit") }}</span>
      </button>
      <small v-else class="muted hint">{{ hint }}</small>
    </template>
    <router-link v-else class="words to-bench" :to="{ name: 'bench', params: { run } }">{{
      t("sheet.bench")
    }}</router-link>
  </div>
</template>

<style scoped>
.line {
  align-items: center;
  border-bottom: 1px solid var(--line);
  display: grid;
  gap: 4px 14px;
  grid-template-columns: 40px minmax(0, 1fr) 210px 160px minmax(110px, 200px) 150px;
  min-height: 38px;
  padding: 2px 6px;
}

.line.now {
  background: #fff;
  outline: 2px solid var(--now);
}

.what {
  font-size: var(--size-2);
}

.aim {
  font-size: var(--size-1);
  text-align: right;
  white-space: pre;
}

.value {
  font-weight: 700;
}

.hint {
  grid-column: span 2;
}

input {
  border-radius: 0;
  background: #fff;
  border: 1px solid var(--line);
  color: var(--ink);
  font-size: var(--size-3);
  min-height: 32px;
  padding: 0 8px;
  width: 100%;
}

input:focus-visible {
  outline: 3px solid var(--now);
  outline-offset: 0;
}

.now input {
  border: 2px solid var(--ink);
  min-height: 48px;
}

.unit {
  background: none;
  border: 1px solid var(--line);
  color: var(--ink);
  min-height: 32px;
}

.now .unit {
  min-height: 48px;
}

.at-narrow .line {
  display: flex;
  flex-wrap: wrap;
  padding: var(--gap-2) 0;
}

.at-narrow .line > * {
  max-width: 100%;
  min-width: 0;
}

.at-narrow .line input {
  flex: 1 1 90px;
  width: auto;
}

.at-narrow .line .unit {
  min-width: var(--touch);
}

.at-narrow .aim {
  white-space: normal;
}

button.unit {
  min-height: var(--touch);
  min-width: var(--touch);
}

.to-bench {
  align-items: center;
  display: inline-flex;
  min-height: var(--touch);
}

.judged {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-2);
}
</style>
