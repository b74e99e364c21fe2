<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { api, answerOf } from "@/api/client";
import type { HandOver } from "@/api/types";
import { useActions } from "@/bench/actions";
import HandOverCard from "@/bench/HandOverCard.vue";
import { useBench } from "@/bench/store";

/** What whoever goes on must know, before the work is left. */
const { t } = useI18n();
const actions = useActions();
const bench = useBench();
const card = ref<HandOver | null>(null);

onMounted(async () => {
  const params = { path: { run_id: bench.runId ?? "" } };
  card.value = await answerOf(api.GET("/api/runs/{run_id}/hand-over", { params }));
});
const shut = (): void => {
  actions.dialog.value = null;
};
async function leave(): Promise<void> {
  shut();
  await actions.pause();
}
</script>

<template>
  <v-dialog :model-value="true" max-width="940" :aria-label="t('handover.title')" @update:model-value="shut">
    <div class="sheet">
      <h2>{{ t("handover.title") }}</h2>
      <hand-over-card v-if="card" :card="card" />
      <p class="muted">{{ t("handover.text") }}</p>
      <div class="row">
        <v-btn @click="shut">{{ t("handover.go_on") }}</v-btn>
        <v-btn :href="`/api/runs/${bench.runId}/hand-over.pdf`" target="_blank">{{
          t("handover.print")
        }}</v-btn>
        <v-btn @click="actions.dialog.value = { kind: 'part' }">{{ t("bench.part") }}</v-btn>
        <v-btn class="main" @click="leave">{{ t("handover.pause") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
p {
  margin: 10px 0;
}
</style>
