<script setup lang="ts">
import { computed } from "vue";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";
import { numberText } from "@/shared/format";

const props = defineProps<PictureProps>();
/* From 0 to 0.24: dry steel lies beyond, fat paste near the left end. */
const place = (mu: number): number => clamp((mu / 0.24) * 380, 0, 380);
const band = computed(() => [place(at(props.numbers, "low")), place(at(props.numbers, "high"))] as const);
const TICKS = [0.04, 0.08, 0.12, 0.16, 0.2];
</script>

<template>
  <svg viewBox="0 0 400 120" role="presentation">
    <g transform="translate(10 70)">
      <path class="axis" d="M0 0 H380" />
      <g v-for="tick in TICKS" :key="tick">
        <path class="axis" :d="`M${place(tick)} -5 V5`" />
        <text :x="place(tick)" y="24" text-anchor="middle">{{ numberText(tick.toFixed(2)) }}</text>
      </g>
      <rect class="band" :x="band[0]" y="-14" :width="Math.max(2, band[1] - band[0])" height="28" />
      <path class="force" :d="`M${place(at(numbers, 'mu'))} -26 V20`" />
      <text :x="place(at(numbers, 'mu'))" y="-34" text-anchor="middle">{{ "µ" }}</text>
    </g>
  </svg>
</template>
