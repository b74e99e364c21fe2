<script setup lang="ts">
import PersonField from "@/shared/PersonField.vue";
import { computed, onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { PersonListed } from "@/api/types";
import { localTime, numberText, unitText } from "@/shared/format";
import MomentField from "@/shared/MomentField.vue";
import NotHere from "@/shared/NotHere.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import KeyingLine from "@/keying/KeyingLine.vue";
import { useSession } from "@/shared/session";
import { useKeying } from "@/keying/store";

/** A filled work sheet keyed in: type, Enter, next, in the order in which the work was done. */
const props = defineProps<{ run: string }>();
const { t } = useI18n();
const store = useKeying();
const session = useSession();
const people = ref<PersonListed[]>([]);
const by = ref(session.me?.id ?? "");
const at = ref("");

watch(() => props.run, turnTo, { immediate: true });
async function turnTo(): Promise<void> {
  await store.turnTo(props.run);
  // The server's time orders what is kept; a tablet's clock may be off.
  if (at.value === "" && store.sheet) at.value = localTime(new Date(store.sheet.now));
}
onMounted(async () => {
  people.value = await answerOf(api.GET("/api/people"));
});

const done = computed(() => store.lines.filter((line) => line.row !== null).length);
/** Steps with their lines; whole ones that lie far behind are folded away. */
const steps = computed(() => {
  const found = new Map<string, { title: string; lines: typeof store.lines }>();
  for (const line of store.lines) {
    const step = found.get(line.step) ?? { title: line.title, lines: [] };
    step.lines.push(line);
    found.set(line.step, step);
  }
  const all = [...found.entries()].map(([key, step]) => ({ key, ...step }));
  const at = all.findIndex((step) => step.lines.some((line) => line.row === null));
  return at < 0 ? all.slice(-3) : all.slice(Math.max(0, at - 1), at + 4);
});

/** What was keyed in last: asked about, it may be what stands on the sheet all the same. */
const last = ref<{ cell: string; text: string; unit: string | null } | null>(null);
const stands = computed(() =>
  store.problem?.asks === true && last.value !== null
    ? `${numberText(last.value.text)} ${unitText(last.value.unit ?? "")}`
    : null,
);

async function keyed(cell: string, text: string, unit: string | null, sure = false): Promise<void> {
  const line = store.lines.find((one) => one.cell === cell);
  if (line === undefined || at.value === "") return;
  last.value = { cell, text, unit };
  await store.keyIn(line, text, unit, { by: by.value, at: at.value }, sure);
}

async function keyedAsSure(): Promise<void> {
  if (last.value !== null) await keyed(last.value.cell, last.value.text, last.value.unit, true);
}
</script>

<template>
  <main v-if="store.sheet" id="content" class="sheet-view">
    <header>
      <div>
        <h1>{{ t("sheet.title") }}</h1>
        <p class="words sub">
          <span translate="no">{{ store.sheet.engine }} · {{ store.sheet.joint }}</span> —
          {{ t("sheet.done", { done, total: store.lines.length }) }}
        </p>
        <p class="muted">{{ t("sheet.text") }}</p>
      </div>
      <nav :aria-label="t('sheet.title')">
        <v-btn :href="`/api/runs/${run}/sheet.pdf`" target="_blank">{{ t("sheet.print") }}</v-btn>
        <v-btn :to="{ name: 'bench', params: { run } }">{{ t("sheet.bench") }}</v-btn>
      </nav>
    </header>
    <div class="pencil">
      <person-field v-model="by" :label="t('sheet.who')" :people="people" />
      <moment-field v-model="at" :label="t('sheet.when')" :past="14" />
    </div>
    <problem-note :problem="store.problem" :unsent="store.unsent" />
    <v-btn v-if="stands" class="big" @click="keyedAsSure">{{ t("bench.stands", { got: stands }) }}</v-btn>
    <p v-if="store.next === null" class="words">{{ t("sheet.none") }}</p>
    <section v-for="step in steps" :key="step.key" class="card">
      <h2 translate="no">{{ step.title }}</h2>
      <div class="lines">
        <keying-line
          v-for="line in step.lines"
          :key="line.cell"
          :line="line"
          :now="line.cell === store.next?.cell"
          :run="run"
          @keyed="(text, unit) => keyed(line.cell, text, unit)"
        />
      </div>
    </section>
  </main>
  <not-here v-else :problem="store.problem" :unsent="store.unsent" @again="turnTo" />
</template>

<style scoped>
.sheet-view {
  display: grid;
  gap: 12px;
  margin: 0 auto;
  max-width: 1180px;
  padding: 18px 24px 40px;
  width: 100%;
}

header {
  align-items: flex-start;
  display: flex;
  justify-content: space-between;
}

header nav {
  display: flex;
  gap: 8px;
}

h1 {
  font-size: var(--size-6);
}

h2 {
  font-size: var(--size-4);
  margin-bottom: 2px;
}

p {
  margin: 0;
}

.sub {
  font-size: var(--size-4);
}

.pencil {
  display: flex;
  gap: 24px;
}

select,
input {
  background: #fff;
  border: 1px solid var(--ink);
  color: var(--ink);
  font: inherit;
  min-height: 48px;
  padding: 0 10px;
}

.card {
  background: var(--panel);
  border: 1px solid var(--line);
  padding: 10px 16px;
}

.lines {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
}

.pencil > * {
  flex: 1 1 220px;
  max-width: 340px;
}

.pencil > .moment {
  flex: 2 1 340px;
  max-width: 460px;
}

.at-narrow .sheet-view {
  grid-template-columns: minmax(0, 1fr);
  padding: var(--gap-3);
}

.at-narrow header,
.at-narrow header nav,
.at-narrow .pencil {
  flex-wrap: wrap;
}

.at-narrow .pencil {
  gap: var(--gap-2);
}
</style>
