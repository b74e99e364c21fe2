<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The bead, where it never goes, and the time there is. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <rect x="18" y="36" width="84" height="12" />
      <path class="now" d="M24 32 q8 -8 16 0 t16 0 t16 0 t16 0 t12 0" />
    </svg>
    <fact-rows :call="call" :of="['product', 'bead', 'not_at', 'close_within', 'cure']" />
  </div>
</template>
