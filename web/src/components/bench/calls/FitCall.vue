<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The one way in which the part goes. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M26 46 a34 34 0 0 1 68 0" />
      <path d="M36 46 a24 24 0 0 1 48 0" />
      <path class="now" d="M60 4 V18 m-6 -6 l6 7 l6 -7" />
    </svg>
    <fact-rows :call="call" :of="['rule']" />
  </div>
</template>
