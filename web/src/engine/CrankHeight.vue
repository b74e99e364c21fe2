<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { CrankView } from "@/api/types";
import { useActing } from "@/shared/acting";
import ChoiceField from "@/shared/ChoiceField.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { figureOf } from "@/shared/typed";

/** "30 mm before the top of piston 4" as an angle of the crank. */
const props = defineProps<{ engine: string; crank: CrankView }>();
const emit = defineEmits<{ found: [angle: string] }>();
const { t } = useI18n();
const SIDES = ["before", "after"] as const;

const cylinders = computed(() => Object.keys(props.crank.dead_centres));
const cylinder = ref("");
watch(cylinders, (names) => (cylinder.value ||= names[0] ?? ""), { immediate: true });
const height = ref("");
const side = ref<(typeof SIDES)[number]>("before");
const below = computed(() => figureOf(height.value));
const { busy, problem, unsent, act } = useActing();

async function take(): Promise<void> {
  const below_mm = below.value;
  if (below_mm === null) return;
  const params = {
    path: { engine_id: props.engine },
    query: { cylinder: cylinder.value, below_mm, side: side.value },
  };
  await act(async () => {
    const found = await answerOf(api.GET("/api/engines/{engine_id}/crank/height", { params }));
    emit("found", found.angle_deg.toFixed(1));
  });
}
</script>

<template>
  <div class="height" role="group" :aria-label="t('engine.height')">
    <choice-field
      v-model="cylinder"
      :label="t('engine.height_cylinder')"
      :items="cylinders.map((value) => ({ value, title: value, raw: true }))"
    />
    <v-text-field v-model="height" :label="t('engine.height_mm')" inputmode="decimal" maxlength="7" />
    <choice-field
      v-model="side"
      :label="t('engine.height_side')"
      :items="SIDES.map((value) => ({ value, title: t(`engine.side.${value}`) }))"
    />
    <v-btn :disabled="below === null || busy" @click="take">{{ t("engine.height_take") }}</v-btn>
    <problem-note v-if="problem || unsent" class="note" :problem="problem" :unsent="unsent" />
  </div>
</template>

<style scoped>
.height {
  align-items: start;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.height > * {
  flex: 1 1 96px;
}

.height > :nth-child(2) {
  flex-basis: 150px;
}

.height .v-btn {
  height: 48px !important;
}

.height > .note {
  flex-basis: 100%;
}
</style>
