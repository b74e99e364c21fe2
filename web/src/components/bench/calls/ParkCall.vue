<script setup lang="ts">
import type { Call } from "@/api/types";
import FactRows from "./FactRows.vue";

/** Where the parts lie, and their tag. */
defineProps<{ call: Call }>();
</script>

<template>
  <div class="body">
    <fact-rows :call="call" :of="['place', 'tag']" />
  </div>
</template>
