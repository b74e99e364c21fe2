<script setup lang="ts">
import { useI18n } from "vue-i18n";
import type { PersonListed } from "@/api/types";
import type { EntryForm } from "@/engine/entering";
import ChoiceField from "@/shared/ChoiceField.vue";

/** Who goes in where, by which permit, who stands outside, and the air as it was read. */
defineProps<{ people: readonly PersonListed[] }>();
const form = defineModel<EntryForm>({ required: true });
const { t } = useI18n();
const SPACES = ["crankcase", "scavenge"] as const;
</script>

<template>
  <choice-field
    v-model="form.person"
    :label="t('engine.enter_who')"
    :items="people.map((one) => ({ value: one.id, title: one.name, raw: true }))"
  />
  <choice-field
    v-model="form.space"
    :label="t('engine.enter_where')"
    :items="SPACES.map((value) => ({ value, title: t(`engine.space.${value}`) }))"
  />
  <v-text-field v-model="form.permit" :label="t('engine.enter_permit')" maxlength="60" />
  <v-text-field v-model="form.attendant" :label="t('engine.enter_attendant')" maxlength="60" />
  <v-text-field v-model="form.oxygen" :label="t('engine.enter_oxygen')" inputmode="decimal" maxlength="6" />
  <v-text-field v-model="form.gas" :label="t('engine.enter_gas')" inputmode="decimal" maxlength="6" />
</template>
