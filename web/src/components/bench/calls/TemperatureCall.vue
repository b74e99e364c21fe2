<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A temperature is a value; nobody feels it. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M54 8 a6 6 0 0 1 12 0 V36 a11 11 0 1 1 -12 0 Z" />
      <path class="now" d="M60 20 V42" />
      <path d="M74 14 h10 M74 24 h10 M74 34 h10" />
    </svg>
    <fact-rows :call="call" :of="['at', 'sensed', 'at_most', 'at_least', 'max_age']" />
  </div>
</template>
