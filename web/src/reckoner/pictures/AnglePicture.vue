<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const xs = computed(() => 300 / Math.max(at(props.numbers, "angle"), at(props.numbers, "limit"), 1));
const ys = computed(() => 135 / Math.max(at(props.numbers, "yield"), at(props.numbers, "final"), 1));
const x = (degrees: number): number => 60 + Math.min(degrees * xs.value, 320);
const y = (load: number): number => 160 - load * ys.value;
const kneeAt = computed(() => Math.min(at(props.numbers, "angle"), at(props.numbers, "limit")));
const kneeLoad = computed(() => {
  const { numbers } = props;
  const share = kneeAt.value / Math.max(at(numbers, "angle"), 1e-9);
  return at(numbers, "snug") + share * (at(numbers, "elastic") - at(numbers, "snug"));
});
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <path class="axis" d="M60 14 V160 H392" />
    <path class="limit" :d="`M60 ${y(at(numbers, 'yield'))} H392`" />
    <text x="66" :y="y(at(numbers, 'yield')) - 5">{{ t("reckoner.drawn.yield") }}</text>
    <path
      class="force"
      fill="none"
      :d="`M${x(0)} ${y(at(numbers, 'snug'))} L${x(kneeAt)} ${y(Math.min(kneeLoad, at(numbers, 'yield')))} L${x(at(numbers, 'angle'))} ${y(at(numbers, 'final'))}`"
    />
    <path
      class="band"
      :d="`M${x(at(numbers, 'angle'))} ${y(at(numbers, 'low'))} V${y(at(numbers, 'high'))}`"
      stroke-width="12"
    />
    <circle
      :cx="x(0)"
      :cy="y(at(numbers, 'snug'))"
      r="5"
      class="dot"
      :class="{ lit: focus === 'T_snug_Nm' }"
    />
    <circle :cx="x(at(numbers, 'angle'))" :cy="y(at(numbers, 'final'))" r="6" class="dot" />
    <text :x="x(0) - 8" :y="y(at(numbers, 'snug')) + 5" text-anchor="end">
      {{ t("reckoner.drawn.snug") }}
    </text>
    <text :x="x(at(numbers, 'angle'))" y="180" text-anchor="middle" :class="{ lit: focus === 'angle_deg' }">
      {{ `${at(numbers, "angle").toFixed(0)}°` }}
    </text>
    <text x="52" y="22" text-anchor="end">{{ "F" }}</text>
  </svg>
</template>
