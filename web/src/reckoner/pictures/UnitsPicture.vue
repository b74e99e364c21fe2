<script setup lang="ts">
import { computed } from "vue";
import { unitText } from "@/shared/format";
import type { PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
/* Two or three scales over one another: the same length, other figures on it. */
const rows = computed(() => Object.entries(props.numbers).slice(0, 4));
const marks = [0, 1, 2, 3, 4];
const figure = (value: number, k: number): string => Number(((value * k) / 4).toPrecision(3)).toString();
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <g v-for="([unit, value], row) in rows" :key="unit" :transform="`translate(72 ${24 + row * 44})`">
      <path class="axis" d="M0 0 H288" />
      <g v-for="k in marks" :key="k">
        <path class="axis" :d="`M${k * 72} 0 v9`" />
        <text :x="k * 72" y="24" text-anchor="middle">{{ figure(value, k) }}</text>
      </g>
      <text x="-8" y="5" text-anchor="end">{{ unitText(unit) }}</text>
    </g>
  </svg>
</template>
