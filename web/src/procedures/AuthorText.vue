<script setup lang="ts">
import type { OtherWords } from "@/api/types";

/**
 * What an author wrote, and below it the same in the second language of the document, where it has one.
 *
 * What stands beside the author's words in their line is the slot's.
 */
defineProps<{ text: string; words: OtherWords | null }>();
</script>

<template>
  <span translate="no">{{ text }}</span>
  <slot />
  <span v-if="words?.texts[text]" class="also" translate="no" :lang="words.language">{{
    words.texts[text]
  }}</span>
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
