<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { EngineNamed } from "@/api/types";
import ChoiceField from "@/shared/ChoiceField.vue";

/** Which engine is looked at; nothing to choose where there is one. */
const props = defineProps<{ engines: readonly EngineNamed[]; any?: string }>();
const model = defineModel<string>({ required: true });
const { t } = useI18n();
const first = (): { value: string; title: string }[] =>
  props.any === undefined ? [] : [{ value: "", title: props.any }];
</script>

<template>
  <choice-field
    v-if="engines.length > 1"
    v-model="model"
    :label="t('records.by_engine')"
    :items="[...first(), ...engines.map((one) => ({ value: one.id, title: one.name, raw: true }))]"
  />
</template>
