<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { PersonListed } from "@/api/types";
import PersonField from "@/shared/PersonField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import PinField from "@/shared/PinField.vue";
import { isPin } from "@/shared/typed";

/** The engine goes from one to another; both sign with their PIN. */
const props = defineProps<{ open: boolean; me: string }>();
const emit = defineEmits<{
  done: [to: string, words: string | null, pins: { pin: string; other_pin: string }];
  shut: [];
}>();
const { t } = useI18n();
const people = ref<PersonListed[]>([]);
const to = ref("");
const words = ref("");
const pin = ref("");
const otherPin = ref("");
const others = computed(() => people.value.filter((one) => one.id !== props.me));

watch(
  () => props.open,
  async (open) => {
    pin.value = "";
    otherPin.value = "";
    words.value = "";
    if (open) people.value = await answerOf(api.GET("/api/people"));
    to.value = others.value[0]?.id ?? "";
  },
);

function done(): void {
  emit("done", to.value, words.value.trim() || null, { pin: pin.value, other_pin: otherPin.value });
}
</script>

<template>
  <form-dialog
    :open="open"
    :title="t('engine.hand_title')"
    :confirm="t('engine.hand_do')"
    :ready="to !== '' && isPin(pin) && isPin(otherPin)"
    @done="done"
    @shut="emit('shut')"
  >
    <person-field v-model="to" :label="t('engine.hand_to')" :people="others" />
    <v-textarea v-model="words" :label="t('engine.hand_words')" maxlength="1000" />
    <pin-field v-model="pin" :label="t('engine.hand_pin')" />
    <pin-field v-model="otherPin" :label="t('engine.hand_other_pin')" />
  </form-dialog>
</template>
