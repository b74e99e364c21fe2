<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Leaves something owed: the tag stays on the run until a later step takes it off. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M30 30 L46 14 H96 V46 H46 Z" />
      <circle cx="44" cy="30" r="4" />
      <path class="now" d="M58 24 h28 M58 36 h20" />
    </svg>
    <fact-rows :call="call" :of="['puts_right', 'blocks', 'carried_to']" />
  </div>
</template>
