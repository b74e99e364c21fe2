<script setup lang="ts">
/** A PIN, typed unseen and remembered by no browser. */
defineProps<{ label: string }>();
const pin = defineModel<string>({ required: true });
</script>

<template>
  <v-text-field
    v-model="pin"
    :label="label"
    type="password"
    inputmode="numeric"
    maxlength="6"
    autocomplete="off"
  />
</template>
