<script setup lang="ts">
import { useI18n } from "vue-i18n";

defineProps<{ decimal: boolean; signed?: boolean }>();
const emit = defineEmits<{ press: [key: string] }>();
const { t } = useI18n();
const lines = [
  ["1", "2", "3"],
  ["4", "5", "6"],
  ["7", "8", "9"],
];
</script>

<template>
  <div class="pad" :class="{ signed }" role="group" :aria-label="t('bench.keypad')">
    <template v-for="(line, i) in lines" :key="i">
      <button v-for="digit in line" :key="digit" type="button" class="figure" @click="emit('press', digit)">
        <span translate="no">{{ digit }}</span>
      </button>
      <button v-if="i === 0" type="button" class="words wide" @click="emit('press', 'wipe')">
        {{ t("bench.wipe") }}
      </button>
      <button
        v-if="i === 1"
        type="button"
        class="figure"
        :disabled="!decimal"
        :aria-label="t('bench.decimal')"
        @click="emit('press', '.')"
      >
        <span v-if="decimal" aria-hidden="true" class="dot" />
      </button>
      <button
        v-if="i === 1 && signed"
        type="button"
        class="figure"
        :aria-label="t('bench.minus')"
        @click="emit('press', '-')"
      >
        <span aria-hidden="true" class="dash" />
      </button>
      <button v-if="i === 2" type="button" class="figure wide" @click="emit('press', '0')">
        <span translate="no">0</span>
      </button>
    </template>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  gap: 6px;
  grid-template-columns: repeat(4, 1fr);
  max-width: 470px;
}

button {
  background: var(--panel-2);
  border: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
  font-size: var(--size-5);
  height: 64px;
  touch-action: manipulation;
}

button:disabled {
  background: transparent;
  cursor: default;
}

button.words {
  font-size: var(--size-4);
}

button:active:not(:disabled) {
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

.pad.signed {
  grid-template-columns: repeat(5, 1fr);
}

.pad.signed .wide {
  grid-column: span 2;
}

.at-narrow .pad {
  max-width: none;
}
</style>
