<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A small angle all round; nobody takes one bolt to the end. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M60 6 L82 18 V42 L60 54 L38 42 V18 Z" />
      <path class="now" d="M92 20 a30 30 0 0 1 -4 26 m8 -4 l-9 6 l-4 -10" />
    </svg>
    <fact-rows :call="call" :of="['angle', 'rounds']" />
  </div>
</template>
