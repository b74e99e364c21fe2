<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Problem } from "@/api/types";
import { problemText } from "@/shared/problem";

const props = defineProps<{ problem: Problem | null; unsent: boolean }>();
defineEmits<{ again: [] }>();
const i18n = useI18n();
const { t } = i18n;
const title = computed(() => {
  if (props.unsent) return t("error.away_title");
  return t(props.problem?.asks === true ? "error.asks_title" : "error.title");
});
</script>

<template>
  <div v-if="problem || unsent" class="problem" :class="{ asks: problem?.asks }" role="alert">
    <strong class="words">{{ title }}</strong>
    <span>{{ problem ? problemText(i18n, problem) : t("error.network") }}</span>
    <v-btn v-if="unsent" class="again" @click="$emit('again')">{{ t("ui.retry") }}</v-btn>
  </div>
</template>

<style scoped>
.problem {
  align-items: center;
  border: 2px solid var(--out);
  color: var(--ink);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  padding: 8px 12px;
}

.problem.asks {
  border-color: var(--doubt);
}

.problem.asks strong {
  color: var(--doubt);
}

strong {
  color: var(--out);
  font-size: var(--size-4);
}

span {
  flex: 1 1 220px;
}
</style>
