<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** A sheet with fields, what was refused of it, and one main act. */
defineProps<{ open: boolean; title: string; text?: string; confirm: string; ready: boolean }>();
const emit = defineEmits<{ done: []; shut: [] }>();
const { t } = useI18n();
</script>

<template>
  <v-dialog :model-value="open" :aria-label="title" @update:model-value="emit('shut')">
    <form class="sheet" @submit.prevent="ready && emit('done')">
      <h2>{{ title }}</h2>
      <p v-if="text">{{ text }}</p>
      <div class="fields"><slot /></div>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
        <v-btn class="main" type="submit" :disabled="!ready">{{ confirm }}</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: var(--gap-3);
  margin: var(--gap-3) 0;
}

p {
  margin: 0;
}
</style>
