<script setup lang="ts">
import { useI18n } from "vue-i18n";
import { chooseSignal, signal, SIGNALS, SIGNAL_WAYS, wantedSignals } from "@/shared/signals";
import type { Signal, SignalWay } from "@/shared/signals";

/** What is felt and heard of a press on this tablet; each is tried as it is switched on. */
const { t } = useI18n();

function turn(what: Signal, way: SignalWay): void {
  const on = !wantedSignals.value[what][way];
  chooseSignal(what, way, on);
  if (on) signal(what);
}
</script>

<template>
  <h3>{{ t("signals.title") }}</h3>
  <div v-for="what in SIGNALS" :key="what" class="line" role="group" :aria-label="t(`signals.${what}`)">
    <span class="words">{{ t(`signals.${what}`) }}</span>
    <v-btn
      v-for="way in SIGNAL_WAYS"
      :key="way"
      :class="{ main: wantedSignals[what][way] }"
      :aria-pressed="wantedSignals[what][way]"
      @click="turn(what, way)"
      >{{ t(wantedSignals[what][way] ? `signals.${way}` : `signals.no_${way}`) }}</v-btn
    >
  </div>
</template>

<style scoped>
h3 {
  font-size: var(--size-4);
  margin-top: 18px;
}

.line {
  align-items: center;
  display: grid;
  gap: 8px;
  grid-template-columns: 150px 1fr 1fr;
  margin-top: 8px;
}

.line .words {
  font-size: var(--size-4);
}

.line .v-btn {
  font-size: var(--size-3);
  height: 56px !important;
  min-width: 0;
}

.at-phone .line {
  grid-template-columns: 1fr 1fr;
}

.at-phone .line .words {
  grid-column: 1 / -1;
}
</style>
