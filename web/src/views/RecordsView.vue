<script setup lang="ts">
import { onMounted, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, take } from "@/api/client";
import type { RunListed } from "@/api/types";
import { dayTimeText } from "@/format";
import { useShortcuts } from "@/shortcuts";
import { useLive } from "@/stores/live";

const { t } = useI18n();
const live = useLive();
const runs = ref<RunListed[] | null>(null);
const FILES = ["pdf", "csv", "json"] as const;
useShortcuts({});

async function fetchRuns(): Promise<void> {
  runs.value = await take(api.GET("/api/runs"));
}

onMounted(fetchRuns);
watch(
  () => live.newest,
  () => void fetchRuns().catch(() => undefined),
);
</script>

<template>
  <main id="content" class="records">
    <h1>{{ t("records.title") }}</h1>
    <p v-if="runs?.length === 0">{{ t("records.empty") }}</p>
    <table v-else-if="runs">
      <thead>
        <tr>
          <th scope="col">{{ t("records.joint") }}</th>
          <th scope="col">{{ t("records.procedure") }}</th>
          <th scope="col">{{ t("records.status") }}</th>
          <th scope="col">{{ t("records.started") }}</th>
          <th scope="col">{{ t("records.people") }}</th>
          <th scope="col" class="n">{{ t("records.readings") }}</th>
          <th scope="col" class="n">{{ t("records.exceptions") }}</th>
          <th scope="col">{{ t("records.download") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="run in runs" :key="run.run_id">
          <th scope="row">
            <router-link class="words joint" :to="{ name: 'record', params: { run: run.run_id } }">
              <span translate="no">{{ run.engine }} · {{ run.joint }}</span>
            </router-link>
          </th>
          <td>
            <span translate="no">{{ run.procedure_title }}</span> ·
            {{ t("ui.revision", { revision: run.revision }) }}
          </td>
          <td class="words" :class="run.standing">{{ t(`records.status_${run.standing}`) }}</td>
          <td class="figure small" translate="no">{{ dayTimeText(run.started_at) }}</td>
          <td translate="no">{{ run.people.join(", ") }}</td>
          <td class="n figure" translate="no">{{ run.readings }}</td>
          <td class="n figure" :class="{ odd: run.exceptions > 0 }" translate="no">{{ run.exceptions }}</td>
          <td class="files">
            <a
              v-for="file in FILES"
              :key="file"
              class="words"
              :href="`/api/runs/${run.run_id}/record.${file}`"
              :aria-label="`${t(`records.${file}`)} ${run.engine} ${run.joint}`"
            >
              {{ t(`records.${file}`) }}
            </a>
          </td>
        </tr>
      </tbody>
    </table>
  </main>
</template>

<style scoped>
.records {
  padding: 22px 24px 40px;
}

h1 {
  font-size: 34px;
  margin-bottom: 14px;
}

table {
  background: var(--panel);
  border: 1px solid var(--line);
  border-collapse: collapse;
  font-size: 14px;
  width: 100%;
}

th {
  font-family: var(--words);
  font-size: 17px;
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
  font-size: 21px;
  min-height: 48px;
}

.n {
  text-align: right;
}

.small {
  font-size: 13px;
  white-space: nowrap;
}

td.words {
  font-size: 18px;
}

td.call,
td.complete,
td.blocked,
td.paused {
  color: var(--now);
}

.odd {
  color: var(--out);
  font-weight: 700;
}

.files {
  white-space: nowrap;
}

.files a {
  align-items: center;
  border: 1px solid var(--line-strong);
  color: var(--ink);
  display: inline-flex;
  font-size: 17px;
  height: 48px;
  justify-content: center;
  margin-right: 6px;
  text-decoration: none;
  width: 54px;
}
</style>
