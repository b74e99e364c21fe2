<script setup lang="ts">
import { onBeforeUnmount, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import NumberPad from "@/shared/NumberPad.vue";

/** A signature with the PIN again: what is signed is said by whoever asks. */
const props = defineProps<{ open: boolean; name: string; title?: string; text?: string }>();
const emit = defineEmits<{ done: [pin: string]; shut: [] }>();
const { t } = useI18n();
const PIN_LENGTH = 6;
const pin = ref("");

/** Typed as well as touched, wherever the focus is: the dialog is the only thing that asks now. */
watch(
  () => props.open,
  (open) => {
    pin.value = "";
    if (open) window.addEventListener("keydown", onKey, true);
    else window.removeEventListener("keydown", onKey, true);
  },
  { immediate: true },
);
onBeforeUnmount(() => {
  window.removeEventListener("keydown", onKey, true);
});

function press(key: string): void {
  if (key === "wipe") pin.value = pin.value.slice(0, -1);
  else if (/^\d$/.test(key) && pin.value.length < PIN_LENGTH) pin.value += key;
}

function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.altKey || event.metaKey) return;
  if (/^\d$/.test(event.key)) press(event.key);
  else if (event.key === "Backspace") press("wipe");
  else if (event.key === "Enter" && pin.value.length === PIN_LENGTH) emit("done", pin.value);
  else return;
  // A button that has the focus is not pressed by what was meant for the PIN.
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <v-dialog
    :model-value="open"
    :aria-label="title ?? t('bench.sign_title')"
    @update:model-value="emit('shut')"
  >
    <div class="sheet">
      <h2>{{ title ?? t("bench.sign_title") }}</h2>
      <p>
        {{ text ?? t("bench.sign_text") }} <strong translate="no">{{ name }}</strong>
      </p>
      <div class="dots" role="img" :aria-label="t('ui.of', { done: pin.length, total: PIN_LENGTH })">
        <span v-for="n in PIN_LENGTH" :key="n" :class="{ full: n <= pin.length }" />
      </div>
      <number-pad :decimal="false" @press="press" />
      <div class="row">
        <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
        <v-btn class="main" :disabled="pin.length !== PIN_LENGTH" @click="emit('done', pin)">
          {{ t("call.sign.do") }}
        </v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.dots {
  display: flex;
  gap: 12px;
  margin: 14px 0;
}

.dots span {
  border: 2px solid var(--ink);
  height: 24px;
  width: 24px;
}

.dots .full {
  background: var(--ink);
}
</style>
