<script setup lang="ts">
import type { Call } from "@/api/types";

/** Pressure off, and zero seen on the gauge. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M34 50 a28 28 0 1 1 52 0" />
      <path class="now" d="M60 42 L38 46" />
    </svg>
  </div>
</template>
