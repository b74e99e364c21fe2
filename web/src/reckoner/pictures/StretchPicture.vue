<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
/* Drawn far too large: a stretch of a millimetre or two would not be seen. */
const gain = computed(() => 26 / Math.max(at(props.numbers, "face"), 0.001));
const own = computed(() => clamp(at(props.numbers, "own") * gain.value, 0, 40));
const face = computed(() => clamp(at(props.numbers, "face") * gain.value, 0, 40));
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <g class="part">
      <path d="M30 74 H92 M128 74 H190 V184 H30 V74" />
      <rect x="82" y="50" width="56" height="24" />
      <rect class="stud" x="98" y="30" width="24" height="150" />
    </g>
    <text x="64" y="174" text-anchor="middle">{{ t("reckoner.drawn.slack") }}</text>
    <g class="part" transform="translate(200 0)">
      <path :d="`M30 ${74 + face - own} H92 M128 ${74 + face - own} H190 V184 H30 V${74 + face - own}`" />
      <rect x="82" :y="50 + face - own" width="56" height="24" />
      <rect class="stud" x="98" :y="30 - own + (face - own)" width="24" :height="150 + own - (face - own)" />
    </g>
    <text x="264" y="174" text-anchor="middle">{{ t("reckoner.drawn.loaded") }}</text>
    <path class="limit" :d="`M122 30 H298 M322 30 H352`" />
    <path class="force" :d="`M340 30 V${30 - own + (face - own)}`" />
    <text x="352" :y="28 - own / 2">{{ "ΔL" }}</text>
    <path
      class="axis"
      :d="`M386 ${74 + face - own} V${30 - own + (face - own)} m-6 0 h12 m-12 ${44 + own} h12`"
    />
    <text x="378" y="66" text-anchor="end">{{ "x" }}</text>
  </svg>
</template>
