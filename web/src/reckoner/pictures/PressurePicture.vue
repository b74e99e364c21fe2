<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
/* Yield is the top of the picture; what is pulled and what is left stand below it. */
const scale = computed(() => (150 * at(props.numbers, "peak")) / Math.max(at(props.numbers, "tool"), 1));
const tool = computed(() => at(props.numbers, "tool") * scale.value);
const left = computed(() => at(props.numbers, "residual") * scale.value);
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <!-- The tool on the stud, cut open: piston ring pulls the puller, the nut is run down below. -->
    <g class="part">
      <rect x="40" y="150" width="140" height="34" />
      <rect x="78" y="112" width="64" height="38" :class="{ lit: focus === 'nut_height_mm' }" />
      <path d="M48 150 V70 H66 V150 M172 150 V70 H154 V150" />
      <rect x="66" y="70" width="88" height="16" :class="{ lit: focus === 'A_mm2' }" />
      <rect x="70" y="44" width="80" height="26" />
      <rect x="98" y="20" width="24" height="164" class="stud" />
      <path d="M60 78 h-22 M38 72 v12" />
    </g>
    <path class="force" d="M110 18 V2 m-7 8 l7 -8 l7 8" />
    <text x="20" y="70" text-anchor="middle">{{ "p" }}</text>
    <!-- Loads side by side, yield above. -->
    <g transform="translate(230 178)">
      <path class="axis" d="M0 0 H150" />
      <rect class="bar" x="14" :y="-tool" width="44" :height="tool" />
      <rect class="bar left" x="88" :y="-left" width="44" :height="left" />
      <path class="limit" d="M0 -150 H150" />
      <text x="36" :y="-tool - 6" text-anchor="middle">{{ t("reckoner.drawn.f_tool") }}</text>
      <text x="110" :y="-left - 6" text-anchor="middle">{{ t("reckoner.drawn.f_left") }}</text>
      <text x="150" y="-156" text-anchor="end">
        {{ t("reckoner.drawn.yield") }}
      </text>
    </g>
  </svg>
</template>
