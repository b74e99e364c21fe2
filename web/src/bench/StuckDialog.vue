<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { useActions } from "@/bench/actions";

/** A nut that will not move: the blade under it says whether the stud is held, or the thread. */
defineProps<{ cell: string; fastener: string; blade: string }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const actions = useActions();
</script>

<template>
  <v-dialog
    :model-value="true"
    :aria-label="t('stuck.title', { name: fastener })"
    @update:model-value="emit('shut')"
  >
    <div class="sheet">
      <h2>{{ t("stuck.title", { name: fastener }) }}</h2>
      <p>
        {{ t("stuck.blade") }} <b class="figure" translate="no">{{ blade }}</b>
      </p>
      <div class="pair">
        <v-btn @click="actions.reportStuck(cell, false)">{{ t("stuck.no_gap") }}</v-btn>
        <v-btn @click="actions.reportStuck(cell, true)">{{ t("stuck.gap") }}</v-btn>
      </div>
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.pair {
  display: grid;
  gap: 10px;
  grid-template-columns: 1fr 1fr;
  margin: 14px 0;
}

.pair .v-btn {
  font-size: var(--size-4);
  height: 72px !important;
}
</style>
