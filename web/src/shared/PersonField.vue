<script setup lang="ts">
import type { PersonListed } from "@/api/types";
import ChoiceField from "@/shared/ChoiceField.vue";

/** One of the people, by name. */
defineProps<{ label: string; people: readonly PersonListed[] }>();
const model = defineModel<string>({ required: true });
</script>

<template>
  <choice-field
    v-model="model"
    :label="label"
    :items="people.map((one) => ({ value: one.id, title: one.name, raw: true }))"
  />
</template>
