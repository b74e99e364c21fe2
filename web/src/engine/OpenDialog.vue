<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { JointCell } from "@/api/types";
import FormDialog from "@/shared/FormDialog.vue";

/** An overhaul is opened: its name, what is worked on, whether the engine stands as it ran. */
const props = defineProps<{ open: boolean; engine: string; joints: readonly JointCell[] }>();
const emit = defineEmits<{ done: [title: string, scope: string[], asItRan: boolean]; shut: [] }>();
const { t } = useI18n();
const title = ref("");
const scope = ref<string[]>([]);
const asItRan = ref(false);
const items = computed(() => props.joints.map((joint) => ({ value: joint.key, title: joint.label })));
watch(
  () => props.open,
  () => {
    title.value = "";
    scope.value = [];
    asItRan.value = false;
  },
);
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.open_title', { engine })"
    :confirm="t('engine.open')"
    :ready="title.trim() !== ''"
    @done="emit('done', title.trim(), scope, asItRan)"
    @shut="emit('shut')"
  >
    <v-text-field v-model="title" :label="t('engine.open_name')" maxlength="60" />
    <v-autocomplete
      v-model="scope"
      :label="t('engine.scope')"
      :items="items"
      multiple
      chips
      variant="outlined"
      rounded="0"
      hide-details="auto"
    />
    <v-checkbox v-model="asItRan" :label="t('engine.open_as_it_ran')" />
  </form-dialog>
</template>
