<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { RunListed } from "@/api/types";
import { dayTimeText } from "@/shared/format";

const { t } = useI18n();
const runs = ref<RunListed[] | null>(null);

onMounted(async () => {
  const open = await answerOf(api.GET("/api/runs", { params: { query: { state: "open" } } }));
  runs.value = open.runs;
});
</script>

<template>
  <main id="content" class="pick">
    <h1>{{ t("bench.pick") }}</h1>
    <p v-if="runs?.length === 0">{{ t("bench.none") }}</p>
    <router-link
      v-for="run in runs ?? []"
      :key="run.run_id"
      class="run"
      :to="{ name: 'bench', params: { run: run.run_id } }"
    >
      <span class="words what" translate="no">{{ run.engine }} · {{ run.joint }}</span>
      <span class="words state">{{ t(`records.status_${run.status}`) }}</span>
      <span class="muted" translate="no">{{ run.procedure_title }}, {{ run.revision }}</span>
      <span class="muted" translate="no"
        >{{ run.people.join(", ") }} · {{ dayTimeText(run.started_at) }}</span
      >
    </router-link>
  </main>
</template>

<style scoped>
.pick {
  display: grid;
  gap: 12px;
  margin: 0 auto;
  max-width: 940px;
  padding: 32px 24px;
  width: 100%;
}

h1 {
  font-size: var(--size-6);
}

.run {
  background: var(--panel);
  border: 1px solid var(--line);
  color: var(--ink);
  display: grid;
  gap: 4px 20px;
  grid-template-columns: 1fr auto;
  padding: 16px 20px;
  text-decoration: none;
}

.what {
  font-size: var(--size-5);
}

.state {
  color: var(--now);
  font-size: var(--size-4);
  text-align: right;
}

.run .muted:last-child {
  text-align: right;
}

.at-narrow .pick {
  grid-template-columns: minmax(0, 1fr);
  padding: var(--gap-3);
}

.at-phone .run {
  grid-template-columns: minmax(0, 1fr);
  padding: var(--gap-3);
}
</style>
