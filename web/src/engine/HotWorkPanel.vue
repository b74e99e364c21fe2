<script setup lang="ts">
import { computed, reactive, ref } from "vue";
import { useI18n } from "vue-i18n";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import BoardLine from "@/engine/BoardLine.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import { usePeople } from "@/engine/people";
import { useEngine } from "@/engine/engine";
import PersonField from "@/shared/PersonField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import { whenText } from "@/shared/format";
import { figureOf, nextAt } from "@/shared/typed";
import TimeField from "@/shared/TimeField.vue";

/** Welding, cutting, grinding at the engine: by a permit of its own, with its hours. */
defineProps<{ large?: boolean }>();
const { t } = useI18n();
const engine = useEngine();
const over = engine.overhaul;
const works = computed(() => engine.page.value?.may_work ?? false);
const { people, fetchPeople } = usePeople();

const beginning = ref(false);
const form = reactive({
  person: "",
  work: "",
  place: "",
  watch: "",
  permit: "",
  until: "",
  gas: "",
  shut: "",
});
const WORDS = ["work", "place", "watch", "permit", "shut"] as const;
const said = computed(() => {
  const gas_pct = figureOf(form.gas);
  const until_at = nextAt(form.until, new Date());
  const named = form.person !== "" && WORDS.every((name) => form[name].trim() !== "");
  if (!named || gas_pct === null || until_at === null) return null;
  const words = Object.fromEntries(WORDS.map((name) => [name, form[name].trim()])) as Record<
    (typeof WORDS)[number],
    string
  >;
  return { kind: "begin_hot_work" as const, person: form.person, until_at, gas_pct, ...words };
});

async function ask(): Promise<void> {
  engine.acting.clear();
  await fetchPeople();
  form.person = engine.page.value?.me ?? "";
  // The air and the crankcase are looked at each time.
  form.gas = form.shut = "";
  beginning.value = true;
}

async function begin(): Promise<void> {
  const command = said.value;
  beginning.value = false;
  if (command !== null) await engine.send(command);
}

const ending = ref<number | null>(null);
async function end(words: string): Promise<void> {
  const began = ending.value;
  ending.value = null;
  if (began !== null) await engine.send({ kind: "end_hot_work", began, words });
}
</script>

<template>
  <board-panel
    v-if="over"
    :title="t('engine.hot_work')"
    :none="t('engine.hot_work_none')"
    :empty="over.hot_work.length === 0"
    :hot="over.hot_work.length > 0"
    :class="{ large }"
  >
    <template v-if="works" #act>
      <v-btn @click="ask">{{ t("engine.hot_begin") }}</v-btn>
    </template>
    <board-line
      v-for="one in over.hot_work"
      :key="one.entry"
      :name="`${one.place}: ${one.person}`"
      :large="large"
    >
      {{
        t("engine.hot_said", {
          work: one.work,
          at: whenText(one.since),
          permit: one.permit,
          watch: one.watch,
          shut: one.shut,
        })
      }}
      <strong v-if="one.run_out" class="alarm">{{
        t("engine.run_out", { at: whenText(one.until_at) })
      }}</strong>
      <template v-else>{{ t("engine.until", { at: whenText(one.until_at) }) }}</template>
      <template v-if="works" #act>
        <v-btn
          class="main"
          :aria-label="t('engine.hot_end_name', { place: one.place })"
          @click="ending = one.entry"
        >
          {{ t("engine.hot_end") }}
        </v-btn>
      </template>
    </board-line>
    <form-dialog
      :open="beginning"
      :title="t('engine.hot_begin_title')"
      :confirm="t('engine.hot_begin')"
      :ready="said !== null"
      @done="begin"
      @shut="beginning = false"
    >
      <person-field v-model="form.person" :label="t('engine.hot_who')" :people="people" />
      <v-text-field v-model="form.work" :label="t('engine.hot_what')" maxlength="200" />
      <v-text-field v-model="form.place" :label="t('engine.hot_place')" maxlength="60" />
      <v-text-field v-model="form.watch" :label="t('engine.hot_watch')" maxlength="60" />
      <v-text-field v-model="form.permit" :label="t('engine.hot_permit')" maxlength="60" />
      <time-field v-model="form.until" :label="t('engine.hot_until')" />
      <v-text-field v-model="form.gas" :label="t('engine.hot_gas')" inputmode="decimal" maxlength="6" />
      <v-text-field v-model="form.shut" :label="t('engine.hot_shut')" maxlength="200" />
    </form-dialog>
    <reason-dialog
      :open="ending !== null"
      :title="t('engine.hot_end_title')"
      :text="t('engine.hot_end_text')"
      :label="t('engine.hot_end_label')"
      :confirm="t('engine.hot_end')"
      :leave="t('ui.cancel')"
      @done="end"
      @shut="ending = null"
    />
  </board-panel>
</template>
