<script setup lang="ts">
import WideTable from "@/shared/WideTable.vue";
import ChoiceField from "@/shared/ChoiceField.vue";
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";
import { useDisplay } from "vuetify";
import { api, answerOf } from "@/api/client";
import { dayTimeText } from "@/shared/format";
import { useFollowedAnswer } from "@/shared/followed";
import EngineField from "@/shared/EngineField.vue";
import FileLinks from "@/record/FileLinks.vue";

const { t } = useI18n();
const { smAndDown } = useDisplay();

const route = useRoute();
/** Whoever comes from a search sees what was found there. */
const wanted = ref(typeof route.query["words"] === "string" ? route.query["words"] : "");
const engine = ref("");
const state = ref<"" | "open" | "closed" | "exceptions">("");
const STATES = ["open", "closed", "exceptions"] as const;
const listed = useFollowedAnswer(() => {
  const query = { words: wanted.value, engine: engine.value || null, state: state.value || null };
  return answerOf(api.GET("/api/runs", { params: { query } }));
}, [wanted, engine, state]);
/** Something was recorded here at all; then it can be searched. */
const any = computed(() => (listed.value?.engines.length ?? 0) > 0);
const drawn = computed(() => listed.value?.runs ?? []);
</script>

<template>
  <main id="content" class="records">
    <header>
      <h1>{{ t("records.title") }}</h1>
      <template v-if="any">
        <v-text-field
          v-model="wanted"
          type="search"
          :label="t('records.find')"
          :hint="t('records.find_in')"
          persistent-hint
        />
        <engine-field v-model="engine" :engines="listed?.engines ?? []" :any="t('records.engine_any')" />
        <choice-field
          v-model="state"
          :label="t('records.by_state')"
          :items="[
            { value: '', title: t('records.state_any') },
            ...STATES.map((one) => ({ value: one, title: t(`records.state_${one}`) })),
          ]"
        />
      </template>
    </header>
    <p v-if="listed && !any">{{ t("records.empty") }}</p>
    <p v-else-if="listed && drawn.length === 0" role="status">{{ t("records.none") }}</p>
    <ul v-else-if="listed && smAndDown" class="cards plain">
      <li v-for="run in drawn" :key="run.run_id">
        <router-link class="words joint" :to="{ name: 'record', params: { run: run.run_id } }">
          <span translate="no">{{ run.engine }} · {{ run.joint }}</span>
        </router-link>
        <b class="words" :class="run.status">{{ t(`records.status_${run.status}`) }}</b>
        <p>
          <span translate="no">{{ run.procedure_title }}</span> ·
          {{ t("ui.revision", { revision: run.revision }) }}
        </p>
        <p class="muted">
          <span translate="no">{{ dayTimeText(run.started_at) }} · {{ run.people.join(", ") }}</span> ·
          {{ t("records.readings_n", { n: run.readings }) }}
          <b v-if="run.exceptions > 0" class="odd">
            · {{ t("records.exceptions_n", { n: run.exceptions }) }}</b
          >
        </p>
        <file-links :run="run" />
      </li>
    </ul>
    <wide-table v-else-if="listed" file="records" :label="t('records.title')">
      <thead>
        <tr>
          <th scope="col">{{ t("records.joint") }}</th>
          <th scope="col">{{ t("records.procedure") }}</th>
          <th scope="col">{{ t("records.status") }}</th>
          <th scope="col">{{ t("records.started") }}</th>
          <th scope="col">{{ t("records.people") }}</th>
          <th scope="col" class="n">{{ t("records.readings") }}</th>
          <th scope="col" class="n">{{ t("records.exceptions") }}</th>
          <th scope="col" data-act>{{ t("records.download") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="run in drawn" :key="run.run_id">
          <th scope="row">
            <router-link class="words joint" :to="{ name: 'record', params: { run: run.run_id } }">
              <span translate="no">{{ run.engine }} · {{ run.joint }}</span>
            </router-link>
          </th>
          <td>
            <span translate="no">{{ run.procedure_title }}</span> ·
            {{ t("ui.revision", { revision: run.revision }) }}
          </td>
          <td class="words" :class="run.status">{{ t(`records.status_${run.status}`) }}</td>
          <td class="figure small" translate="no">{{ dayTimeText(run.started_at) }}</td>
          <td translate="no">{{ run.people.join(", ") }}</td>
          <td class="n figure" translate="no">{{ run.readings }}</td>
          <td class="n figure" :class="{ odd: run.exceptions > 0 }" translate="no">{{ run.exceptions }}</td>
          <td data-act><file-links :run="run" /></td>
        </tr>
      </tbody>
    </wide-table>
    <p v-if="listed && listed.found > drawn.length" class="more">
      {{ t("records.more", { n: listed.found - drawn.length }) }}
    </p>
  </main>
</template>

<style scoped>
.records {
  padding: 22px 24px 40px;
}

header {
  align-items: start;
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 340px 200px 200px;
  margin-bottom: 14px;
}

h1 {
  font-size: var(--size-6);
}

header input,
header input:focus-visible,
header select:focus-visible {
  outline: 3px solid var(--now);
}

.more {
  padding: 12px;
}

table {
  background: var(--panel);
  border: 1px solid var(--line);
  border-collapse: collapse;
  font-size: var(--size-1);
  width: 100%;
}

th {
  font-family: var(--words);
  font-size: var(--size-3);
  padding: 10px 12px;
  text-align: left;
}

thead th {
  border-bottom: 2px solid var(--ink);
}

td,
tbody th {
  border-bottom: 1px solid var(--line);
  height: 64px;
  padding: 0 12px;
}

.joint,
.records td:nth-child(3) {
  white-space: nowrap;
}

.joint {
  align-items: center;
  color: var(--ink);
  display: inline-flex;
  font-size: var(--size-4);
  min-height: 48px;
}

.n {
  text-align: right;
}

.small {
  font-size: var(--size-1);
  white-space: nowrap;
}

td.words {
  font-size: var(--size-3);
}

.call,
.complete,
.blocked,
.paused {
  color: var(--now);
}

.odd {
  color: var(--out);
  font-weight: 700;
}

.at-narrow .records {
  padding: var(--gap-3);
}

.at-narrow header {
  grid-template-columns: 1fr 1fr;
}

.at-narrow header > :nth-child(-n + 2) {
  grid-column: 1 / -1;
}

td:nth-child(2) {
  min-width: 150px;
}

td:nth-child(5) {
  min-width: 100px;
}

@media (width < 1200px) {
  .records th,
  .records td {
    padding: 0 6px;
  }
}

.cards {
  display: grid;
  gap: var(--gap-2);
}

.cards li {
  align-items: center;
  background: var(--panel);
  border: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: minmax(0, 1fr) auto;
  padding: 6px 12px 10px;
}

.cards p,
.cards .files {
  font-size: var(--size-1);
  grid-column: 1 / -1;
  margin: 0;
}

.cards .files {
  margin-top: 6px;
}
</style>
