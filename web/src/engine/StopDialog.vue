<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { StopCause } from "@/api/types";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import MomentField from "@/shared/MomentField.vue";

/** When the engine stopped, and why: nothing is chosen beforehand. */
const props = defineProps<{ open: boolean }>();
const emit = defineEmits<{ done: [at: string, cause: StopCause]; shut: [] }>();
const { t } = useI18n();
const CAUSES: readonly StopCause[] = ["planned", "mist_alarm", "hot_bearing", "seizure", "unknown"];
const DAYS_BACK = 14;
const at = ref("");
const cause = ref<StopCause | "">("");
const causes = computed(() => CAUSES.map((value) => ({ value, title: t(`engine.stop.cause.${value}`) })));
watch(
  () => props.open,
  () => ([at.value, cause.value] = ["", ""]),
);

function done(): void {
  if (cause.value !== "") emit("done", new Date(at.value).toISOString(), cause.value);
}
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.stop.title')"
    :confirm="t('engine.stop.note')"
    :ready="at !== '' && cause !== ''"
    @done="done"
    @shut="emit('shut')"
  >
    <moment-field v-model="at" :label="t('engine.stop.when')" :past="DAYS_BACK" />
    <choice-field v-model="cause" :label="t('engine.stop.why')" :items="causes" />
  </form-dialog>
</template>
