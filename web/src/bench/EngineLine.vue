<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { BenchView, EngineGlance } from "@/api/types";
import { BESIDE_MS, useBeside } from "@/shared/followed";

/** What one looks for first, always in sight: isolation, crank, who is inside, what is under pressure. */
const props = defineProps<{ view: BenchView }>();
const { t } = useI18n();
const glance = ref<EngineGlance | null>(null);

async function fetchGlance(): Promise<void> {
  const params = { path: { run_id: props.view.run_id } };
  glance.value = await answerOf(api.GET("/api/runs/{run_id}/engine", { params }));
}
const lookAgain = useBeside(fetchGlance, BESIDE_MS);
watch(() => props.view.run_id, lookAgain);

const hot = computed(() => {
  const now = glance.value;
  if (now === null) return [];
  return [
    now.inside.length > 0 ? t("engine.line.inside", { who: now.inside.join(", ") }) : "",
    now.hot_work.length > 0 ? t("engine.line.hot_work", { where: now.hot_work.join(", ") }) : "",
    now.hot_work_out.length > 0 ? t("berth.hot_work_out", { where: now.hot_work_out.join(", ") }) : "",
    now.under_pressure.length > 0 ? t("engine.line.pressed", { where: now.under_pressure.join(", ") }) : "",
    now.gear_free === null ? "" : t("engine.line.gear_free", { who: now.gear_free }),
    now.lifted === null ? "" : t("engine.line.lifted", { test: now.lifted }),
  ].filter(Boolean);
});
</script>

<template>
  <p v-if="glance?.overhaul" class="engine-line words">
    <span>{{ t("engine.line.isolated", { n: glance.isolated, of: glance.points }) }}</span>
    <span>{{
      glance.crank_deg == null
        ? t("engine.line.crank_unknown")
        : t("engine.line.crank", { angle: Math.round(glance.crank_deg) })
    }}</span>
    <strong v-for="one in hot" :key="one">{{ one }}</strong>
  </p>
</template>

<style scoped>
.engine-line {
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-3);
  gap: 0 14px;
  margin: 0;
}

strong {
  color: var(--doubt);
}
</style>
