<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A point of the isolation, each by a named person: a lock on it. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <rect x="40" y="26" width="40" height="28" />
      <path d="M48 26 V18 a12 12 0 0 1 24 0 V26" />
      <path d="M60 36 V46" />
    </svg>
    <fact-rows :call="call" :of="['by', 'carried_to']" />
  </div>
</template>
