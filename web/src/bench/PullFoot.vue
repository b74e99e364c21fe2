<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** How a pull ended: one touch for the usual, one for each of the others. */
defineProps<{ check: boolean; howFar: boolean }>();
const emit = defineEmits<{
  main: [];
  measure: [];
  outcome: [outcome: "moved" | "still" | "broken_off" | "turned_on"];
}>();
const { t } = useI18n();
</script>

<template>
  <div class="pull">
    <v-btn class="main big" block @click="emit('main')">
      {{ check && !howFar ? t("bench.not_moved") : t("call.pull.do") }}
      <span class="key">{{ t("bench.space") }}</span>
    </v-btn>
    <div class="others">
      <v-btn :aria-pressed="howFar" @click="emit('measure')">{{ t("bench.how_far") }}</v-btn>
      <v-btn v-if="!check" @click="emit('outcome', 'still')">{{ t("bench.not_moved") }}</v-btn>
      <v-btn @click="emit('outcome', 'broken_off')">{{ t("bench.broken") }}</v-btn>
      <v-btn @click="emit('outcome', 'turned_on')">{{ t("bench.turned_on") }}</v-btn>
    </div>
  </div>
</template>

<style scoped>
.pull {
  display: grid;
  gap: 8px;
}

.big {
  font-size: var(--size-5);
  height: 84px !important;
}

.others {
  display: grid;
  gap: 8px;
  grid-template-columns: 1fr 1fr;
}

.others .v-btn {
  font-size: var(--size-3);
  height: 64px !important;
  padding: 0 6px;
  white-space: normal;
}
</style>
