<script setup lang="ts">
import { computed } from "vue";
import type { Call } from "@/api/types";
import FactRows from "@/bench/calls/FactRows.vue";

/** Ring gaps seen from above, each at its angle; the one asked for stands out. */
const props = defineProps<{ call: Call }>();
const gaps = computed(() => (props.call.lines["angles"] ?? []).map((text) => Number.parseFloat(text)));
const asked = computed(() => Number(props.call.item.split(":")[1] ?? 0) - 1);
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 160 110" class="draw tall" aria-hidden="true">
      <circle cx="80" cy="55" r="44" />
      <circle
        v-for="(gap, k) in gaps"
        :key="k"
        :class="{ pin: k === asked }"
        cx="80"
        cy="11"
        r="6"
        :transform="`rotate(${gap} 80 55)`"
      />
    </svg>
    <fact-rows :call="call" :of="['apart_at_least', 'avoid']" />
  </div>
</template>
