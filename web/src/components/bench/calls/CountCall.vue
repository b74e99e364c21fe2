<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Fasteners of one length are counted before any goes in. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M30 8 v38 M26 8 h8 M60 8 v26 M56 8 h8 M90 8 v16 M86 8 h8" />
      <path class="now" d="M24 50 h72" />
    </svg>
    <fact-rows :call="call" :of="['tally']" />
  </div>
</template>
