<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Which product, on which faces, and which stay dry. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 8 q14 20 14 28 a14 14 0 0 1 -28 0 q0 -8 14 -28" />
    </svg>
    <fact-rows :call="call" :of="['product', 'faces', 'dry', 'max_age']" />
  </div>
</template>
