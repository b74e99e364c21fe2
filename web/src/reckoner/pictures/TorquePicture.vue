<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import { at, clamp, type PictureProps } from "@/reckoner/pictures/frame";

const props = defineProps<PictureProps>();
const { t } = useI18n();
const parts = computed(() => {
  let x = 0;
  return ["head", "thread", "stretch"].map((name) => {
    const width = 3.8 * at(props.numbers, name);
    x += width;
    return { name, x: x - width, width, text: `${at(props.numbers, name).toFixed(0)} %` };
  });
});
const place = (share: number): number => clamp(190 * share, 0, 376);
</script>

<template>
  <svg viewBox="0 0 400 190" role="presentation">
    <g transform="translate(10 6)">
      <g v-for="part in parts" :key="part.name">
        <rect class="bar" :class="part.name" :x="part.x" y="24" :width="part.width" height="40" />
        <text :x="part.x + part.width / 2" y="16" text-anchor="middle">{{ part.text }}</text>
        <text
          class="name"
          :x="part.x + (part.name === 'stretch' ? part.width : part.width / 2)"
          :y="part.name === 'stretch' ? 102 : 84"
          :text-anchor="part.name === 'stretch' ? 'end' : 'middle'"
        >
          {{ t(`reckoner.part.${part.name}`) }}
        </text>
      </g>
    </g>
    <!-- Load over the friction range, the wanted load in the middle. -->
    <g transform="translate(10 142)">
      <path class="axis" d="M0 0 H380" />
      <rect
        class="band"
        :x="place(at(numbers, 'low'))"
        y="-9"
        :width="place(at(numbers, 'high')) - place(at(numbers, 'low'))"
        height="18"
      />
      <path class="force" d="M190 -16 V16" />
      <text x="190" y="36" text-anchor="middle">{{ "F" }}</text>
      <text :x="place(at(numbers, 'low'))" y="36" text-anchor="middle">{{ "µ↑" }}</text>
      <text :x="place(at(numbers, 'high'))" y="36" text-anchor="middle">{{ "µ↓" }}</text>
    </g>
  </svg>
</template>
