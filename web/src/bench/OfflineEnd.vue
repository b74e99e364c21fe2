<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** Everything that may be done without the server is done. */
const { t } = useI18n();
</script>

<template>
  <div class="end">
    <h1>{{ t("bench.end_alone_head") }}</h1>
    <p>{{ t("bench.end_alone_text") }}</p>
  </div>
</template>

<style scoped>
.end {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 14px;
}

h1 {
  font-size: var(--size-7);
  margin-top: 18px;
}

p {
  font-size: var(--size-3);
  margin: 0;
}
</style>
