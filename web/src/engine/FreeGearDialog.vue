<script setup lang="ts">
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import FormDialog from "@/shared/FormDialog.vue";

/** The lock of the turning gear comes off for one move: whoever commands it is named before. */
const props = defineProps<{ open: boolean }>();
const emit = defineEmits<{ done: [commander: string]; shut: [] }>();
const { t } = useI18n();
const commander = ref("");
watch(
  () => props.open,
  () => (commander.value = ""),
);
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.gear_free_title')"
    :text="t('engine.gear_free_text')"
    :confirm="t('engine.move_lift')"
    :ready="commander.trim() !== ''"
    @done="emit('done', commander.trim())"
    @shut="emit('shut')"
  >
    <v-text-field v-model="commander" :label="t('engine.move_commander')" maxlength="60" />
  </form-dialog>
</template>
