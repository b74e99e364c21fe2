<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A part of a turn back, and why. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <circle cx="60" cy="30" r="20" />
      <path class="now" d="M88 30 a28 28 0 1 0 -8 20 m-8 -1 l8 2 l3 -9" />
    </svg>
    <fact-rows :call="call" :of="['turns']" />
  </div>
</template>
