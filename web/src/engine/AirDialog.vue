<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useEngine } from "@/engine/engine";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import { figureOf } from "@/shared/typed";

/** The air of a space in which people are, read again. */
const props = defineProps<{ open: boolean }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const engine = useEngine();

const spaces = computed(() => [...new Set(engine.overhaul.value?.inside.map((one) => one.space) ?? [])]);
const space = ref<"crankcase" | "scavenge">("crankcase");
const oxygen = ref("");
const gas = ref("");
watch(
  () => props.open,
  () => {
    // Nobody's reading stands there for the next.
    oxygen.value = gas.value = "";
    space.value = spaces.value[0] ?? "crankcase";
  },
);
const read = computed(() => {
  const oxygen_pct = figureOf(oxygen.value);
  const gas_pct = figureOf(gas.value);
  return oxygen_pct === null || gas_pct === null ? null : { oxygen_pct, gas_pct };
});

async function done(): Promise<void> {
  const said = read.value;
  emit("shut");
  if (said !== null) await engine.send({ kind: "test_air", space: space.value, ...said });
}
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.test_air_title')"
    :confirm="t('engine.test_air')"
    :ready="read !== null"
    @done="done"
    @shut="emit('shut')"
  >
    <choice-field
      v-if="spaces.length > 1"
      v-model="space"
      :label="t('engine.enter_where')"
      :items="spaces.map((value) => ({ value, title: t(`engine.space.${value}`) }))"
    />
    <v-text-field v-model="oxygen" :label="t('engine.enter_oxygen')" inputmode="decimal" maxlength="6" />
    <v-text-field v-model="gas" :label="t('engine.enter_gas')" inputmode="decimal" maxlength="6" />
  </form-dialog>
</template>
