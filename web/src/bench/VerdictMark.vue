<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { Row } from "@/api/types";

const props = defineProps<{ row: Row }>();
const { t } = useI18n();

function state(): string {
  if (props.row.struck) return "struck";
  if (props.row.fallen) return "fallen";
  if (props.row.rejected) return "rejected";
  if (props.row.accepted) return "accepted";
  return props.row.verdict;
}
</script>

<template>
  <span class="mark" :class="state()">
    <svg viewBox="0 0 20 20" aria-hidden="true">
      <path v-if="state() === 'in_band' || state() === 'noted'" d="M4 11 L8.5 15.5 L16 5" />
      <path v-else-if="state() === 'out_of_band'" d="M3 17 L17 3 M3 10 L10 3 M10 17 L17 10" />
      <path v-else-if="state() === 'too_near'" d="M10 3 V17 M5 10 H8 M12 10 H15" />
      <path v-else d="M3 10 H17" />
    </svg>
    <span>{{ t(state() === "noted" ? "verdict.noted" : `state.${state()}`) }}</span>
  </span>
</template>

<style scoped>
.mark {
  align-items: center;
  display: inline-flex;
  font-family: var(--words);
  font-weight: 600;
  gap: 5px;
  white-space: nowrap;
}

svg {
  height: 1em;
  width: 1em;
}

path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 3;
}

.out_of_band {
  color: var(--out);
}

.too_near {
  color: var(--doubt);
}

.noted,
.struck,
.fallen {
  color: var(--muted);
}
</style>
