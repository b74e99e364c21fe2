<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** What cannot be undone, and what must have passed before it. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M20 30 H92 m-14 -14 l15 14 l-15 14" />
      <path class="now" d="M104 8 V52" />
    </svg>
    <fact-rows :call="call" :of="['passed']" />
  </div>
</template>
