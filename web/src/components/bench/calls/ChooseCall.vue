<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** The table from which the measurement chooses. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <fact-rows :call="call" :of="['statistic', 'table']" />
  </div>
</template>
