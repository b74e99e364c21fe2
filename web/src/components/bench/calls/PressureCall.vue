<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** A pressure stage: peak, hold, nuts, lowest, feeler before release. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <fact-rows :call="call" :of="['pressure', 'hold', 'nut_bar', 'afterwards']" />
  </div>
</template>
