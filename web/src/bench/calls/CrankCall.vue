<script setup lang="ts">
import { computed } from "vue";
import type { Call } from "@/api/types";
import FactRows from "@/bench/calls/FactRows.vue";

/** Where the crank stands: the wanted place on the circle, from its dead centre, and what proves it. */
const props = defineProps<{ call: Call }>();
const angle = computed(() => {
  const number = Number.parseFloat(props.call.details["angle"] ?? "0");
  const from = props.call.details["reference"] === "bdc" ? 180 : 0;
  return from + (props.call.details["side"] === "before" ? -number : number);
});
/** What the picture already shows is not said again. */
const facts = computed(() => {
  const other = props.call.details["cylinder"] !== "this";
  return other ? ["cylinder", "reference", "proof"] : ["reference", "proof"];
});
</script>

<template>
  <div class="body">
    <svg viewBox="0 0 160 110" class="draw" aria-hidden="true">
      <circle cx="80" cy="56" r="44" />
      <path d="M80 6 V16 M80 96 V106" />
      <g :transform="`rotate(${angle} 80 56)`">
        <path class="now" d="M80 56 V14" />
        <circle class="pin" cx="80" cy="16" r="8" />
      </g>
    </svg>
    <fact-rows :call="call" :of="facts" />
  </div>
</template>
