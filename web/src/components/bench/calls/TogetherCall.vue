<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Two people: who does what, the call and the answer. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <circle cx="34" cy="16" r="9" />
      <path d="M20 52 a14 22 0 0 1 28 0" />
      <circle cx="86" cy="16" r="9" />
      <path d="M72 52 a14 22 0 0 1 28 0" />
      <path class="now" d="M50 20 h20 m-5 -5 l6 5 l-6 5" />
    </svg>
    <fact-rows :call="call" :of="['first', 'second', 'call', 'answer']" />
  </div>
</template>
