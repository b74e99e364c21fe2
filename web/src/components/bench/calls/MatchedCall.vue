<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Parts that belong together: their mark is read and written down. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path d="M16 34 h38 v-16 h-38 z M66 34 h38 v-16 h-38 z" />
      <path class="now" d="M24 26 h22 M74 26 h22" />
      <path d="M35 34 q25 22 50 0" />
    </svg>
    <fact-rows :call="call" :of="['identity']" />
  </div>
</template>
