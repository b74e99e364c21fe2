<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const top = computed(() => Math.max(at(props.numbers, "most"), at(props.numbers, "turns"), 1) * 1.15);
const x = (turns: number): number => 16 + clamp((368 * turns) / top.value, 0, 368);
const good = computed(
  () =>
    at(props.numbers, "turns") >= at(props.numbers, "least") &&
    at(props.numbers, "turns") <= at(props.numbers, "most"),
);
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <!-- Turns of back-off on a line: trapped below, out of stroke above, good between. -->
    <rect class="trap" x="16" y="66" :width="x(at(numbers, 'least')) - 16" height="40" />
    <rect
      class="band"
      :x="x(at(numbers, 'least'))"
      y="66"
      :width="Math.max(0, x(at(numbers, 'most')) - x(at(numbers, 'least')))"
      height="40"
    />
    <rect
      class="trap"
      :x="x(at(numbers, 'most'))"
      y="66"
      :width="Math.max(0, 384 - x(at(numbers, 'most')))"
      height="40"
    />
    <path class="axis" d="M16 106 H384" />
    <path
      class="force"
      :class="{ lit: focus === 'jack_turns', bad: !good }"
      :d="`M${x(at(numbers, 'turns'))} 44 V118 m-8 -10 l8 10 l8 -10`"
    />
    <text :x="x(at(numbers, 'least') / 2)" y="92" text-anchor="middle">
      {{ t("reckoner.drawn.trapped") }}
    </text>
    <text :x="x((at(numbers, 'least') + at(numbers, 'most')) / 2)" y="92" text-anchor="middle">
      {{ t("reckoner.drawn.good") }}
    </text>
    <text :x="clamp(x(at(numbers, 'turns')), 60, 340)" y="34" text-anchor="middle">
      {{ t("reckoner.drawn.your_back_off") }}
    </text>
    <g v-for="turn in Math.min(12, Math.floor(top))" :key="turn">
      <path class="axis" :d="`M${x(turn)} 106 v9`" />
      <text :x="x(turn)" y="134" text-anchor="middle">{{ turn }}</text>
    </g>
    <g transform="translate(16 160)">
      <rect class="bar left" width="368" height="14" />
      <rect
        class="bar"
        :width="clamp((368 * at(numbers, 'travel')) / Math.max(at(numbers, 'stroke'), 0.1), 0, 368)"
        height="14"
      />
      <text x="0" y="-5">{{ t("reckoner.drawn.piston_travel_of_stroke") }}</text>
    </g>
  </svg>
</template>
