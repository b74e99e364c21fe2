<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { BackStep, EngineView, OverhaulCommand } from "@/api/types";
import PinDialog from "@/bench/PinDialog.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import FormDialog from "@/shared/FormDialog.vue";
import { whenText } from "@/shared/format";
import { partWords } from "@/shared/problem";
import { figureOf } from "@/shared/typed";
import { useSession } from "@/shared/session";

/** The way back to a running engine: one thing after the other, who attended, and the signature at the end. */
const i18n = useI18n();
const { t } = i18n;
const engine = useEngine();
const session = useSession();
const over = engine.overhaul;
const leads = computed(() => engine.page.value?.may_lead ?? false);
const mayClose = computed(() => engine.page.value?.may_close ?? false);
const end = computed(() => over.value?.close_out ?? null);
const name = (point: string): string => t(`isolation.${point}`);

function heldWords(one: EngineView["held_up"][number]): string {
  const what =
    one.why === "isolation" || one.why === "check" ? name(one.what) : String(partWords(i18n, one.what));
  return t(`engine.held.${one.why}`, { what });
}

const picked = ref<BackStep | null>(null);
const words = ref("");
const current = ref("");
const ready = computed(
  () => words.value.trim() !== "" && (picked.value?.point !== "barred" || figureOf(current.value) !== null),
);
function pick(step: BackStep): void {
  engine.acting.clear();
  words.value = "";
  current.value = "";
  picked.value = step;
}
type SeeTo = Extract<OverhaulCommand, { kind: "see_to" }>;
async function done(): Promise<void> {
  const step = picked.value;
  picked.value = null;
  if (step === null) return;
  const amps = step.point === "barred" ? figureOf(current.value) : null;
  const check = step.point as SeeTo["check"];
  await engine.send({ kind: "see_to", check, words: words.value.trim(), current_A: amps });
}
async function back(step: BackStep): Promise<void> {
  type Restore = Extract<OverhaulCommand, { kind: "restore_point" }>;
  await engine.send({ kind: "restore_point", point: step.point as Restore["point"] });
}

const seenWords = (step: BackStep): string =>
  [
    `${step.by}, ${whenText(step.at ?? "")}`,
    step.current_A === null ? "" : t("engine.amps", { current: step.current_A }),
    step.words,
  ]
    .filter(Boolean)
    .join(" · ");

const attending = ref(false);
const attends = ref("");
const witness = ref("");
function attend(who: string): void {
  engine.acting.clear();
  attends.value = who;
  witness.value = "";
  words.value = "";
  attending.value = true;
}
async function came(): Promise<void> {
  attending.value = false;
  const said = { attends: attends.value.trim(), name: witness.value.trim(), words: words.value.trim() };
  await engine.send({ kind: "witness", ...said });
}

const signing = ref(false);
async function close(pin?: string): Promise<void> {
  signing.value = false;
  await engine.send({ kind: "close_overhaul" }, pin === undefined ? {} : { pin });
}
</script>

<template>
  <board-panel
    v-if="over && end"
    :title="t('engine.held_up')"
    :none="t('engine.held_up_none')"
    :empty="over.held_up.length === 0"
  >
    <template v-if="mayClose && over.held_up.length === 0" #act>
      <v-btn class="main" @click="end.chief ? (signing = true) : close()">{{ t("engine.close") }}</v-btn>
    </template>
    <details v-if="over.held_up.length > 0">
      <summary class="words">
        {{ t("engine.held_more", { first: heldWords(over.held_up[0]!), n: over.held_up.length - 1 }) }}
      </summary>
      <p v-for="one in over.held_up" :key="one.why + one.what" class="held">{{ heldWords(one) }}</p>
    </details>
    <p v-if="over.held_up.length === 0 && !mayClose" class="held">{{ t("engine.close_chief") }}</p>
    <template v-if="end.relied_on.length === 0">
      <h3>{{ t("engine.way_back") }}</h3>
      <ol class="plain steps">
        <li v-for="step in end.steps" :key="step.point" :class="{ next: step.next }">
          <span class="mark" aria-hidden="true">{{ step.done ? "■" : step.next ? "→" : "□" }}</span>
          <span>
            <strong class="words">{{ name(step.point) }}</strong>
            <small v-if="step.by && step.at" class="muted" translate="no">
              {{ seenWords(step) }}
            </small>
            <small v-else-if="step.text" class="muted" translate="no">{{ step.text }}</small>
          </span>
          <v-btn v-if="step.next && leads" class="main" @click="step.check ? pick(step) : back(step)">
            {{ t(step.check ? "engine.see_to" : "engine.restore") }}
          </v-btn>
        </li>
      </ol>
    </template>
    <div v-for="one in end.witnesses" :key="one.attends + one.name" class="witness">
      <span>
        <strong class="words" translate="no">{{ one.attends }}</strong>
        <small class="muted">{{
          one.name ? [one.name, one.words].filter(Boolean).join(" · ") : t("engine.witness_none")
        }}</small>
      </span>
      <v-btn v-if="leads && one.name === null" @click="attend(one.attends)">{{ t("engine.witness") }}</v-btn>
    </div>

    <form-dialog
      :open="picked !== null"
      :title="picked ? name(picked.point) : ''"
      :text="picked?.text ?? ''"
      :confirm="t('engine.see_to')"
      :ready="ready"
      @done="done"
      @shut="picked = null"
    >
      <v-text-field
        v-if="picked?.point === 'barred'"
        v-model="current"
        :label="t('engine.current_A')"
        inputmode="decimal"
        maxlength="8"
      />
      <v-text-field v-model="words" :label="t('engine.see_to_words')" maxlength="500" />
    </form-dialog>
    <form-dialog
      :open="attending"
      :title="t('engine.witness_title', { who: attends })"
      :confirm="t('engine.witness')"
      :ready="witness.trim() !== '' && words.trim() !== ''"
      @done="came"
      @shut="attending = false"
    >
      <v-text-field v-model="witness" :label="t('engine.witness_name')" maxlength="60" />
      <v-text-field v-model="words" :label="t('engine.witness_words')" maxlength="500" />
    </form-dialog>
    <pin-dialog
      :open="signing"
      :title="t('engine.close')"
      :text="t('engine.close_text')"
      :name="session.me?.name ?? ''"
      @done="close"
      @shut="signing = false"
    />
  </board-panel>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-size: var(--size-4);
  min-height: var(--touch);
  padding: 8px 0;
}

.held {
  border-top: 1px solid var(--line);
  margin: 0;
  padding: 6px 0;
}

h3 {
  font-size: var(--size-3);
  margin: 6px 0 0;
}

.steps li,
.witness {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 10px;
  grid-template-columns: auto minmax(0, 1fr) auto;
  min-height: var(--touch);
  padding: 6px 0;
}

.witness {
  grid-template-columns: minmax(0, 1fr) auto;
}

strong {
  font-size: var(--size-4);
}

small {
  display: block;
  font-size: var(--size-1);
}

.mark {
  text-align: center;
  width: 1.5em;
}

.next .mark {
  color: var(--now);
}

.v-btn {
  font-size: var(--size-3);
  height: 48px !important;
}
</style>
