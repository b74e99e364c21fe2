<script setup lang="ts">
import type { Wordings } from "@/api/types";

/**
 * What an author wrote, and below it the same in each other language of the document.
 *
 * What stands beside the author's words in their line is the slot's.
 */
defineProps<{ text: string; words: Wordings }>();
</script>

<template>
  <span translate="no">{{ text }}</span>
  <slot />
  <template v-for="(texts, language) in words" :key="language">
    <span v-if="texts[text]" class="also" translate="no" :lang="language">{{ texts[text] }}</span>
  </template>
</template>

<style scoped>
.also {
  color: var(--muted);
  display: block;
  font-size: var(--size-1);
  font-style: italic;
  font-weight: 400;
  line-height: 1.4;
}
</style>
