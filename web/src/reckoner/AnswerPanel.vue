<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { Reckoned, ShownFigure } from "@/api/types";
import { numberText, unitText } from "@/shared/format";

const props = defineProps<{
  answer: Reckoned | null;
  stale: boolean;
  gap: string | null;
  wanted: Record<string, string>;
}>();
const emit = defineEmits<{ unit: [quantity: string, unit: string] }>();
const { t } = useI18n();
const first = computed(() => props.answer?.told[0] ?? null);
const rest = computed(() => props.answer?.told.slice(1) ?? []);

const isUnit = (figure: ShownFigure): boolean => figure.name.startsWith("unit:");

function label(figure: ShownFigure): string {
  return isUnit(figure) ? unitText(figure.name.slice(5)) : t(`reckoner.told.${figure.name}`);
}

function doubt(figure: ShownFigure): string | null {
  if (figure.spread) return t("reckoner.spread", { spread: figure.spread });
  if (figure.low) return t("reckoner.range", { low: figure.low, high: figure.high ?? "" });
  return null;
}

/** The next unit that measures the same; one tap goes round all of them. */
function turnUnit(figure: ShownFigure): void {
  if (!figure.quantity) return;
  // Quick taps count on from the unit asked for, not from the one still shown.
  const at = figure.units.indexOf(props.wanted[figure.quantity] ?? figure.unit_name);
  const next = figure.units[(at + 1) % figure.units.length];
  if (next !== undefined) emit("unit", figure.quantity, next);
}
</script>

<template>
  <div class="answer" aria-live="polite" :class="{ stale }">
    <p v-if="gap" class="gap words">{{ gap }}</p>
    <template v-else-if="first">
      <div class="first">
        <span class="words" :translate="isUnit(first) ? 'no' : undefined">{{ label(first) }}</span>
        <span class="number">
          <span class="figure" translate="no">{{ numberText(first.text) }}</span>
          <button
            v-if="first.units.length > 1"
            type="button"
            class="unit"
            :aria-label="`${t('reckoner.unit_of', { field: label(first) })}: ${first.unit}`"
            translate="no"
            @click="turnUnit(first)"
          >
            {{ first.unit }}
          </button>
        </span>
        <span v-if="doubt(first)" class="doubt figure"
          >{{ doubt(first) }} <small>{{ first.unit }}</small></span
        >
      </div>
      <slot />
      <dl v-if="rest.length > 0">
        <div v-for="figure in rest" :key="figure.name">
          <dt :translate="isUnit(figure) ? 'no' : undefined">{{ label(figure) }}</dt>
          <dd>
            <span class="figure" translate="no">{{ numberText(figure.text) }}</span>
            <span v-if="doubt(figure)" class="small figure">{{ doubt(figure) }}</span>
            <button
              v-if="figure.units.length > 1"
              type="button"
              class="unit"
              :aria-label="`${t('reckoner.unit_of', { field: label(figure) })}: ${figure.unit}`"
              translate="no"
              @click="turnUnit(figure)"
            >
              {{ figure.unit }}
            </button>
            <span v-else class="unit" translate="no">{{ figure.unit }}</span>
          </dd>
        </div>
      </dl>
    </template>
  </div>
</template>

<style scoped>
.answer.stale {
  opacity: 0.45;
}

.gap {
  color: var(--muted);
  font-size: var(--size-4);
  padding: 18px 0;
}

.first {
  align-items: baseline;
  display: grid;
  grid-template-columns: 1fr auto;
}

.first .words {
  font-size: var(--size-4);
  grid-column: 1 / -1;
}

.number .figure {
  font-size: var(--size-8);
  letter-spacing: -1px;
  line-height: 1.1;
}

.doubt {
  color: var(--doubt);
  font-size: var(--size-4);
  text-align: right;
}

.unit {
  background: none;
  border: 0;
  color: var(--ink);
  font-family: var(--run);
  font-size: var(--size-2);
  min-width: 52px;
  padding: 0 4px;
  text-align: left;
}

button.unit {
  cursor: pointer;
  min-height: 40px;
  text-decoration: underline dotted;
  text-underline-offset: 4px;
}

.number .unit {
  font-size: var(--size-5);
  min-height: 56px;
  padding-left: 10px;
}

dl {
  border-top: 1px solid var(--line);
  margin: 8px 0 0;
}

dl > div {
  align-items: center;
  border-bottom: 1px solid var(--line);
  display: flex;
  gap: 10px;
  justify-content: space-between;
  min-height: 40px;
}

dt {
  font-size: var(--size-2);
  line-height: 1.2;
}

dd {
  align-items: center;
  display: flex;
  flex: none;
  gap: 8px;
  margin: 0;
}

dd .figure {
  font-size: var(--size-3);
}

dd .small {
  color: var(--doubt);
  font-size: var(--size-1);
}

button.unit {
  min-height: var(--touch);
  min-width: var(--touch);
}
</style>
