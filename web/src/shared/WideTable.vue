<script setup lang="ts">
import { onMounted, ref } from "vue";

/** A table that scrolls sideways by itself where it does not fit, by touch and by keyboard. */
const props = defineProps<{ label?: string; labelledby?: string }>();
const frame = ref<HTMLElement | null>(null);
onMounted(() => {
  const scrolls = frame.value?.querySelector<HTMLElement>(".v-table__wrapper");
  scrolls?.setAttribute("tabindex", "0");
  scrolls?.setAttribute("role", "region");
  if (props.label !== undefined) scrolls?.setAttribute("aria-label", props.label);
  if (props.labelledby !== undefined) scrolls?.setAttribute("aria-labelledby", props.labelledby);
});
</script>

<template>
  <div ref="frame" class="wide-table">
    <v-table density="compact"><slot /></v-table>
  </div>
</template>
