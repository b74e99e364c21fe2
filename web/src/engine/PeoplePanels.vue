<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import type { InsideNow, OverhaulCommand } from "@/api/types";
import AirDialog from "@/engine/AirDialog.vue";
import BoardLine from "@/engine/BoardLine.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import DoorPanel from "@/engine/DoorPanel.vue";
import EntryFields from "@/engine/EntryFields.vue";
import LeaveDialog from "@/engine/LeaveDialog.vue";
import { useEntryForm } from "@/engine/entering";
import { useEngine } from "@/engine/engine";
import { usePeople } from "@/engine/people";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import PersonField from "@/shared/PersonField.vue";
import FormDialog from "@/shared/FormDialog.vue";
import { useHere } from "@/shared/here";
import { whenText } from "@/shared/format";

/** Who is inside, whose locks hang. */
defineProps<{ large?: boolean }>();
const { t } = useI18n();
const engine = useEngine();
const over = engine.overhaul;
const me = computed(() => engine.page.value?.me ?? "");
const records = computed(() => engine.page.value?.may_record ?? false);

const here = useHere();
const { people, fetchPeople } = usePeople();
const entering = ref(false);
const { form, said } = useEntryForm();

/** What was pressed here and nobody else knows of yet. */
type Waiting<K> = Extract<OverhaulCommand, { kind: K }>;
const waiting = <K extends OverhaulCommand["kind"]>(kind: K): Waiting<K>[] =>
  engine.waiting.value
    .map((one) => one.command as OverhaulCommand)
    .filter((one): one is Waiting<K> => one.kind === kind);
const nameOf = (id: string): string => people.value.find((one) => one.id === id)?.name ?? "?";
/** Out again before the server has heard of either. */
const left = computed(() => new Set(waiting("leave").map((one) => one.entry ?? one.entered)));
const off = computed(() => new Set(waiting("take_lock_off").map((one) => one.entry ?? one.hung)));
/** The news may be here before the answer to one's own press. */
const known = computed(
  () => new Set([...(over.value?.inside ?? []), ...(over.value?.locks ?? [])].map((one) => one.command)),
);
const goneIn = computed(() =>
  waiting("enter").filter((one) => !left.value.has(one.id) && !known.value.has(one.id)),
);
const hungHere = computed(() =>
  waiting("hang_lock").filter((one) => !off.value.has(one.id) && !known.value.has(one.id)),
);

async function openEntry(): Promise<void> {
  engine.acting.clear();
  if (engine.page.value !== null) here.at(engine.page.value.engine.id);
  await fetchPeople();
  form.person = me.value;
  entering.value = true;
}

async function enter(): Promise<void> {
  const entry = said.value;
  entering.value = false;
  if (entry !== null) await engine.send(entry);
}

const leaving = ref<InsideNow | null>(null);

/** Somebody else stands outside from now on. */
const relieving = ref<number | null>(null);
const relief = ref("");
async function openRelief(entry: number): Promise<void> {
  engine.acting.clear();
  await fetchPeople();
  relief.value = "";
  relieving.value = entry;
}
async function relieve(): Promise<void> {
  const entered = relieving.value;
  relieving.value = null;
  if (entered !== null) await engine.send({ kind: "relieve_attendant", entered, to: relief.value });
}

const airing = ref(false);
const hanging = ref(false);
const lock = ref("");
async function hang(): Promise<void> {
  hanging.value = false;
  await engine.send({ kind: "hang_lock", lock: lock.value.trim() });
}

const works = computed(() => engine.page.value?.may_work ?? false);
const silent = ref<string | null>(null);
async function answerFor(words: string): Promise<void> {
  const tablet = silent.value;
  silent.value = null;
  if (tablet !== null) await engine.send({ kind: "answer_for_tablet", tablet, words });
}

const anothers = ref<number | null>(null);
async function takeOff(entry: number, by: string): Promise<void> {
  if (by === me.value) await engine.send({ kind: "take_lock_off", hung: entry, entry: null, words: null });
  else anothers.value = entry;
}
async function takeAnothers(words: string): Promise<void> {
  const hung = anothers.value;
  anothers.value = null;
  if (hung !== null) await engine.send({ kind: "take_lock_off", hung, entry: null, words });
}
</script>

<template>
  <template v-if="over">
    <board-panel
      :title="t('engine.inside')"
      :none="t('engine.inside_none')"
      :empty="over.inside.length + goneIn.length + over.silent.length === 0"
      :hot="over.inside.length + goneIn.length + over.silent.length > 0"
      :class="{ large }"
    >
      <template v-if="records" #act>
        <v-btn v-if="over.inside.length > 0" @click="airing = true">{{ t("engine.test_air") }}</v-btn>
        <v-btn @click="openEntry">{{ t("engine.enter") }}</v-btn>
      </template>
      <board-line v-for="one in over.inside" :key="one.entry" :name="one.person" :large="large">
        {{ t(`engine.space.${one.space}`)
        }}{{ one.door === null ? "" : ` ${t("engine.by_door", { door: one.door })}` }},
        {{ t("engine.since", { at: whenText(one.since), permit: one.permit, attendant: one.attendant }) }}.
        {{ t("engine.air", { oxygen: one.oxygen_pct, gas: one.gas_pct, at: whenText(one.air_at) }) }}.
        <template v-if="one.until_at !== null && !one.run_out">
          {{ t("engine.until", { at: whenText(one.until_at) }) }}
        </template>
        <strong v-if="!one.air_good" class="alarm">{{ t("engine.air_bad") }}</strong>
        <strong v-if="one.until_at !== null && one.run_out" class="alarm">
          {{ t("engine.run_out", { at: whenText(one.until_at) }) }}
        </strong>
        <strong v-if="one.against" class="against">{{ t(`engine.against.${one.against}`) }}</strong>
        <strong v-if="left.has(one.entry)" class="against">{{ t("engine.out_unknown") }}</strong>
        <template v-if="records && !left.has(one.entry)" #act>
          <v-btn @click="openRelief(one.entry)">{{ t("engine.relieve_attendant") }}</v-btn>
          <v-btn
            class="main"
            :aria-label="t('engine.leave_name', { name: one.person })"
            @click="leaving = one"
          >
            {{ t("engine.leave") }}
          </v-btn>
        </template>
      </board-line>
      <board-line v-for="one in goneIn" :key="one.id" :name="nameOf(one.person)" :large="large">
        {{ t(`engine.space.${one.space}`) }}
        <strong class="against">{{ t("engine.others_do_not_know") }}</strong>
        <template #act>
          <v-btn
            class="main"
            :aria-label="t('engine.leave_name', { name: nameOf(one.person) })"
            @click="engine.send({ kind: 'leave', entered: null, entry: one.id, seen: false })"
          >
            {{ t("engine.leave") }}
          </v-btn>
        </template>
      </board-line>
      <board-line v-for="one in over.silent" :key="one.tablet" :name="one.person" :large="large">
        {{ t("engine.silent", { at: whenText(one.heard_at), where: one.at ?? t("engine.board") }) }}
        <template v-if="one.held.length > 0">{{
          t("engine.silent_held", { held: one.held.join(", ") })
        }}</template>
        <template v-if="works" #act>
          <v-btn @click="silent = one.tablet">{{ t("engine.answer_for") }}</v-btn>
        </template>
      </board-line>
    </board-panel>
    <door-panel :large="large" />
    <board-panel
      :title="t('engine.locks')"
      :none="t('engine.locks_none')"
      :empty="over.locks.length + hungHere.length === 0"
    >
      <template v-if="records" #act>
        <v-btn @click="hanging = true">{{ t("engine.hang") }}</v-btn>
      </template>
      <board-line v-for="one in over.locks" :key="one.entry" :name="one.by">
        <span translate="no">{{ one.lock }}, {{ whenText(one.at) }}</span>
        <strong v-if="off.has(one.entry)" class="against">{{ t("engine.others_do_not_know") }}</strong>
        <template v-if="records && !off.has(one.entry)" #act>
          <v-btn @click="takeOff(one.entry, one.by_id)">{{ t("engine.take_off") }}</v-btn>
        </template>
      </board-line>
      <board-line v-for="one in hungHere" :key="one.id" :name="one.lock">
        <strong class="against">{{ t("engine.others_do_not_know") }}</strong>
        <template #act>
          <v-btn @click="engine.send({ kind: 'take_lock_off', hung: null, entry: one.id, words: null })">{{
            t("engine.take_off")
          }}</v-btn>
        </template>
      </board-line>
    </board-panel>
    <form-dialog
      :open="entering"
      :title="t('engine.enter_title')"
      :confirm="t('engine.enter')"
      :ready="said !== null"
      @done="enter"
      @shut="entering = false"
    >
      <entry-fields v-model="form" :people="people" :doors="over.doors" only-open />
    </form-dialog>
    <form-dialog
      :open="relieving !== null"
      :title="t('engine.relieve_attendant')"
      :confirm="t('engine.relieve_attendant')"
      :ready="relief !== ''"
      @done="relieve"
      @shut="relieving = null"
    >
      <person-field v-model="relief" :label="t('engine.relieve_attendant_to')" :people="people" />
    </form-dialog>
    <leave-dialog :inside="leaving" @shut="leaving = null" />
    <air-dialog :open="airing" @shut="airing = false" />
    <form-dialog
      :open="hanging"
      :title="t('engine.lock_title')"
      :confirm="t('engine.hang')"
      :ready="lock.trim() !== ''"
      @done="hang"
      @shut="hanging = false"
    >
      <v-text-field v-model="lock" :label="t('engine.lock_label')" maxlength="60" />
    </form-dialog>
    <reason-dialog
      :open="anothers !== null"
      :title="t('engine.lock_other_title')"
      text=""
      :label="t('engine.lock_other_label')"
      :confirm="t('engine.take_off')"
      :leave="t('ui.cancel')"
      @done="takeAnothers"
      @shut="anothers = null"
    />
    <reason-dialog
      :open="silent !== null"
      :title="t('engine.answer_title')"
      :text="t('engine.answer_text')"
      :label="t('engine.answer_label')"
      :confirm="t('engine.answer_for')"
      :leave="t('ui.cancel')"
      @done="answerFor"
      @shut="silent = null"
    />
  </template>
</template>
