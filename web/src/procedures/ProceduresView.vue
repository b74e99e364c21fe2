<script setup lang="ts">
import WideTable from "@/shared/WideTable.vue";
import ChoiceField from "@/shared/ChoiceField.vue";
import { computed, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";
import { answerOf, api } from "@/api/client";
import type { Difference, ProcedureListed, ProcedureRead } from "@/api/types";
import { useActing, useAsking } from "@/shared/acting";
import ProblemNote from "@/shared/ProblemNote.vue";
import BringIn from "@/procedures/BringIn.vue";
import ClampStairs from "@/procedures/ClampStairs.vue";
import DraftPlan from "@/procedures/DraftPlan.vue";
import JointFacts from "@/procedures/JointFacts.vue";
import LibraryList from "@/procedures/LibraryList.vue";
import FindingLine from "@/procedures/FindingLine.vue";
import StepCard from "@/procedures/StepCard.vue";

const props = defineProps<{ hash?: string }>();
const { t, locale } = useI18n();
const router = useRouter();
const listed = ref<ProcedureListed[]>([]);
const reading = useAsking<ProcedureRead>();
const shown = reading.answer;
const changes = ref<Difference[] | null>(null);
const acting = useActing();
const bringing = ref(false);
const way = ref(0);

// An optional part of the address that is not there comes as an empty text.
const here = computed(() => (props.hash ? props.hash : listed.value[0]?.hash));
const sisters = computed(() =>
  listed.value.filter((p) => p.id === shown.value?.listed.id && p.hash !== shown.value.listed.hash),
);
const chosen = computed(() => shown.value?.sheet.ways[way.value]);
const steps = computed(() => {
  const there = chosen.value?.steps;
  return (shown.value?.sheet.steps ?? []).filter((step) => there === undefined || there.includes(step.id));
});
const loose = computed(() => {
  const placed = new Set(steps.value.map((step) => step.id));
  return shown.value?.sheet.findings.filter((f) => f.step === null || !placed.has(f.step)) ?? [];
});
const alsoIn = computed(() => {
  const names = new Intl.DisplayNames([locale.value], { type: "language" });
  const languages = Object.keys(shown.value?.document.other_words ?? {});
  return new Intl.ListFormat(locale.value).format(languages.map((one) => names.of(one) ?? one));
});
const stops = computed(() => shown.value?.sheet.findings.filter((f) => f.severity === "error").length ?? 0);
const looks = computed(() => (shown.value?.sheet.findings.length ?? 0) - stops.value);

function wayWords(selection: Record<string, string>): string {
  return (shown.value?.document.options ?? [])
    .map((option) => option.choices.find((c) => c.id === selection[option.id])?.title ?? "")
    .join(" · ");
}
const sheetAddress = computed(() => {
  const digest = shown.value?.listed.hash ?? "";
  const choose = Object.entries(chosen.value?.selection ?? {}).map(
    ([option, choice]) => `choose=${option}:${choice}`,
  );
  return `/api/procedures/${digest}/worksheet.pdf${choose.length > 0 ? `?${choose.join("&")}` : ""}`;
});

async function fetchList(): Promise<void> {
  listed.value = await answerOf(api.GET("/api/procedures"));
}

async function open(hash: string | undefined): Promise<void> {
  changes.value = null;
  against.value = "";
  acting.clear();
  way.value = 0;
  if (hash === undefined) {
    reading.forget();
    return;
  }
  const params = { path: { digest: hash } };
  await reading.ask(() => answerOf(api.GET("/api/procedures/{digest}", { params })));
}

async function act(what: "approve" | "withdraw"): Promise<void> {
  const digest = shown.value?.listed.hash;
  if (digest === undefined) return;
  const path = { params: { path: { digest } } };
  await acting.act(async () => {
    await answerOf(
      what === "approve"
        ? api.POST("/api/procedures/{digest}/approve", path)
        : api.POST("/api/procedures/{digest}/withdraw", path),
    );
    await Promise.all([fetchList(), open(digest)]);
  });
}

const against = ref("");
watch(against, compare);

async function compare(against: string): Promise<void> {
  const digest = shown.value?.listed.hash;
  changes.value =
    against === "" || digest === undefined
      ? null
      : await answerOf(
          api.GET("/api/procedures/{digest}/differences", {
            params: { path: { digest }, query: { against } },
          }),
        );
}

async function taken(hash: string): Promise<void> {
  bringing.value = false;
  await fetchList();
  await router.push(`/procedures/${hash}`);
}

onMounted(fetchList);
watch(here, (hash) => void open(hash), { immediate: true });
</script>

<template>
  <main id="content" class="library" :class="{ chosen: shown !== null }">
    <library-list :listed="listed" :here="here" @bring="bringing = true" />

    <template v-if="shown">
      <article class="text">
        <header>
          <h1 translate="no">{{ shown.listed.title }}</h1>
          <p class="small">
            {{ t("ui.revision", { revision: shown.listed.revision }) }} ·
            {{ t(`procedure.status.${shown.listed.status}`) }} ·
            <span translate="no"
              >{{ shown.document.source.document }}, {{ shown.document.source.section }},
              {{ shown.document.source.issued }}</span
            >
            <template v-if="alsoIn"> · {{ t("procedure.also_in", { language: alsoIn }) }}</template>
          </p>
          <div class="facts"><joint-facts :document="shown.document" /></div>
          <draft-plan v-if="shown.document.fasteners.length > 0" :document="shown.document" />
        </header>
        <section v-if="changes" class="changes">
          <h2>{{ t("procedure.changes") }}</h2>
          <p v-if="changes.length === 0">{{ t("procedure.no_changes") }}</p>
          <wide-table v-else file="comparison" :label="t('procedure.compare')">
            <tbody>
              <tr v-for="change in changes" :key="change.where" :class="{ number: change.number }">
                <th scope="row" translate="no">{{ change.where }}</th>
                <td translate="no">
                  <del v-if="change.before !== null">{{ change.before }}</del>
                </td>
                <td translate="no">
                  <ins v-if="change.after !== null">{{ change.after }}</ins>
                </td>
              </tr>
            </tbody>
          </wide-table>
        </section>
        <choice-field
          v-if="shown.sheet.ways.length > 1"
          v-model="way"
          class="way"
          :label="t('procedure.option')"
          :items="shown.sheet.ways.map((one, k) => ({ value: k, title: wayWords(one.selection), raw: true }))"
        />
        <ol class="plain steps">
          <step-card
            v-for="(step, k) in steps"
            :key="step.id"
            :step="step"
            :number="k + 1"
            :findings="shown.sheet.findings.filter((f) => f.step === step.id)"
            :proposals="shown.sheet.proposals.filter((one) => one.step === step.id)"
            :words="shown.document.other_words ?? {}"
          />
        </ol>
      </article>

      <aside class="side" :aria-label="t('procedure.check')">
        <problem-note
          :problem="acting.problem.value ?? reading.problem.value"
          :unsent="acting.unsent.value"
        />
        <p class="verdict words" :class="{ bad: stops > 0 }">
          {{ stops + looks === 0 ? t("procedure.clean") : t("procedure.found", { stops, looks }) }}
        </p>
        <finding-line v-for="(finding, k) in loose" :key="k" :finding="finding" />
        <clamp-stairs v-for="stairs in chosen?.staircases ?? []" :key="stairs.group" :stairs="stairs" />
        <choice-field
          v-if="sisters.length > 0"
          v-model="against"
          class="compare"
          :label="t('procedure.compare')"
          :items="[
            { value: '', title: t('procedure.compare_none') },
            ...sisters.map((sister) => ({
              value: sister.hash,
              title: t('ui.revision', { revision: sister.revision }),
            })),
          ]"
        />
        <p v-if="shown.may_approve && stops > 0" class="small">{{ t("procedure.cure_first") }}</p>
        <div class="acts">
          <v-btn v-if="shown.may_approve" class="main" :disabled="stops > 0" @click="act('approve')">{{
            t("procedure.approve")
          }}</v-btn>
          <v-btn v-if="shown.may_withdraw" @click="act('withdraw')">{{ t("procedure.withdraw") }}</v-btn>
          <v-btn :href="sheetAddress" target="_blank">{{ t("procedure.print") }}</v-btn>
          <v-btn :href="`/api/procedures/${shown.listed.hash}/document.yaml`">{{
            t("procedure.take_away")
          }}</v-btn>
        </div>
        <p class="small">{{ t("signin.disclaimer") }}</p>
      </aside>
    </template>
    <bring-in :open="bringing" @shut="bringing = false" @taken="taken" @brought="fetchList" />
  </main>
</template>

<style scoped>
.library {
  display: grid;
  grid-template-columns: 292px minmax(0, 1fr) 404px;
  min-height: calc(100vh - 64px);
}

.small {
  color: var(--muted);
  font-size: var(--size-1);
  margin: 2px 0 0;
}

.text {
  padding: 16px 22px 40px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  justify-content: space-between;
}

header > .facts {
  flex: 1 1 260px;
}

header h1,
header .small {
  flex: 1 0 100%;
  order: -2;
}

h1 {
  font-size: var(--size-5);
}

.changes {
  border: 2px solid var(--now);
  margin-bottom: 12px;
  padding: 8px 12px;
}

.changes h2 {
  font-size: var(--size-4);
}

.changes th,
.changes td {
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
  padding: 4px 8px 4px 0;
  text-align: left;
  vertical-align: top;
}

.changes th {
  font-weight: 400;
}

.changes .number td {
  font-size: var(--size-2);
  white-space: nowrap;
}

.changes ins {
  font-weight: 700;
  text-decoration: none;
}

.side {
  align-self: start;
  height: 100vh;
  overflow-y: auto;
  position: sticky;
  top: 0;
  background: var(--panel);
  border-left: 1px solid var(--line);
  padding: 14px 18px 30px;
}

.verdict {
  border-bottom: 3px double var(--line-strong);
  font-size: var(--size-4);
  margin: 0 0 10px;
  padding-bottom: 8px;
}

.verdict.bad {
  color: var(--out);
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 14px 0;
}

.way,
.compare {
  margin: var(--gap-2) 0;
}

.at-narrow .library {
  display: block;
}

.at-narrow .text {
  padding: var(--gap-3);
}

.at-narrow .side {
  border-left: 0;
  height: auto;
  padding: var(--gap-3);
  position: static;
}

/* On a narrow screen what was chosen stands first, the list below it. */
.at-narrow .library.chosen {
  display: flex;
  flex-direction: column;
}

.at-narrow .library.chosen > .list {
  order: 3;
}
</style>
