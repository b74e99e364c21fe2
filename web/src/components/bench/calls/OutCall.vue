<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Out and parked; the last one only with the support in place. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 54 V20 M50 20 h20 v-12 h-20 z" />
      <path class="now" d="M88 44 V12 m-6 8 l6 -8 l6 8" />
    </svg>
    <fact-rows :call="call" :of="['park']" />
  </div>
</template>
