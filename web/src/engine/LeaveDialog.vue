<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import type { InsideNow } from "@/api/types";
import { useEngine } from "@/engine/engine";
import FormDialog from "@/shared/FormDialog.vue";
import PinField from "@/shared/PinField.vue";
import { isPin } from "@/shared/typed";
import { useLink } from "@/shared/link";

/** Somebody comes off the board: by their own PIN, or by that of whoever has seen them outside. */
const props = defineProps<{ inside: InsideNow | null }>();
const emit = defineEmits<{ shut: [] }>();
const { t } = useI18n();
const engine = useEngine();
const link = useLink();
const pin = ref("");
const seen = ref(false);
const own = computed(() => props.inside?.person_id === engine.page.value?.me);
const name = computed(() => props.inside?.person ?? "");
const ready = computed(() => (own.value || seen.value) && (link.lost || isPin(pin.value)));

watch(
  () => props.inside,
  () => {
    pin.value = "";
    seen.value = false;
  },
);

async function done(): Promise<void> {
  const one = props.inside;
  emit("shut");
  if (one === null) return;
  const said = { kind: "leave", entered: one.entry, entry: null, seen: seen.value } as const;
  await engine.send(said, link.lost ? {} : { pin: pin.value });
}
</script>

<template>
  <form-dialog
    :open="inside !== null"
    :title="t('engine.leave_name', { name })"
    :text="link.lost ? t('engine.leave_no_link', { name }) : ''"
    :confirm="t('engine.leave')"
    :ready="ready"
    @done="done"
    @shut="emit('shut')"
  >
    <v-checkbox v-if="!own" v-model="seen" :label="t('engine.leave_seen', { name })" hide-details />
    <pin-field v-if="!link.lost" v-model="pin" :label="t('engine.own_pin')" />
  </form-dialog>
</template>
