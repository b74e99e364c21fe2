<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import BoardLine from "@/engine/BoardLine.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import { useEngine } from "@/engine/engine";
import ChoiceField from "@/shared/ChoiceField.vue";
import FormDialog from "@/shared/FormDialog.vue";

/** The doors that are open by the log: whoever goes in goes by one of them. */
defineProps<{ large?: boolean }>();
const { t } = useI18n();
const engine = useEngine();
const doors = computed(() => engine.overhaul.value?.doors ?? []);
const open = computed(() => doors.value.filter((one) => one.open));
const shut = computed(() => doors.value.filter((one) => !one.open));
const records = computed(() => engine.page.value?.may_record ?? false);
const opening = ref(false);
const door = ref("");

function ask(): void {
  engine.acting.clear();
  door.value = "";
  opening.value = true;
}
async function opened(): Promise<void> {
  opening.value = false;
  await engine.send({ kind: "move_door", door: door.value, now: "open" });
}
</script>

<template>
  <board-panel
    v-if="doors.length > 0"
    :title="t('engine.doors_open')"
    :none="t('engine.doors_open_none')"
    :empty="open.length === 0"
  >
    <template v-if="records && shut.length > 0" #act>
      <v-btn @click="ask">{{ t("engine.open_a_door") }}</v-btn>
    </template>
    <board-line v-for="one in open" :key="one.id" :name="one.id" :large="large">
      {{ one.by_hand === null ? t("engine.door_off") : t("engine.door_by", { by: one.by_hand }) }}
      <template v-if="records" #act>
        <v-btn
          :aria-label="t('engine.shut_door_name', { door: one.id })"
          @click="engine.send({ kind: 'move_door', door: one.id, now: 'shut' })"
        >
          {{ t("engine.shut_door") }}
        </v-btn>
      </template>
    </board-line>
    <form-dialog
      :open="opening"
      :title="t('engine.open_a_door_title')"
      :confirm="t('engine.open_a_door')"
      :ready="door !== ''"
      @done="opened"
      @shut="opening = false"
    >
      <choice-field
        v-model="door"
        :label="t('engine.enter_door')"
        :items="
          shut.map((one) => ({
            value: one.id,
            title: t('engine.enter_door_of', { door: one.id, cylinders: one.cylinders.join(', ') }),
            raw: true,
          }))
        "
      />
    </form-dialog>
  </board-panel>
</template>
