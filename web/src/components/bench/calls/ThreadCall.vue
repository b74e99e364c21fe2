<script setup lang="ts">
import type { Call } from "@/api/types";

/** Thread standing above the nut, for the puller to hold by. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M40 50 h40 v-16 h-40 z M52 34 V8 h16 v26" />
      <path class="now" d="M92 8 V34 m-5 0 h10 m-10 -26 h10" />
    </svg>
  </div>
</template>
