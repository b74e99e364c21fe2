<script setup lang="ts">
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { CloseOut } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import { numberText, whenText } from "@/shared/format";
import { figureOf } from "@/shared/typed";
import ProblemNote from "@/shared/ProblemNote.vue";
import WideTable from "@/shared/WideTable.vue";

/** How the shaft lies: the web deflections of every throw, before and after. */
const { t } = useI18n();
const engine = useEngine();
const leads = computed(() => engine.page.value?.may_lead ?? false);
const end = computed<CloseOut | null>(() => engine.overhaul.value?.close_out ?? null);
const sheets = computed(() => end.value?.deflections ?? []);
type Five = [number, number, number, number, number];

const open = ref(false);
const when = ref<"before" | "after">("before");
const typed = reactive<Record<string, string[]>>({});
const warm = ref("");
const draught = ref("");
const accepted = ref("");

function ask(): void {
  engine.acting.clear();
  when.value = sheets.value.some((one) => one.when === "before") ? "after" : "before";
  for (const pin of end.value?.pins ?? []) typed[pin] = ["0", "", "", "", ""];
  open.value = true;
}
function throwOf(pin: string): Five | null {
  const five = (typed[pin] ?? []).map(figureOf);
  return five.length === 5 && five.every((one) => one !== null) ? (five as Five) : null;
}
const ready = computed(
  () => (end.value?.pins ?? []).every((pin) => throwOf(pin) !== null) && figureOf(warm.value) !== null,
);
async function done(): Promise<void> {
  const throws: Record<string, Five> = {};
  for (const pin of end.value?.pins ?? []) {
    const five = throwOf(pin);
    if (five !== null) throws[pin] = five;
  }
  const warmth = figureOf(warm.value);
  if (warmth === null) return;
  const stored = await engine.send({
    kind: "read_deflections",
    when: when.value,
    throws_mm: throws,
    engine_degC: warmth,
    draught: draught.value.trim() || null,
    accepted: accepted.value.trim() || null,
  });
  if (stored) open.value = false;
}
const readWords = (one: CloseOut["deflections"][number]): string =>
  [
    `${t(`shaft.${one.when}`)}: ${one.by}, ${whenText(one.at)}`,
    t("shaft.in", { degC: one.engine_degC }),
    one.draught,
    one.accepted,
  ]
    .filter(Boolean)
    .join(", ") + ".";
const mm = (value: number): string =>
  numberText(`${value > 0 ? "+" : ""}${value.toFixed(3).replace("-", "−")}`);
const at = (
  pin: string,
  order: "before" | "after",
): CloseOut["deflections"][number]["throws"][number] | null =>
  sheets.value.find((one) => one.when === order)?.throws.find((one) => one.pin === pin) ?? null;
</script>

<template>
  <board-panel
    v-if="end"
    :title="t('shaft.title')"
    :none="t(end.shaft_waits ? 'shaft.waits' : 'shaft.none')"
    :empty="sheets.length === 0"
    :hot="end.shaft_waits && sheets.length > 0"
  >
    <template v-if="leads" #act>
      <v-btn @click="ask">{{ t("shaft.read") }}</v-btn>
    </template>
    <template v-if="sheets.length > 0">
      <p v-if="end.shaft_waits">{{ t("shaft.waits") }}</p>
      <wide-table file="web-deflections" :label="t('shaft.title')">
        <thead>
          <tr>
            <th>{{ t("shaft.throw") }}</th>
            <template v-for="one in sheets" :key="one.when">
              <th>{{ t(`shaft.${one.when}`) }} {{ t("shaft.vertical") }}</th>
              <th>{{ t("shaft.horizontal") }}</th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr v-for="pin in end.pins" :key="pin">
            <th translate="no">{{ pin }}</th>
            <template v-for="one in sheets" :key="one.when">
              <td class="figure" :class="{ out: at(pin, one.when)?.outside.includes('vertical') }">
                {{ mm(at(pin, one.when)?.vertical_mm ?? 0) }}
                <span v-if="at(pin, one.when)?.outside.includes('vertical')">{{ t("shaft.outside") }}</span>
              </td>
              <td class="figure" :class="{ out: at(pin, one.when)?.outside.includes('horizontal') }">
                {{ mm(at(pin, one.when)?.horizontal_mm ?? 0) }}
                <span v-if="at(pin, one.when)?.outside.includes('horizontal')">{{ t("shaft.outside") }}</span>
              </td>
            </template>
          </tr>
        </tbody>
      </wide-table>
      <p class="muted small">
        {{
          end.vertical_mm === null
            ? t("shaft.no_limits")
            : t("shaft.limits", { vertical: end.vertical_mm, horizontal: end.horizontal_mm })
        }}
        <span v-for="one in sheets" :key="one.when" translate="no"> {{ readWords(one) }}</span>
      </p>
    </template>

    <form-dialog
      :open="open"
      :title="t('shaft.read_title')"
      :text="t('shaft.read_text')"
      :confirm="t('shaft.read')"
      :ready="ready"
      @done="done"
      @shut="open = false"
    >
      <problem-note :problem="engine.acting.problem.value" :unsent="engine.acting.unsent.value" />
      <choice-field
        v-model="when"
        :label="t('shaft.when')"
        :items="(['before', 'after'] as const).map((value) => ({ value, title: t(`shaft.${value}`) }))"
      />
      <fieldset v-for="pin in end.pins" :key="pin" class="throw">
        <legend class="words">{{ t("shaft.throw_n", { pin }) }}</legend>
        <v-text-field
          v-for="(place, i) in end.read_at"
          :key="place"
          v-model="typed[pin]![i]"
          :label="t(`shaft.place.${place}`)"
          :aria-label="`${t('shaft.throw_n', { pin })}, ${t(`shaft.place.${place}`)}`"
          inputmode="decimal"
          maxlength="7"
        />
      </fieldset>
      <v-text-field v-model="warm" :label="t('shaft.engine_degC')" inputmode="decimal" maxlength="6" />
      <v-text-field v-model="draught" :label="t('shaft.draught')" maxlength="60" />
      <v-text-field v-model="accepted" :label="t('shaft.accepted')" maxlength="500" />
    </form-dialog>
  </board-panel>
</template>

<style scoped>
.throw {
  border: 0;
  display: grid;
  gap: 6px;
  grid-template-columns: repeat(auto-fit, minmax(116px, 1fr));
  padding: 0;
}

legend {
  margin-bottom: 8px;
}

.out {
  border-left: 4px solid var(--out);
  padding-left: 6px;
}

.small {
  font-size: var(--size-1);
  margin-top: 6px;
}

p {
  margin: 0;
}
</style>
