<script setup lang="ts">
import { ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { vFocusFirst } from "@/shared/focusFirst";

const props = defineProps<{
  open: boolean;
  title: string;
  text: string;
  label: string;
  confirm: string;
  leave: string;
  quick?: readonly string[];
  /** What the sheet asks besides is not there yet. */
  wanting?: boolean;
}>();
const emit = defineEmits<{ done: [reason: string]; shut: [] }>();
const { t } = useI18n();
const reason = ref("");

watch(
  () => props.open,
  () => {
    reason.value = "";
  },
);

function done(): void {
  const words = reason.value.trim();
  if (words !== "" && !props.wanting) emit("done", words);
}
</script>

<template>
  <v-dialog :model-value="open" :aria-label="title" @update:model-value="emit('shut')">
    <form class="sheet" @submit.prevent="done">
      <h2>{{ title }}</h2>
      <p>{{ text }}</p>
      <slot />
      <div v-if="quick" class="quick">
        <v-btn v-for="words in quick" :key="words" @click="emit('done', t(words))">{{ t(words) }}</v-btn>
      </div>
      <v-textarea v-model="reason" v-focus-first :label="label" maxlength="1000" @keydown.ctrl.enter="done" />
      <div class="row">
        <v-btn @click="emit('shut')">{{ leave }}</v-btn>
        <v-btn class="main" type="submit" :disabled="reason.trim() === '' || wanting">{{ confirm }}</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.quick {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 14px 0;
}

p {
  margin: 0 0 14px;
}
</style>
