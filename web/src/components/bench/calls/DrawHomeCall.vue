<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A part drawn home evenly; the effort that means stop. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M28 52 V20 h12 v32 M80 52 V20 h12 v32" />
      <rect x="44" y="8" width="32" height="30" />
      <path class="now" d="M60 40 v12 m-6 -6 l6 7 l6 -7" />
    </svg>
    <fact-rows :call="call" :of="['last', 'stop_at']" />
  </div>
</template>
