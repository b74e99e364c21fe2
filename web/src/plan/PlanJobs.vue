<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { PlanInForce } from "@/api/types";
import { dayTimeText } from "@/shared/format";

/** Every job as it was planned, and as it went or goes. */
defineProps<{ jobs: PlanInForce["jobs"] }>();
const { t } = useI18n();
const span = (from: string | null, to: string | null): string =>
  from === null || to === null ? "" : t("plan.job_real", { from: dayTimeText(from), to: dayTimeText(to) });
</script>

<template>
  <ul class="plain">
    <li v-for="one in jobs" :key="one.id" :class="one.state">
      <span class="mark" aria-hidden="true">{{
        one.state === "done" ? "■" : one.state === "under_way" ? "◧" : "□"
      }}</span>
      <component
        :is="one.run_id ? 'router-link' : 'span'"
        class="words name"
        :to="one.run_id ? { name: 'bench', params: { run: one.run_id } } : undefined"
        translate="no"
        >{{ one.label }}</component
      >
      <span>{{ t(`plan.job_${one.state}`) }}</span>
      <span class="figure" translate="no">{{
        t("plan.job_planned", {
          from: dayTimeText(one.planned_start_at),
          to: dayTimeText(one.planned_end_at),
        })
      }}</span>
      <span class="figure" translate="no">{{ span(one.start_at, one.end_at) }}</span>
    </li>
  </ul>
</template>

<style scoped>
li {
  align-items: center;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 20px 120px 90px minmax(0, 1fr) minmax(0, 1fr);
  min-height: 44px;
}

.name {
  align-items: center;
  color: var(--ink);
  display: inline-flex;
  font-size: var(--size-3);
  min-height: 44px;
}

.figure {
  font-size: var(--size-1);
}

.at-narrow li {
  grid-template-columns: 20px minmax(0, 1fr) 90px;
  padding: 4px 0;
}

.at-narrow .figure {
  grid-column: 2 / -1;
}
</style>
