<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { Condition, JointStands } from "@/api/types";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";

/** How joints were found, or what became of them without the tablet. */
const props = defineProps<{ open: boolean; joints: readonly JointStands[]; picked: string | null }>();
const emit = defineEmits<{ done: [found: Record<string, Condition>, words: string]; shut: [] }>();
const { t } = useI18n();
const chosen = ref<string[]>([]);
const condition = ref<Condition>("closed_up");
const words = ref("");
const free = computed(() => props.joints.filter((joint) => !joint.under_way && joint.ladder.length > 0));
const ladder = computed<Condition[]>(() => {
  const mine = free.value.filter((joint) => chosen.value.includes(joint.key));
  const first = mine[0]?.ladder ?? [];
  return first.filter((one) => mine.every((joint) => joint.ladder.includes(one)));
});

watch(
  () => props.open,
  () => {
    chosen.value = props.picked === null ? [] : [props.picked];
    words.value = "";
  },
);
watch(ladder, (rungs) => {
  const first = rungs[0];
  if (first !== undefined && !rungs.includes(condition.value)) condition.value = first;
});

function done(): void {
  const found = Object.fromEntries(chosen.value.map((key) => [key, condition.value]));
  emit("done", found, words.value.trim());
}
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.declare_title')"
    :confirm="t('engine.declare')"
    :ready="chosen.length > 0 && ladder.includes(condition) && words.trim() !== ''"
    @done="done"
    @shut="emit('shut')"
  >
    <v-autocomplete
      v-model="chosen"
      :label="t('engine.declare_which')"
      :items="free.map((joint) => ({ value: joint.key, title: joint.label }))"
      multiple
      chips
      variant="outlined"
      rounded="0"
      hide-details="auto"
    />
    <choice-field
      v-model="condition"
      :label="t('engine.declare_as')"
      :items="ladder.map((value) => ({ value, title: t(`condition.${value}`) }))"
    />
    <v-textarea v-model="words" :label="t('engine.declare_words')" maxlength="1000" />
  </form-dialog>
</template>
