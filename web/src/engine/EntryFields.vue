<script setup lang="ts">
import { computed, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { EngineView, PersonListed } from "@/api/types";
import { OTHER, type EntryForm } from "@/engine/entering";
import ChoiceField from "@/shared/ChoiceField.vue";
import PersonField from "@/shared/PersonField.vue";
import TimeField from "@/shared/TimeField.vue";

/** Who goes in where, by which permit, who stands outside, and the air as it was read. */
const props = defineProps<{
  people: readonly PersonListed[];
  doors: EngineView["doors"];
  /** By a door that is shut nobody goes in now; a list of paper may say otherwise of what was. */
  onlyOpen?: boolean;
}>();
const form = defineModel<EntryForm>({ required: true });
const { t } = useI18n();
const SPACES = ["crankcase", "scavenge"] as const;

const there = computed(() => props.doors.filter((door) => door.space === form.value.space));
const doors = computed(() => there.value.filter((door) => door.open || !props.onlyOpen));
watch(
  () => form.value.space,
  () => (form.value.door = ""),
);
</script>

<template>
  <person-field v-model="form.person" :label="t('engine.enter_who')" :people="people" />
  <choice-field
    v-model="form.space"
    :label="t('engine.enter_where')"
    :items="SPACES.map((value) => ({ value, title: t(`engine.space.${value}`) }))"
  />
  <choice-field
    v-if="doors.length > 0"
    v-model="form.door"
    :label="t('engine.enter_door')"
    :items="
      doors.map((door) => ({
        value: door.id,
        title: t('engine.enter_door_of', { door: door.id, cylinders: door.cylinders.join(', ') }),
        raw: true,
      }))
    "
  />
  <p v-else-if="there.length > 0" class="no-door">{{ t("engine.enter_door_shut") }}</p>
  <v-text-field v-model="form.permit" :label="t('engine.enter_permit')" maxlength="60" />
  <time-field v-model="form.until" :label="t('engine.enter_until')" />
  <choice-field
    v-model="form.attendedBy"
    :label="t('engine.enter_attendant')"
    :items="[
      ...people
        .filter((one) => one.id !== form.person)
        .map((one) => ({ value: one.id, title: one.name, raw: true })),
      { value: OTHER, title: t('engine.enter_attendant_other') },
    ]"
  />
  <v-text-field
    v-if="form.attendedBy === OTHER"
    v-model="form.attendant"
    :label="t('engine.enter_attendant_name')"
    maxlength="60"
  />
  <v-text-field v-model="form.oxygen" :label="t('engine.enter_oxygen')" inputmode="decimal" maxlength="6" />
  <v-text-field v-model="form.gas" :label="t('engine.enter_gas')" inputmode="decimal" maxlength="6" />
</template>
