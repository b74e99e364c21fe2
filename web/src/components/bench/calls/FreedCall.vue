<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Everything slack again, and its marks wiped on bolt and casting. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 6 L82 18 V42 L60 54 L38 42 V18 Z" />
      <path class="wipe" d="M60 30 L86 14" />
    </svg>
    <fact-rows :call="call" :of="['sign', 'wipe']" />
  </div>
</template>
