<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { TroubleView } from "@/api/types";

/** An open trouble, and the ways in which it can end. */
defineProps<{ trouble: TroubleView; mayDepart: boolean }>();
const emit = defineEmits<{ end: [how: "fixed" | "departure"]; redo: [] }>();
const { t } = useI18n();
</script>

<template>
  <section class="trouble" :aria-label="t('trouble.open')">
    <p class="words">
      {{ t(`trouble.${trouble.what}`) }}
      <small>
        <span translate="no">{{ trouble.title }}</span>
        <template v-if="trouble.fastener"> {{ t("trouble.at", { fastener: trouble.fastener }) }}</template>
      </small>
    </p>
    <div class="ways">
      <v-btn @click="emit('end', 'fixed')">{{ t("trouble.fixed") }}</v-btn>
      <v-btn @click="emit('redo')">{{ t("bench.redo") }}</v-btn>
      <v-btn v-if="mayDepart" @click="emit('end', 'departure')">{{ t("trouble.departure") }}</v-btn>
    </div>
  </section>
</template>

<style scoped>
.trouble {
  border: 2px dashed var(--doubt);
  padding: 8px 12px 10px;
}

p {
  font-size: 22px;
  margin: 0 0 6px;
}

small {
  color: var(--muted);
  font-family: var(--run);
  font-size: 14px;
  font-weight: 400;
}

.ways {
  display: grid;
  gap: 8px;
  grid-auto-columns: 1fr;
  grid-auto-flow: column;
}

.ways .v-btn {
  font-size: 19px;
  height: 64px !important;
  padding: 0 6px;
}
</style>
