<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const width = computed(() => clamp(at(props.numbers, "width") * 70, 16, 330));
const gap = computed(() => clamp(at(props.numbers, "clearance") * 260, 6, 60));
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <rect class="part" x="16" :y="88 - gap / 2 - 46" width="368" height="46" />
    <rect class="part" x="16" :y="88 + gap / 2" width="368" height="46" />
    <rect class="strip" :x="200 - width / 2" :y="88 - gap / 2" :width="width" :height="gap" />
    <text x="28" :y="88 - gap / 2 - 18">{{ t("reckoner.drawn.shell") }}</text>
    <text x="28" :y="88 + gap / 2 + 28">{{ t("reckoner.drawn.journal") }}</text>
    <path
      class="axis"
      :d="`M${200 - width / 2} 168 H${200 + width / 2} m0 -8 v16 M${200 - width / 2} 160 v16`"
    />
    <text x="200" y="186" text-anchor="middle" :class="{ lit: focus === 'width_mm' }">{{ "w" }}</text>
    <path class="force" :d="`M${212 + width / 2} ${88 - gap / 2} v${gap}`" />
    <text :x="222 + width / 2" y="94">{{ "c" }}</text>
  </svg>
</template>
