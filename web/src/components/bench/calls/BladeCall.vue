<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A blade tried where it must not, or must, go in. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M14 46 h92 M30 40 h60 v-20 h-60 z" />
      <path class="now" d="M4 43 h26" />
    </svg>
    <fact-rows :call="call" :of="['blade']" />
  </div>
</template>
