<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Problem } from "@/api/types";
import { problemText } from "@/shared/problem";
import ProblemNote from "@/shared/ProblemNote.vue";

/** In place of a page that the server does not have, or cannot be asked for now. */
defineProps<{ problem: Problem | null; unsent: boolean }>();
defineEmits<{ again: [] }>();
const i18n = useI18n();
const { t } = i18n;
</script>

<template>
  <main v-if="problem || unsent" id="content" class="nothing">
    <h1>{{ t("error.nothing_here") }}</h1>
    <p v-if="problem" class="why">{{ problemText(i18n, problem) }}</p>
    <problem-note v-else :problem="null" :unsent="unsent" @again="$emit('again')" />
    <v-btn class="main" :to="{ name: 'berth' }">{{ t("error.to_berth") }}</v-btn>
  </main>
</template>

<style scoped>
.nothing {
  display: grid;
  gap: 16px;
  justify-items: start;
  margin: 0 auto;
  max-width: 760px;
  padding: 32px 24px;
  width: 100%;
}

.why {
  font-size: var(--size-4);
  margin: 0;
}

h1 {
  font-size: var(--size-6);
}
</style>
