<script setup lang="ts">
import type { Call } from "@/api/types";

/** Air out, until oil runs without bubbles. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M20 44 H70 M70 44 v-16 h12" />
      <circle cx="90" cy="22" r="3" />
      <circle cx="98" cy="14" r="4" />
      <circle cx="104" cy="26" r="2.5" />
    </svg>
  </div>
</template>
