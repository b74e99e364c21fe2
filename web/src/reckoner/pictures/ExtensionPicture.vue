<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const scale = computed(() => 325 / Math.max(at(props.numbers, "L") + at(props.numbers, "e"), 1));
const L = computed(() => at(props.numbers, "L") * scale.value);
const e = computed(() => at(props.numbers, "e") * scale.value);
const turn = computed(() => (clamp(at(props.numbers, "theta"), -180, 180) * Math.PI) / 180);
const drive = computed(() => 372 - L.value);
const bolt = computed(() => ({
  x: drive.value - e.value * Math.cos(turn.value),
  y: 96 - e.value * Math.sin(turn.value),
}));
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <path class="arm" :d="`M${drive} 96 H380`" />
    <path class="grip" :d="`M${drive + L - 30} 96 h60`" />
    <path class="extension" :class="{ lit: focus === 'e_mm' }" :d="`M${drive} 96 L${bolt.x} ${bolt.y}`" />
    <circle class="part" :cx="bolt.x" :cy="bolt.y" r="15" />
    <circle class="dot" :cx="drive" cy="96" r="6" />
    <path class="force" :d="`M${drive + L} 96 V30 m-7 10 l7 -10 l7 10`" />
    <path class="axis" :d="`M${drive} 132 H${drive + L} M${drive} 124 v16 M${drive + L} 124 v16`" />
    <text :x="drive + L / 2" y="150" text-anchor="middle" :class="{ lit: focus === 'L_mm' }">{{ "L" }}</text>
    <path class="axis" :d="`M${Math.min(bolt.x, drive)} 166 H${Math.max(bolt.x, drive)}`" />
    <text :x="(bolt.x + drive) / 2" y="184" text-anchor="middle" :class="{ lit: focus === 'e_mm' }">
      {{ "e" }}
    </text>
    <text :x="drive + L - 12" y="40" text-anchor="end">{{ t("reckoner.drawn.hand") }}</text>
  </svg>
</template>
