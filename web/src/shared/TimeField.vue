<script setup lang="ts">
import { ref, watch } from "vue";
import { clockOf } from "@/shared/typed";

/** A time of day on the 24-hour clock, whatever the browser's own language makes of one. */
defineProps<{ label: string }>();
const model = defineModel<string>({ required: true });
const typed = ref(model.value);

watch(model, (now) => {
  if (now !== (clockOf(typed.value) ?? "")) typed.value = now;
});
watch(typed, (text) => {
  model.value = clockOf(text) ?? "";
});

/** What was meant stands there once somebody has gone on. */
function settled(): void {
  typed.value = clockOf(typed.value) ?? typed.value;
}
</script>

<template>
  <v-text-field
    v-model="typed"
    :label="label"
    inputmode="numeric"
    maxlength="5"
    placeholder="16:30"
    :error="typed.trim() !== '' && clockOf(typed) === null"
    @blur="settled"
  />
</template>
