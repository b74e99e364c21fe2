<script setup lang="ts">
import type { Call } from "@/api/types";

/** A point that somebody looked at; the words are the author's. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <span hidden />
  </div>
</template>
