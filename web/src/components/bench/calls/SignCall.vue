<script setup lang="ts">
import type { Call } from "@/api/types";

/** A second person looks and signs; what there is to see stands above. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <span hidden />
  </div>
</template>
