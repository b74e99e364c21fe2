<script setup lang="ts">
import type { Call } from "@/api/types";

/** Takes off the tag that an earlier step put on. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 120 60" class="draw" aria-hidden="true">
      <path class="wipe" d="M30 30 L46 14 H96 V46 H46 Z" />
      <path class="now" d="M52 30 l10 10 l22 -22" />
    </svg>
  </div>
</template>
