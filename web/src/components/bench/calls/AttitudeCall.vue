<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** How the whole engine lies now. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <fact-rows :call="call" :of="['attitude']" />
  </div>
</template>
