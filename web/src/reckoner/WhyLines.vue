<script setup lang="ts">
// Formulas need a face with a table of mathematical spacing; it is fetched only where one is shown.
import "@fontsource/noto-sans-math";
import { useI18n } from "vue-i18n";
import type { WhyLine } from "@/api/types";

defineProps<{ lines: WhyLine[] }>();
const { t } = useI18n();
</script>

<template>
  <ol class="why" tabindex="0" :aria-label="t('reckoner.why')">
    <li v-for="(line, k) in lines" :key="k">
      <span class="words">{{ t(`reckoner.step.${line.name}`) }}</span>
      <!-- eslint-disable vue/no-v-html -- MathML made by the server from its own formulas and numbers alone -->
      <span class="formula" translate="no" v-html="line.formula" />
      <span class="formula numbers" translate="no" v-html="line.numbers" />
      <!-- eslint-enable vue/no-v-html -->
    </li>
  </ol>
</template>

<style scoped>
.why {
  list-style: none;
  margin: 0;
  overflow-x: auto;
  padding: 0;
}

li {
  border-top: 1px solid var(--line);
  padding: 8px 0 10px;
}

.words {
  display: block;
  font-size: var(--size-3);
}

.formula {
  display: block;
  font-size: var(--size-3);
  margin-top: 6px;
  padding: 4px 0;
}

.numbers {
  border-left: 3px solid var(--line);
  color: var(--muted);
  font-size: var(--size-2);
  padding-left: 10px;
}

.formula :deep(math) {
  display: inline math;
  font-family: "Noto Sans Math", math;
}

.formula :deep(mtext) {
  font-family: var(--run);
}
</style>
