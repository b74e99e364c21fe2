<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** What is due later, from which state, by which method. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <rect x="34" y="10" width="52" height="42" />
      <path d="M34 22 h52 M46 6 v8 M74 6 v8" />
      <path class="now" d="M48 38 l8 8 l18 -16" />
    </svg>
    <fact-rows :call="call" :of="['after', 'after_running', 'state', 'method']" />
  </div>
</template>
