<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A load on the hook: weight, points, clearance. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 2 V14 M60 14 L40 32 M60 14 L80 32" />
      <rect x="34" y="32" width="52" height="18" />
      <path class="now" d="M100 44 V16 m-6 8 l6 -8 l6 8" />
    </svg>
    <fact-rows :call="call" :of="['load', 'points', 'by']" />
  </div>
</template>
