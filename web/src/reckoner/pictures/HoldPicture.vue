<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const scale = computed(() => 110 / Math.max(at(props.numbers, "engaged"), at(props.numbers, "needed"), 1));
const engaged = computed(() => clamp(at(props.numbers, "engaged") * scale.value, 4, 110));
const needed = computed(() => clamp(at(props.numbers, "needed") * scale.value, 4, 110));
const turns = computed(() =>
  Array.from({ length: Math.floor(engaged.value / 8) }, (_, k) => 40 + (k + 0.5) * 8),
);
</script>

<template>
  <svg viewBox="0 0 400 180" role="presentation">
    <g class="part">
      <path d="M60 40 H168 M232 40 H340 V170 H60 V40" />
      <rect class="stud" x="172" y="8" width="56" :height="32 + engaged" />
    </g>
    <path v-for="y in turns" :key="y" class="axis" :d="`M166 ${y} l6 4 l-6 4 M234 ${y} l-6 4 l6 4`" />
    <path class="axis" :d="`M262 40 h12 m-6 0 V${40 + engaged} m-6 0 h12`" />
    <text x="282" :y="44 + engaged / 2">{{ t("reckoner.drawn.engaged") }}</text>
    <path :class="needed > engaged ? 'limit' : 'force'" :d="`M120 40 V${40 + needed}`" />
    <text x="112" :y="44 + needed / 2" text-anchor="end">{{ t("reckoner.drawn.needed") }}</text>
  </svg>
</template>
