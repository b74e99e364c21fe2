<script setup lang="ts">
import type { Call } from "@/api/types";

/** Tool and spacer off the stud, and counted. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M52 54 V26 h16 v28" />
      <rect x="40" y="10" width="40" height="14" />
      <path class="now" d="M96 40 V12 m-6 8 l6 -8 l6 8" />
    </svg>
  </div>
</template>
