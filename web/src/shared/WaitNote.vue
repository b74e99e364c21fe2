<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute } from "vue-router";
import { answerOf, api } from "@/api/client";
import type { MyRun } from "@/api/types";
import { BESIDE_MS, useBeside } from "@/shared/followed";
import { moreWaits, waitingForMe } from "@/shared/mine";
import { signal } from "@/shared/signals";
import { waitsOver, type WaitOver } from "@/shared/waits";

/** When a wait of one's own ends, or something begins to wait for one, the tablet says so on whatever screen it shows. */
const { t } = useI18n();
const route = useRoute();
let before: readonly MyRun[] = [];
let looked = false;
const over = ref<WaitOver[]>([]);
/** The Bench of that very run shows it already. */
const shown = computed(() => over.value.find((one) => route.params["run"] !== one.run) ?? null);

useBeside(async () => {
  const now = await answerOf(api.GET("/api/mine"));
  const ended = waitsOver(before, now.runs);
  // What stood there when somebody signed in is no news.
  if (looked && (ended.length > 0 || moreWaits(waitingForMe.value, now.waiting))) signal("waiting");
  over.value = [...over.value, ...ended];
  [before, waitingForMe.value, looked] = [now.runs, now.waiting, true];
}, BESIDE_MS);
onBeforeUnmount(() => (waitingForMe.value = []));
function seen(): void {
  over.value = over.value.filter((one) => one !== shown.value);
}
</script>

<template>
  <div v-if="shown" class="wait" role="status">
    <span>{{ t(shown.signed ? "waits.signed" : "waits.over", { joint: shown.joint }) }}</span>
    <v-btn :to="{ name: 'bench', params: { run: shown.run } }" class="main" @click="seen">{{
      t("waits.go")
    }}</v-btn>
    <v-btn @click="seen">{{ t("waits.shut") }}</v-btn>
  </div>
</template>

<style scoped>
.wait {
  align-items: center;
  background: var(--panel);
  border-bottom: 3px solid var(--now);
  color: var(--ink);
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-4);
  gap: 8px 16px;
  padding: 8px 24px;
}

span {
  flex: 1 1 260px;
}
</style>
