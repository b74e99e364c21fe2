<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A dry fit, and what it proves. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <fact-rows :call="call" :of="['proves', 'text']" />
  </div>
</template>
