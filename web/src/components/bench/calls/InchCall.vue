<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The crank moved by hand control only, and the sign that means stop. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <circle cx="60" cy="32" r="22" />
      <path class="now" d="M60 32 L76 18" />
      <path d="M84 20 a26 26 0 0 1 2 22 m-6 -6 l5 7 l8 -4" />
    </svg>
    <fact-rows :call="call" :of="['stop_at']" />
  </div>
</template>
