<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { EngineEntry } from "@/api/types";
import BoardLine from "@/engine/BoardLine.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import { entryWords, writtenWhen } from "@/engine/entries";
import FormDialog from "@/shared/FormDialog.vue";
import PinField from "@/shared/PinField.vue";
import { isPin } from "@/shared/typed";

/** What was told later and nobody has looked at yet: in doubt, or not counting before somebody has. */
defineProps<{ large?: boolean }>();
const i18n = useI18n();
const { t } = i18n;
const engine = useEngine();
const told = computed(() => engine.overhaul.value?.told ?? []);
const works = computed(() => engine.page.value?.may_work ?? false);
const looking = ref<EngineEntry | null>(null);
const words = ref("");
const pin = ref("");

function look(one: EngineEntry): void {
  engine.acting.clear();
  words.value = "";
  pin.value = "";
  looking.value = one;
}

async function done(): Promise<void> {
  const entry = looking.value?.seq;
  looking.value = null;
  if (entry === undefined) return;
  await engine.send({ kind: "look_at_told", entry, words: words.value.trim() }, { pin: pin.value });
}
</script>

<template>
  <board-panel
    v-if="told.length > 0"
    :title="t('engine.told')"
    :none="t('engine.told_none')"
    :empty="false"
    :hot="told.some((one) => one.told === 'less_safe')"
    :class="{ large }"
  >
    <board-line v-for="one in told" :key="one.seq" :name="one.written_by ?? one.by" :large="large">
      {{ entryWords(i18n, one) }}, {{ writtenWhen(i18n, one) }}.
      <template v-if="one.why">{{ one.why }}.</template>
      <strong :class="one.told === 'less_safe' ? 'alarm' : 'against'">
        {{ t(`engine.told_${one.told}`) }}
      </strong>
      <template v-if="works" #act>
        <v-btn class="main" @click="look(one)">{{ t("engine.told_look") }}</v-btn>
      </template>
    </board-line>
    <form-dialog
      :open="looking !== null"
      :title="t('engine.told_look')"
      :text="looking === null ? '' : entryWords(i18n, looking)"
      :confirm="t('engine.told_look')"
      :ready="words.trim() !== '' && isPin(pin)"
      @done="done"
      @shut="looking = null"
    >
      <v-textarea v-model="words" :label="t('engine.told_found')" maxlength="1000" />
      <pin-field v-model="pin" :label="t('engine.own_pin')" />
    </form-dialog>
  </board-panel>
</template>
