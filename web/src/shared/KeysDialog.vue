<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { lettersOn, setLetters } from "@/shared/shortcuts";

defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const keys = ["space", "digits", "enter", "backspace", "r", "f", "t", "n", "h", "p", "g", "q"];
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('keys.title')" @update:model-value="emit('shut')">
    <div class="sheet">
      <h2>{{ t("keys.title") }}</h2>
      <ul>
        <li v-for="key in keys" :key="key">{{ t(`keys.${key}`) }}</li>
      </ul>
      <v-checkbox
        :model-value="lettersOn"
        :label="t('keys.letters')"
        @update:model-value="(on) => setLetters(on === true)"
      />
      <p class="muted">{{ t("keys.letters_hint") }}</p>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.close") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
ul {
  line-height: 2;
  list-style: none;
  padding: 0;
}

label {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 48px;
}

input {
  height: 26px;
  width: 26px;
}
</style>
