<script setup lang="ts">
import type { OtherWords } from "@/api/types";

/** What an author wrote, and below it the same in the second language of the document, where it has one. */
defineProps<{ text: string; words: OtherWords | null }>();
</script>

<template>
  <span translate="no">{{ text }}</span>
  <span v-if="words?.texts[text]" class="also" translate="no" :lang="words.language">{{
    words.texts[text]
  }}</span>
</template>

<style scoped>
.also {
  color: var(--muted);
  display: block;
  font-style: italic;
}
</style>
