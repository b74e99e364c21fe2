<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { ProcedureRead } from "@/api/types";

/** The plan of a document: outlines, fasteners with their names, and their place in the order. */
const props = defineProps<{ document: ProcedureRead["document"] }>();
const { t } = useI18n();
const mm = (text: string): number => Number(text.split(" ")[0] ?? 0);
const order = computed(() => Object.values(props.document.orders)[0] ?? []);
const across = computed(() => mm(props.document.fasteners.across));
const spots = computed(() =>
  props.document.fasteners.positions.map((spot) => ({
    name: spot.name,
    x: mm(spot.x),
    y: -mm(spot.y),
    turn: order.value.indexOf(spot.name) + 1,
  })),
);
const box = computed(() => {
  const xs = spots.value.map((s) => s.x);
  const ys = spots.value.map((s) => s.y);
  const pad = across.value * 1.7;
  const left = Math.min(...xs) - pad;
  const high = Math.min(...ys) - pad;
  return `${left} ${high} ${Math.max(...xs) - left + pad} ${Math.max(...ys) - high + pad}`;
});
</script>

<template>
  <svg :viewBox="box" role="img" :aria-label="t('procedure.plan')" class="draft" translate="no">
    <template v-for="(shape, k) in document.outline ?? []" :key="k">
      <circle
        v-if="shape.shape === 'circle'"
        class="line"
        :cx="mm(shape.x)"
        :cy="-mm(shape.y)"
        :r="mm(shape.diameter) / 2"
      />
      <rect
        v-else
        class="line"
        :x="mm(shape.x) - mm(shape.width) / 2"
        :y="-mm(shape.y) - mm(shape.height) / 2"
        :width="mm(shape.width)"
        :height="mm(shape.height)"
        rx="16"
      />
    </template>
    <g v-for="spot in spots" :key="spot.name" :transform="`translate(${spot.x} ${spot.y})`">
      <circle class="nut" :r="across * 0.62" />
      <text text-anchor="middle" :y="across * 0.24" :font-size="across * 0.72">{{ spot.name }}</text>
    </g>
  </svg>
</template>

<style scoped>
.draft {
  display: block;
  height: 150px;
  width: 150px;
}

.line {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: 4;
}

.nut {
  fill: var(--panel-2);
  stroke: var(--ink);
  stroke-width: 4;
}

text {
  fill: var(--ink);
  font-family: var(--figures);
}
</style>
