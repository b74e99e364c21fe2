<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useActing } from "@/shared/acting";
import ProblemNote from "@/shared/ProblemNote.vue";

/** What leaves the overhaul: the card for a hand-over, the dossier with its progress, one archive. */
const props = defineProps<{ overhaul: string; engine: string; records: boolean }>();
const { t } = useI18n();
const acting = useActing();
const LOOK_MS = 1500;
type Stands = { state: "none" | "under_way" | "ready" | "failed"; done: number; of: number; before: number };
const stands = ref<Stands>({ state: "none", done: 0, of: 0, before: 0 });
let timer: ReturnType<typeof setTimeout> | null = null;
const params = (): { path: { overhaul_id: string } } => ({ path: { overhaul_id: props.overhaul } });

async function look(): Promise<void> {
  stands.value = await answerOf(api.GET("/api/overhauls/{overhaul_id}/dossier", { params: params() }));
  if (stands.value.state === "under_way")
    timer = setTimeout(() => void look().catch(() => undefined), LOOK_MS);
}
async function print(): Promise<void> {
  await acting.act(async () => {
    await answerOf(api.POST("/api/overhauls/{overhaul_id}/dossier", { params: params() }));
    await look();
  });
}
onMounted(() => void look().catch(() => undefined));
onBeforeUnmount(() => {
  if (timer !== null) clearTimeout(timer);
});
</script>

<template>
  <board-panel :title="t('dossier.title')">
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" @again="print" />
    <p v-if="stands.state === 'under_way'" role="status">
      {{
        stands.before > 0
          ? t("dossier.waits", { before: stands.before })
          : t("dossier.printing", { done: stands.done, of: stands.of })
      }}
    </p>
    <p v-if="stands.state === 'failed'" role="alert">{{ t("dossier.failed") }}</p>
    <div class="row">
      <v-btn v-if="stands.state === 'ready'" class="main" :href="`/api/overhauls/${overhaul}/dossier.pdf`">{{
        t("dossier.take")
      }}</v-btn>
      <v-btn v-else :disabled="stands.state === 'under_way'" @click="print">{{ t("dossier.print") }}</v-btn>
      <v-btn :href="`/api/overhauls/${overhaul}/archive.zip`">{{ t("dossier.archive") }}</v-btn>
      <v-btn :href="`/api/overhauls/${overhaul}/card.pdf`">{{ t("engine.card_take") }}</v-btn>
      <v-btn :href="`/api/overhauls/${overhaul}/lists.pdf`">{{ t("engine.lists.take") }}</v-btn>
      <v-btn v-if="records" :to="{ name: 'lists', params: { engine } }">{{ t("engine.lists.key_in") }}</v-btn>
    </div>
  </board-panel>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.row .v-btn {
  flex: 1 1 auto;
  font-size: var(--size-3);
  height: 52px !important;
}

p {
  margin: 0 0 6px;
}
</style>
