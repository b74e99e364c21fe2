<script setup lang="ts">
import { useI18n } from "vue-i18n";

/** Digits as on a telephone, zero under the eight; what takes the entry may stand beside them, under one hand. */
defineProps<{ decimal: boolean; signed?: boolean }>();
const emit = defineEmits<{ press: [key: string] }>();
defineSlots<{ main?: () => unknown }>();
const { t } = useI18n();
const DIGITS = ["1", "2", "3", "4", "5", "6", "7", "8", "9"];
</script>

<template>
  <div class="pad" :class="{ narrow: !decimal && !$slots.main }" role="group" :aria-label="t('bench.keypad')">
    <button
      v-for="(digit, k) in DIGITS"
      :key="digit"
      type="button"
      class="figure"
      :style="{ gridColumn: (k % 3) + 1, gridRow: Math.floor(k / 3) + 1 }"
      @click="emit('press', digit)"
    >
      <span translate="no">{{ digit }}</span>
    </button>
    <button
      v-if="signed"
      type="button"
      class="figure left"
      :aria-label="t('bench.minus')"
      @click="emit('press', '-')"
    >
      <span aria-hidden="true" class="dash" />
    </button>
    <button type="button" class="figure zero" @click="emit('press', '0')">
      <span translate="no">0</span>
    </button>
    <button
      v-if="decimal"
      type="button"
      class="figure right"
      :aria-label="t('bench.decimal')"
      @click="emit('press', '.')"
    >
      <span aria-hidden="true" class="dot" />
    </button>
    <button type="button" class="words wipe" @click="emit('press', 'wipe')">{{ t("bench.wipe") }}</button>
    <div v-if="$slots.main" class="main-key"><slot name="main" /></div>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  gap: 6px;
  grid-auto-flow: row;
  grid-template-columns: repeat(3, 1fr) 1.35fr;
  grid-template-rows: repeat(4, 64px);
  max-width: 470px;
}

.zero,
.left,
.right {
  grid-row: 4;
}

.left {
  grid-column: 1;
}

.zero {
  grid-column: 2;
}

.right {
  grid-column: 3;
}

.wipe {
  grid-column: 4;
  grid-row: 1 / span 2;
}

/* A PIN has neither a point nor a key beside it. */
.narrow {
  grid-template-columns: repeat(3, 1fr);
}

.narrow .wipe {
  grid-column: 3;
  grid-row: 4;
}

.main-key {
  display: grid;
  grid-column: 4;
  grid-row: 3 / span 2;
}

.main-key :deep(.v-btn) {
  font-size: var(--size-4);
  height: 100% !important;
  min-width: 0;
  padding: 0 6px;
}

.main-key :deep(.v-btn__content) {
  display: grid;
  gap: 6px;
  justify-items: center;
  white-space: normal;
}

button {
  background: var(--panel-2);
  border: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
  font-size: var(--size-5);
  touch-action: manipulation;
}

button.words {
  font-size: var(--size-4);
  hyphens: auto;
}

button:active {
  background: var(--line);
}

.dot {
  background: currentcolor;
  display: inline-block;
  height: 8px;
  width: 8px;
}

.dash {
  background: currentcolor;
  display: inline-block;
  height: 3px;
  vertical-align: middle;
  width: 18px;
}

.at-narrow .pad {
  max-width: none;
}
</style>
