<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Call } from "@/api/types";
import { figureText } from "@/shared/format";

/** The head from above: from the mark to where the line must stand. */
const props = defineProps<{ call: Call }>();
const { t } = useI18n();
const number = (text: string | undefined): number => Number.parseFloat(text ?? "0");
const target = computed(() => number(props.call.figure?.text));
const sides = computed(() =>
  [props.call.lower, props.call.upper].map((f) => (f ? number(f.text) : target.value)),
);
/** Where a line of this length stands, from straight up, clockwise. */
function at(deg: number, radius: number): string {
  const rad = ((deg - 90) * Math.PI) / 180;
  return `${80 + radius * Math.cos(rad)} ${58 + radius * Math.sin(rad)}`;
}
const arc = computed(() => `M${at(0, 46)} A46 46 0 ${target.value > 180 ? 1 : 0} 1 ${at(target.value, 46)}`);
const hexagon = [0, 60, 120, 180, 240, 300].map((deg) => at(deg + 30, 26)).join(" L");
</script>

<template>
  <div v-if="call.item === 'turn'" class="body">
    <svg viewBox="0 0 160 116" class="draw tall" aria-hidden="true">
      <path :d="`M${hexagon} Z`" />
      <path :d="`M${at(0, 20)} L${at(0, 54)}`" />
      <path class="now" :d="arc" />
      <path class="now" :d="`M${at(target, 10)} L${at(target, 54)}`" />
      <path
        class="wipe"
        :d="`M${at(sides[0] ?? 0, 44)} L${at(sides[0] ?? 0, 56)} M${at(sides[1] ?? 0, 44)} L${at(sides[1] ?? 0, 56)}`"
      />
    </svg>
    <p class="beside">
      <span v-if="call.holds">{{ t("bench.holds", { load: figureText(call.holds) }) }}</span>
      <span v-if="call.details['means']">{{ t(`procedure.code.${call.details["means"]}`) }}</span>
      <span v-if="call.bites">{{ t("procedure.fact.bites") }} {{ call.bites }}</span>
    </p>
  </div>
</template>
