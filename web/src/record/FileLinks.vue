<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { RunListed } from "@/api/types";

/** The record of a run as the files that one takes away. */
defineProps<{ run: RunListed }>();
const { t } = useI18n();
const FILES = ["pdf", "csv", "json"] as const;
</script>

<template>
  <span class="files">
    <a
      v-for="file in FILES"
      :key="file"
      class="words"
      :href="`/api/runs/${run.run_id}/record.${file}`"
      :aria-label="`${t(`records.${file}`)} ${run.engine} ${run.joint}`"
    >
      {{ t(`records.${file}`) }}
    </a>
  </span>
</template>

<style scoped>
.files {
  white-space: nowrap;
}

.files a {
  align-items: center;
  border: 1px solid var(--line-strong);
  color: var(--ink);
  display: inline-flex;
  font-size: var(--size-3);
  height: 48px;
  justify-content: center;
  margin-right: 6px;
  min-width: 54px;
  padding: 0 6px;
  text-decoration: none;
}
</style>
