<script setup lang="ts">
import ChoiceField from "@/shared/ChoiceField.vue";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";
import { useDisplay } from "vuetify";
import type { AskedField, QuestionListed, QuestionName, StudPreset } from "@/api/types";
import ProblemNote from "@/shared/ProblemNote.vue";
import { problemText } from "@/shared/problem";
import { counting, useReckoner } from "@/reckoner/useReckoner";
import { useShortcuts, type Shortcuts } from "@/shared/shortcuts";
import AnswerPanel from "@/reckoner/AnswerPanel.vue";
import FieldBox from "@/reckoner/FieldBox.vue";
import QuestionPicture from "@/reckoner/QuestionPicture.vue";
import WhyLines from "@/reckoner/WhyLines.vue";

const props = defineProps<{ questions: QuestionListed[]; studs: StudPreset[]; wanted: string }>();
const i18n = useI18n();
const { t } = i18n;
const router = useRouter();
const GROUPS = ["ask", "stud", "tool", "doubt"] as const;

const name = computed<QuestionName>(
  () => (props.questions.find((q) => q.name === props.wanted) ?? props.questions[0])?.name as QuestionName,
);
const { entries, units, answer, problem, unsent, fields, current, ask } = useReckoner(props.questions, name);
const focus = ref<string | null>(null);

const groups = computed(() =>
  GROUPS.map((group) => ({
    group,
    fields: counting(fields(), current()).filter((f) => f.group === group),
  })).filter((shown) => shown.fields.length > 0),
);
const names = computed(() => new Set(fields().map((field) => field.name)));
const gap = computed(() => {
  const param = problem.value?.params["name"];
  const empty =
    problem.value?.code === "refusal.E_DATA" && typeof param === "string" && names.value.has(param);
  return empty ? t("reckoner.gap", { field: t(`reckoner.field.${param}`) }) : null;
});

/** The refusal, under the field that it names. */
function troubleOf(field: AskedField): string | null {
  const refused = problem.value;
  if (!refused || gap.value || refused.params["name"] !== field.name) return null;
  return problemText(i18n, refused);
}
const loose = computed(() => {
  const param = problem.value?.params["name"];
  const placed =
    typeof param === "string" && counting(fields(), current()).some((field) => field.name === param);
  return problem.value && !gap.value && !placed ? problem.value : null;
});

const presetFits = computed(() => fields().some((field) => field.name === "thread_low_mm"));

/** Fill in the numbers of a stud; what the stud does not say stays. */
function takeStud(id: string): void {
  const stud = props.studs.find((one) => one.id === id);
  const mine = entries.value[name.value];
  if (!stud || !mine) return;
  for (const [field, written] of Object.entries(stud.typed)) {
    if (field in mine) mine[field] = { ...written };
  }
}
const chosen = computed(
  () =>
    props.studs.find((stud) =>
      Object.entries(stud.typed).every(([field, { text, unit }]) => {
        const mine = current()[field];
        return mine === undefined || (mine.text === text && (mine.unit === unit || unit === ""));
      }),
    )?.id ?? "",
);

const WHY = "jorvek.reckoner.why";
const whyOpen = localStorage.getItem(WHY) !== "shut";
function keepWhy(event: Event): void {
  localStorage.setItem(WHY, (event.target as HTMLDetailsElement).open ? "open" : "shut");
}

/** Go to a question by its number. */
function jump(question: string): () => void {
  return () => {
    void router.push(`/reckoner/${question}`);
  };
}
/** One key each, as far as the digits reach. */
const DIGITS = "1234567890";
const keys: Shortcuts = Object.fromEntries(
  props.questions.slice(0, DIGITS.length).map((q, k) => [DIGITS.charAt(k), jump(q.name)]),
);
useShortcuts(keys);
/** A long list of questions would push the answer off a small screen. */
const { smAndDown } = useDisplay();
/** On a small screen the stud's dimensions stand behind its name; whoever has numbers of their own opens them. */
const folds = (group: string): boolean => smAndDown.value && group === "stud" && presetFits.value;
const dimsOpen = ref(false);
function keepDims(event: Event): void {
  dimsOpen.value = (event.target as HTMLDetailsElement).open;
}
const choosing = computed({
  get: () => name.value,
  set: (question: QuestionName) => {
    jump(question)();
  },
});
const listed = computed(() =>
  props.questions.map((q) => ({ value: q.name, title: t(`reckoner.question.${q.name}`) })),
);
</script>

<template>
  <main id="content" class="desk">
    <div v-if="smAndDown" class="questions">
      <choice-field v-model="choosing" :label="t('reckoner.ask')" :items="listed" />
    </div>
    <nav v-else class="questions" :aria-label="t('reckoner.ask')">
      <router-link
        v-for="(q, k) in questions"
        :key="q.name"
        class="question words"
        :class="{ here: q.name === name }"
        :aria-current="q.name === name ? 'page' : undefined"
        :to="`/reckoner/${q.name}`"
      >
        <kbd v-if="k < DIGITS.length">{{ DIGITS.charAt(k) }}</kbd>
        <span v-else class="no-key" />
        {{ t(`reckoner.question.${q.name}`) }}
      </router-link>
    </nav>

    <section class="given">
      <h1>{{ t(`reckoner.question.${name}`) }}</h1>
      <div v-for="{ group, fields: shown } in groups" :key="group" class="group">
        <h2 v-if="group !== 'ask'">{{ t(`reckoner.group.${group}`) }}</h2>
        <choice-field
          v-if="group === 'stud' && presetFits && studs.length > 0"
          class="preset"
          :model-value="chosen"
          :label="t('reckoner.stud_from')"
          :items="[
            { value: '', title: t('reckoner.own_numbers') },
            ...studs.map((stud) => ({ value: stud.id, title: stud.title, raw: true })),
          ]"
          @update:model-value="takeStud"
        />
        <component
          :is="folds(group) ? 'details' : 'div'"
          :open="folds(group) && (dimsOpen || chosen === '') ? true : undefined"
          @toggle="keepDims"
        >
          <summary v-if="folds(group)" class="words">{{ t("reckoner.dimensions") }}</summary>
          <div class="grid" :class="group">
            <template v-for="field in shown" :key="`${name}-${field.name}`">
              <field-box
                v-if="entries[name]?.[field.name]"
                v-model:text="entries[name]![field.name]!.text"
                v-model:unit="entries[name]![field.name]!.unit"
                :field="field"
                :big="group === 'ask'"
                :trouble="troubleOf(field)"
                @focused="(at) => (focus = at)"
              />
            </template>
          </div>
        </component>
      </div>
    </section>

    <section class="result" :aria-label="t('reckoner.answer')">
      <p class="mark">
        <strong class="words">{{ t("reckoner.mark") }}</strong> {{ t("reckoner.mark_text") }}
      </p>
      <problem-note :problem="loose" :unsent="unsent" @again="ask" />
      <answer-panel
        :answer="answer"
        :stale="problem !== null || unsent"
        :gap="gap"
        :wanted="units"
        @unit="(quantity, unit) => (units[quantity] = unit)"
      >
        <question-picture v-if="answer" :question="name" :numbers="answer.picture" :focus="focus" />
      </answer-panel>
      <ul v-if="answer && !problem" class="notes">
        <li v-for="note in answer.notes" :key="note">{{ t(`reckoner.note.${note}`) }}</li>
      </ul>
    </section>

    <details v-if="answer && answer.why.length > 0 && !problem" class="why" :open="whyOpen" @toggle="keepWhy">
      <summary class="words">{{ t("reckoner.why") }}</summary>
      <why-lines :lines="answer.why" />
    </details>
  </main>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template:
    "ask given result" auto
    "ask why result" 1fr
    / clamp(190px, 18.4vw, 236px) minmax(0, 1fr) clamp(330px, 33vw, 424px);
  min-height: calc(100vh - 64px);
}

.questions {
  background: var(--panel-2);
  border-right: 1px solid var(--line);
  grid-area: ask;
}

.question {
  align-items: center;
  border-bottom: 1px solid var(--line);
  border-left: 6px solid transparent;
  color: var(--ink);
  display: flex;
  font-size: var(--size-3);
  gap: 12px;
  min-height: 66px;
  padding: 4px 12px 4px 10px;
  text-decoration: none;
}

.question.here {
  background: var(--panel);
  border-left-color: var(--now);
}

kbd {
  border: 1px solid currentcolor;
  flex: none;
  font-family: var(--caps);
  font-size: var(--size-1);
  padding: 2px 6px;
}

.no-key {
  flex: none;
  width: 24px;
}

.given {
  grid-area: given;
  padding: 16px 22px 0;
}

.why {
  grid-area: why;
  margin: 14px 22px 30px;
}

h1 {
  font-size: var(--size-6);
  margin-bottom: 10px;
}

h2 {
  border-top: 1px solid var(--line);
  font-size: var(--size-4);
  margin: 14px 0 6px;
  padding-top: 8px;
}

.group {
  position: relative;
}

.grid {
  display: grid;
  gap: 7px 8px;
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
}

.grid.ask {
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
}

.result {
  background: var(--panel);
  border-left: 1px solid var(--line);
  grid-area: result;
  padding: 12px 20px 30px;
}

/* Four and more stand in one row. */
.grid.ask:has(> :nth-child(4)) {
  grid-template-columns: repeat(auto-fill, minmax(120px, 1fr));
}

details {
  border-top: 1px solid var(--line);
}

.mark {
  border-bottom: 3px double var(--line-strong);
  color: var(--muted);
  font-size: var(--size-1);
  margin: 0 0 12px;
  padding-bottom: 8px;
}

.mark strong {
  color: var(--ink);
  font-size: var(--size-3);
  margin-right: 6px;
}

.notes {
  border-left: 4px solid var(--line-strong);
  font-size: var(--size-1);
  line-height: 1.35;
  list-style: none;
  margin: 10px 0;
  padding: 2px 0 2px 10px;
}

summary {
  cursor: pointer;
  font-size: var(--size-4);
  min-height: 48px;
  padding-top: 10px;
}

summary:focus-visible {
  outline: 3px solid var(--now);
}

.at-narrow .desk {
  display: block;
}

.at-narrow .questions {
  border-right: 0;
  padding: var(--gap-3);
}

.at-narrow .given {
  padding: var(--gap-3);
}

.at-narrow .grid,
.at-narrow .grid.ask,
.at-narrow .grid.ask:has(> :nth-child(4)) {
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
}

.at-narrow .result {
  border-left: 0;
  border-top: 1px solid var(--line);
  padding: var(--gap-3);
}

/* As large as beside the figures, not as wide as the page. */
.at-narrow .result :deep(svg) {
  max-width: 460px;
}

.preset {
  margin: var(--gap-1) 0 var(--gap-2);
}
</style>
