<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { PlanShown, PlannedWork } from "@/api/types";
import { usePlanWords, type Pins } from "@/plan/plan";
import { dayTimeText } from "@/shared/format";

/** One piece of a plan: when, who, why not sooner; and whether it is kept where it is. */
const props = defineProps<{ plan: PlanShown; work: PlannedWork | null; pins: Pins; leads: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const words = usePlanWords(() => props.plan);
const HALF_HOUR_MIN = 30;
const kept = computed(() => (props.work === null ? undefined : props.pins.at[props.work.id]));
const who = computed(() => (props.work?.who ?? []).map(words.who).join(", "));
const things = computed(() =>
  [...(props.work?.sets ?? []), props.work?.crane ? t("plan.crane") : ""].filter(Boolean).join(", "),
);
</script>

<template>
  <v-dialog
    :model-value="work !== null"
    :aria-label="work ? t('plan.detail', { label: work.label, title: work.title }) : ''"
    @update:model-value="emit('shut')"
  >
    <div v-if="work" class="sheet">
      <h2>
        <span translate="no">{{ work.label }}</span>
      </h2>
      <p translate="no">{{ work.title }}</p>
      <p class="when words">
        <span translate="no">{{ dayTimeText(work.start_at) }} · {{ words.span(work) }}</span>
      </p>
      <p v-if="words.why(work)">{{ words.why(work) }}</p>
      <p class="muted">
        <span translate="no">{{ [who, things].filter(Boolean).join(" · ") }}</span>
        <template v-if="work.angle_deg !== null">
          · {{ t("plan.at_angle", { angle: Math.round(work.angle_deg) }) }}</template
        >
      </p>
      <p v-if="work.known" class="muted">
        {{ t(`plan.known_${work.known}`)
        }}<template v-if="work.late_min > 0">, {{ t("plan.late_by", { n: work.late_min }) }}</template>
      </p>
      <p v-if="kept" class="kept">{{ t("plan.kept") }}: {{ dayTimeText(kept) }}</p>
      <div v-if="leads" class="row">
        <v-btn @click="pins.moveBy(work, -HALF_HOUR_MIN)">{{ t("plan.sooner") }}</v-btn>
        <v-btn @click="pins.moveBy(work, HALF_HOUR_MIN)">{{ t("plan.later_by") }}</v-btn>
        <v-btn v-if="kept" @click="pins.letGo(work.id)">{{ t("plan.keep_not") }}</v-btn>
        <v-btn v-else class="main" @click="pins.keep(work.id, work.start_at)">{{ t("plan.keep") }}</v-btn>
      </div>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.close") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
p {
  margin: 4px 0;
}

.when {
  font-size: var(--size-4);
}

.kept {
  color: var(--now);
  font-weight: 700;
}
</style>
