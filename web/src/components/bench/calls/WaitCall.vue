<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Time, temperature or hours that must pass. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <circle cx="60" cy="32" r="22" />
      <path class="now" d="M60 32 V18 M60 32 L70 38" />
    </svg>
    <fact-rows :call="call" :of="['time', 'running_hours', 'cooled_to']" />
  </div>
</template>
