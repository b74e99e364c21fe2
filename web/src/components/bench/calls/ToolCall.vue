<script setup lang="ts">
import type { Call } from "@/api/types";

/** A tool is drawn from the register; the list stands below. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <span hidden />
  </div>
</template>
