<script setup lang="ts">
import type { Call } from "@/api/types";

/** Between which faces the length is read; the same load gives three different figures. */
defineProps<{ call: Call }>();
</script>

<template>
  <div v-if="call.item === 'length' && call.kind === 'stretch'" class="body">
    <svg viewBox="0 0 160 60" class="draw" aria-hidden="true">
      <path d="M10 24 h140 v12 h-140 z M56 14 h20 v32 h-20 z M96 8 v44" />
      <path
        v-if="call.details['datum'] === 'end_to_end'"
        class="now"
        d="M10 56 H150 m-140 -5 v10 m140 -10 v10"
      />
      <path v-else class="now" d="M96 56 H150 m-54 -5 v10 m54 -10 v10" />
    </svg>
  </div>
</template>
