<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A load landed: what guides it, and how the last stretch is done. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 2 V8 M60 8 L40 22 M60 8 L80 22" />
      <rect x="34" y="22" width="52" height="16" />
      <path d="M20 52 h80" />
      <path class="now" d="M100 12 V42 m-6 -8 l6 8 l6 -8" />
    </svg>
    <fact-rows :call="call" :of="['load', 'points']" />
  </div>
</template>
