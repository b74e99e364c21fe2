<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import FactRows from "@/bench/calls/FactRows.vue";

/** A reading of a gate: its limits as a bar, its place, and what may be done when it fails. */
const props = defineProps<{ call: Call }>();
const { t } = useI18n();
/** The strip is read by its width; the limits are of the clearance. */
const inWidths = computed(() => props.call.lines["scale"] !== undefined && props.call.ask === "value");
const limits = computed(() => [props.call.lower?.text, props.call.upper?.text]);
</script>

<template>
  <div class="body column">
    <p class="words what">{{ t(`procedure.code.${call.details["measure"] ?? "level"}`) }}</p>
    <svg v-if="!inWidths && (call.lower || call.upper)" viewBox="0 0 400 34" class="bar" aria-hidden="true">
      <path d="M10 20 H390" />
      <rect x="110" y="13" width="180" height="14" />
      <path class="now" d="M110 8 V32 M290 8 V32" />
      <text x="110" y="8" text-anchor="middle" translate="no">{{ limits[0] ?? "" }}</text>
      <text x="290" y="8" text-anchor="middle" translate="no">{{ limits[1] ?? "" }}</text>
    </svg>
    <fact-rows v-if="inWidths" :call="call" :of="['lower', 'upper']" />
    <fact-rows v-if="call.ask !== 'value'" :call="call" :of="['go', 'no_go', 'if_failed']" />
  </div>
</template>

<style scoped>
.what {
  font-size: var(--size-4);
  margin: 0;
}

.bar {
  margin-top: 8px;
  overflow: visible;
  width: 100%;
}

.bar path {
  fill: none;
  stroke: var(--line-strong);
  stroke-width: 2;
}

.bar rect {
  fill: var(--fill);
  opacity: 0.55;
}

.bar text {
  fill: var(--ink);
  font-family: var(--figures);
  font-size: var(--size-1);
}
</style>
