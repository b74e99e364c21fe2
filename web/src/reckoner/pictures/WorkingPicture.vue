<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const BARS = ["cold", "warm", "stud", "parts"] as const;
const load = (name: (typeof BARS)[number]): number => at(props.numbers, name === "parts" ? "left" : name);
const top = computed(() => Math.max(...BARS.map(load), 1));
const bars = computed(() =>
  BARS.map((name, k) => {
    const high = clamp((load(name) / top.value) * 118, 0, 118);
    return { name, x: 24 + k * 94, high, bad: load(name) <= 0 };
  }),
);
</script>

<template>
  <svg viewBox="0 0 400 170" role="presentation">
    <path class="axis" d="M10 140 H390" />
    <g v-for="bar in bars" :key="bar.name">
      <rect
        class="bar"
        :class="{ stretch: bar.name === 'parts' }"
        :x="bar.x"
        :y="140 - bar.high"
        width="62"
        :height="bar.high"
      />
      <path v-if="bar.bad" class="limit" :d="`M${bar.x} 136 h62`" />
      <text :x="bar.x + 31" y="160" text-anchor="middle">{{ t(`reckoner.drawn.${bar.name}`) }}</text>
    </g>
  </svg>
</template>
