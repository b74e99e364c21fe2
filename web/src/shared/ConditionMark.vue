<script setup lang="ts">
import type { Condition } from "@/api/types";

/** What a joint is like, drawn so that off, loose and tight differ in form: a block on its seat, and its nuts. */
defineProps<{ condition: Condition | null }>();
</script>

<template>
  <svg class="mark" viewBox="0 0 24 24" aria-hidden="true">
    <path class="seat" d="M2 21.5h20" />
    <template v-if="condition === 'closed_up'">
      <path class="full" d="M5 9h14v11H5z" />
      <path class="full" d="M3 3h18v4H3z" />
    </template>
    <template v-else-if="condition === 'tight'">
      <path class="full" d="M5 10h14v10H5z" />
      <path class="full" d="M6 5h4v4H6zM14 5h4v4h-4z" />
    </template>
    <template v-else-if="condition === 'loose'">
      <path class="bare" d="M5 11h14v9H5z" />
      <path class="bare" d="M6 2h4v4H6zM14 2h4v4h-4z" />
      <path class="bare" d="M8 7v3M16 7v3" />
    </template>
    <path v-else-if="condition === 'landed'" class="bare" d="M5 10h14v10H5z" />
    <path v-else-if="condition === 'open'" class="gone" d="M5 3h14v9H5z" />
    <path v-else class="bare" d="M8.5 8a3.5 3.5 0 1 1 5 3.2c-1 .6-1.5 1-1.5 2.8m0 2.2v1.6" />
  </svg>
</template>

<style scoped>
.mark {
  display: block;
  height: 24px;
  width: 24px;
}

.seat,
.bare,
.gone {
  fill: none;
  stroke: currentcolor;
  stroke-width: 2;
}

.full {
  fill: currentcolor;
}

.gone {
  stroke-dasharray: 3 2.5;
}
</style>
