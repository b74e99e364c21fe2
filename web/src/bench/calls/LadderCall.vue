<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { Answer, Call } from "@/api/types";

/** One pressure for all tools on the hose: it is raised step by step, and each nut is tapped as it comes free. */
const props = defineProps<{ call: Call; beside: readonly Call[] }>();
const emit = defineEmits<{ give: [answer: Answer, cell: string] }>();
const { t } = useI18n();
const waiting = computed(() => props.beside.filter((one) => one.item === "free"));
const step = computed(() => Number.parseFloat(props.call.details["step"] ?? "10"));
const unit = computed(() => props.call.units[0] ?? "bar");
const expected = computed(() => Number.parseFloat(props.call.details["expected"] ?? "0"));
/** Nuts begin to move well below the healthy pressure, so the ladder begins there. */
const START = 0.8;
const first = (): number => Math.round((expected.value * START) / step.value) * step.value;
const now = ref(first());
watch(
  () => props.call.step,
  () => {
    now.value = first();
  },
);
/** The ladder ends at the ceiling; what a gauge showed above it can still be typed, and is held against it. */
const ceiling = computed(() => Number.parseFloat(props.call.details["ceiling"] ?? "Infinity"));
const atTop = computed(() => now.value + step.value > ceiling.value);
const share = computed(() => Math.min(1.2, now.value / Math.max(expected.value, 1)));

function free(call: Call): void {
  emit("give", { type: "value", text: String(now.value), unit: unit.value }, call.cell);
}
</script>

<template>
  <div v-if="waiting.length > 0" class="ladder">
    <div class="gauge">
      <span class="words">{{ t("bench.ladder") }}</span>
      <b class="figure" translate="no">{{ now }} {{ unit }}</b>
      <span class="muted">{{ t("bench.healthy", { p: call.details["expected"] ?? "" }) }}</span>
      <span class="column" aria-hidden="true"><i :style="{ height: `${share * 83}%` }" /><em /></span>
    </div>
    <div class="raise">
      <v-btn :disabled="atTop" @click="now += step">{{
        t("bench.ladder_up", { step: `+${step} ${unit}` })
      }}</v-btn>
      <v-btn :aria-label="`−${step} ${unit}`" translate="no" @click="now -= step"
        ><span translate="no">{{ `−${step}` }}</span></v-btn
      >
    </div>
    <p class="words hint" role="status">
      {{ atTop ? t("bench.ladder_top", { p: call.details["ceiling"] ?? "" }) : t("bench.ladder_tap") }}
    </p>
    <div class="nuts">
      <v-btn v-for="one in waiting" :key="one.cell" class="nut" @click="free(one)">
        <span translate="no">{{ one.fastener }}</span>
      </v-btn>
    </div>
  </div>
</template>

<style scoped>
.ladder {
  display: grid;
  gap: 8px;
}

.gauge {
  align-items: center;
  display: flex;
  font-size: var(--size-3);
  gap: 10px;
}

.gauge b {
  color: var(--paint);
  flex: 1;
  font-size: var(--size-7);
  white-space: nowrap;
}

.column {
  border: 1px solid var(--line-strong);
  height: 56px;
  position: relative;
  width: 26px;
}

.column i {
  background: var(--now);
  bottom: 0;
  left: 0;
  position: absolute;
  right: 0;
}

.column em {
  border-top: 2px solid var(--ink);
  bottom: 83%;
  left: -6px;
  position: absolute;
  right: -6px;
}

.raise {
  display: grid;
  gap: 8px;
  grid-template-columns: 2fr 1fr;
}

.hint {
  font-size: var(--size-3);
  margin: 0;
}

.nuts {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(4, 1fr);
}

.nut,
.raise .v-btn {
  font-size: var(--size-5);
  height: 64px !important;
  min-width: 0;
}
</style>
