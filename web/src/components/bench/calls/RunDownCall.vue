<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Run down to contact: by what, and the sign that ends it. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M20 50 h80 M60 50 V8" />
      <path d="M46 20 h28 v14 h-28 z" />
      <path class="now" d="M84 20 a14 10 0 0 1 -4 18 m-2 -7 l1 8 l8 0" />
    </svg>
    <fact-rows :call="call" :of="['at_most']" />
  </div>
</template>
