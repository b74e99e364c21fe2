<script setup lang="ts" generic="T extends string | number">
/** One of a few, from a list that opens. */
interface Item {
  value: T;
  title: string;
  /** A name of a person, an engine, an order: not put into another language. */
  raw?: boolean;
}
const props = defineProps<{ label: string; items: readonly Item[] }>();
const model = defineModel<T>({ required: true });
const rawness = (value: unknown): "no" | undefined =>
  props.items.find((item) => item.value === value)?.raw ? "no" : undefined;
</script>

<template>
  <v-select v-model="model" :label="label" :aria-label="label" :items="[...items]">
    <template #selection="{ item }">
      <span :translate="rawness(item.value)">{{ item.title }}</span>
    </template>
    <template #item="{ props: row, item }">
      <v-list-item v-bind="row" :translate="rawness(item.value)" />
    </template>
  </v-select>
</template>
