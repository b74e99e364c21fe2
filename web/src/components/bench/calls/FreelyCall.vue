<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The crank turned through: free, or a tight spot and where. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <circle cx="60" cy="30" r="22" />
      <circle cx="60" cy="14" r="5" />
      <path class="now" d="M90 18 a32 32 0 1 1 -14 -14 m-8 -2 l9 2 l-2 9" />
    </svg>
    <fact-rows :call="call" :of="['turns', 'standard']" />
  </div>
</template>
