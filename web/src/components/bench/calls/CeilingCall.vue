<script setup lang="ts">
import type { Call } from "@/api/types";

/** The highest pressure, set on the pump and proved on a shut line. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M24 14 h72" />
      <path class="now" d="M60 50 V20 m-7 8 l7 -9 l7 9" />
      <path d="M24 54 h72" />
    </svg>
  </div>
</template>
