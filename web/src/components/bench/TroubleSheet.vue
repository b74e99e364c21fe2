<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** One question after the one touch: what is wrong. */
defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: []; raise: [what: TroubleKind] }>();
const { t } = useI18n();
const KINDS = [
  "no_click",
  "clicked_at_once",
  "creak_or_bang",
  "out_of_swing",
  "cross_thread",
  "dirt",
  "tool_slipped",
  "other",
] as const;
type TroubleKind = (typeof KINDS)[number];
</script>

<template>
  <v-dialog :model-value="open" :aria-label="t('trouble.title')" @update:model-value="emit('shut')">
    <div class="sheet">
      <h2>{{ t("trouble.title") }}</h2>
      <div class="kinds">
        <v-btn v-for="kind in KINDS" :key="kind" @click="emit('raise', kind)">{{
          t(`trouble.${kind}`)
        }}</v-btn>
      </div>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.kinds {
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 1fr;
  margin: 10px 0;
}

.kinds .v-btn {
  font-size: 22px;
  height: 72px !important;
}
</style>
