<script setup lang="ts" generic="T extends string | number">
/** One of a few, from a list that opens. */
defineProps<{
  label: string;
  items: readonly { value: T; title: string }[];
  /** Names of people, engines and orders are not put into another language. */
  untranslated?: boolean;
}>();
const model = defineModel<T>({ required: true });
</script>

<template>
  <v-select
    v-model="model"
    class="choice-field"
    :label="label"
    :aria-label="label"
    :items="[...items]"
    :translate="untranslated ? 'no' : undefined"
  />
</template>
