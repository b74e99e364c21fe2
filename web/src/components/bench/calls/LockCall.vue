<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The lock on each nut, and whether it is a new one. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 8 L80 20 V40 L60 52 L40 40 V20 Z" />
      <path class="now" d="M40 40 L28 52 h26 Z" />
    </svg>
    <fact-rows :call="call" :of="['device']" />
  </div>
</template>
