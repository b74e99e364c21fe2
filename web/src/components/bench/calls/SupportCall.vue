<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** What carries the part from here on, port by port. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <rect x="30" y="6" width="60" height="14" />
      <path class="now" d="M60 46 V22 m-6 7 l6 -8 l6 8" />
      <path d="M40 54 h40 M48 54 v-8 h24 v8" />
    </svg>
    <fact-rows :call="call" :of="['carries', 'ports']" />
  </div>
</template>
