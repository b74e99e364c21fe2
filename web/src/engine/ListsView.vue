<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type { Condition, EngineEntry, PointNow } from "@/api/types";
import BoardPanel from "@/engine/BoardPanel.vue";
import { provideEngine, type Said } from "@/engine/engine";
import SheetLines from "@/engine/SheetLines.vue";
import { lineOf, type SheetLine } from "@/engine/sheetLines";
import EntryFields from "@/engine/EntryFields.vue";
import { useEntryForm } from "@/engine/entering";
import { usePeople } from "@/engine/people";
import { entryWords } from "@/engine/entries";
import { note } from "@/shared/acting";
import ChoiceField from "@/shared/ChoiceField.vue";
import { dayTimeText } from "@/shared/format";
import MomentField from "@/shared/MomentField.vue";
import PaperPage from "@/shared/PaperPage.vue";
import PersonField from "@/shared/PersonField.vue";
import NotHere from "@/shared/NotHere.vue";
import { figureOf } from "@/shared/typed";

/** Lists that were written where there was no tablet, keyed in line by line: who wrote what, and when. */
const props = defineProps<{ engine: string }>();
const i18n = useI18n();
const { t } = i18n;
const engine = provideEngine(() => props.engine);
const { page, overhaul, acting } = engine;

const KINDS = [
  "isolated",
  "restored",
  "lock_hung",
  "lock_off",
  "door_opened",
  "door_shut",
  "conditions",
  "entered",
  "left",
  "crank_found",
  "crank_moved",
] as const;
type Kind = (typeof KINDS)[number];
const kind = ref<Kind>("isolated");
const { people } = usePeople();
/** Nobody wrote it and at no time, until whoever keys it in reads so on the paper. */
const by = ref("");
const at = ref("");
const until = ref("");
const why = ref("");

const point = ref<PointNow["point"] | "">("");
const lock = ref("");
const permit = ref("");
const { form, said: entry } = useEntryForm(() => new Date(at.value));
/** A lock or somebody inside, as the log numbers it, or as a line of this very sheet. */
const which = ref<number | string>("");
const sheet = ref<SheetLine[]>([]);
const ofEntry = computed(() =>
  typeof which.value === "number"
    ? { number: which.value, entry: null }
    : { number: null, entry: which.value },
);
const joint = ref("");
const condition = ref<Condition | "">("");
const ladder = computed(() => overhaul.value?.joints.find((one) => one.key === joint.value)?.ladder ?? []);
watch(joint, () => (condition.value = ""));
const angle = ref("");
const way = ref<"ahead" | "astern">("ahead");
const commander = ref("");
const words = ref("");

const figure = (text: string): number => figureOf(text) ?? Number.NaN;
const isFigure = (text: string): boolean => figureOf(text) !== null;
/** What is isolated further up on the sheet may be given back further down. */
const points = computed(() => overhaul.value?.points ?? []);
const standing = computed(() => {
  const over = overhaul.value;
  if (over === null) return [];
  const hereIs = kind.value === "left" ? "enter" : "hang_lock";
  const here = sheet.value
    .filter(({ command }) => command.kind === hereIs)
    .map((one) => ({ value: one.command.id, title: `${one.words} (${one.by})` }));
  const known: { value: number | string; title: string }[] =
    kind.value === "left"
      ? over.inside.map((one) => ({ value: one.entry, title: one.person }))
      : over.locks.map((one) => ({ value: one.entry, title: `${one.by}, ${one.lock}` }));
  return [...known, ...here];
});
const asksPoint = computed(() => kind.value === "isolated" || kind.value === "restored");
const asksStanding = computed(() => kind.value === "left" || kind.value === "lock_off");

/** What the line says as a command; null while something of it is missing. */
const said = computed<Said | null>(() => {
  const filled = (text: string): string | null => text.trim() || null;
  switch (kind.value) {
    case "isolated":
      return point.value === ""
        ? null
        : { kind: "isolate", point: point.value, lock: filled(lock.value), permit: filled(permit.value) };
    case "restored":
      return point.value === "" ? null : { kind: "restore_point", point: point.value };
    case "lock_hung":
      return filled(lock.value) === null ? null : { kind: "hang_lock", lock: lock.value.trim() };
    case "lock_off":
      return which.value === ""
        ? null
        : {
            kind: "take_lock_off",
            hung: ofEntry.value.number,
            entry: ofEntry.value.entry,
            words: filled(words.value),
          };
    case "door_opened":
    case "door_shut":
      return form.door === ""
        ? null
        : { kind: "move_door", door: form.door, now: kind.value === "door_opened" ? "open" : "shut" };
    case "conditions":
      return joint.value === "" || condition.value === "" || filled(words.value) === null
        ? null
        : {
            kind: "declare_conditions",
            found: { [joint.value]: condition.value },
            words: words.value.trim(),
          };
    case "entered":
      return entry.value;
    case "left":
      return which.value === ""
        ? null
        : { kind: "leave", entered: ofEntry.value.number, entry: ofEntry.value.entry, seen: false };
    case "crank_found":
      return !isFigure(angle.value) || filled(words.value) === null
        ? null
        : { kind: "find_crank", angle_deg: figure(angle.value), proof: words.value.trim() };
    default:
      return !isFigure(angle.value) || filled(commander.value) === null || filled(words.value) === null
        ? null
        : {
            kind: "move_crank",
            to_deg: figure(angle.value),
            way: way.value,
            commander: commander.value.trim(),
            looked_at: [words.value.trim()],
            clear: [],
            stays: null,
          };
  }
});

/** How a line is shown until it is keyed in: what it says, of what, and of whom. */
function wordsOf(one: Said): string {
  const of = (name: string): string => people.value.find((person) => person.id === name)?.name ?? name;
  const what = ((): string => {
    switch (one.kind) {
      case "isolate":
      case "restore_point":
        return t(`isolation.${one.point}`);
      case "move_door":
        return one.door;
      case "declare_conditions":
        return `${overhaul.value?.joints.find((place) => place.key === joint.value)?.label ?? ""}, ${t(`condition.${condition.value}`)}`;
      case "enter":
        return `${of(one.person)}, ${one.permit}`;
      case "hang_lock":
        return one.lock;
      case "leave":
      case "take_lock_off":
        return standing.value.find((line) => line.value === which.value)?.title ?? "";
      default:
        return `${angle.value}°`;
    }
  })();
  return `${t(`engine.lists.${kind.value}`)}: ${what}`;
}

function add(): void {
  if (said.value === null || at.value === "" || by.value === "") return;
  const paper = {
    by: by.value,
    at: new Date(at.value).toISOString(),
    until: until.value === "" ? null : new Date(until.value).toISOString(),
    why: why.value.trim() || null,
  };
  const writer = people.value.find((one) => one.id === by.value)?.name ?? "";
  sheet.value = [...sheet.value, lineOf(said.value, paper, wordsOf(said.value), writer)];
  point.value = "";
  which.value = "";
  for (const field of [lock, permit, words, angle, until, why]) field.value = "";
  Object.assign(form, { person: "", oxygen: "", gas: "" });
}
const keyed = ref<EngineEntry[]>([]);
watch(
  () => [overhaul.value?.overhaul_id, overhaul.value?.seq],
  () => void fetchKeyed(),
  { immediate: true },
);

async function fetchKeyed(): Promise<void> {
  const id = overhaul.value?.overhaul_id;
  if (id === undefined) return;
  const params = { path: { overhaul_id: id }, query: { from_paper: true } };
  try {
    keyed.value = (await answerOf(api.GET("/api/overhauls/{overhaul_id}/log", { params }))).lines;
  } catch (error) {
    note(error, acting.problem, acting.unsent);
  }
}
</script>

<template>
  <paper-page v-if="page">
    <template #title>
      <span translate="no">{{ page.engine.name }}</span> · {{ t("engine.lists.title") }}
    </template>
    <template #acts>
      <v-btn v-if="overhaul" :href="`/api/overhauls/${overhaul.overhaul_id}/lists.pdf`">{{
        t("engine.lists.take")
      }}</v-btn>
      <v-btn :to="{ name: 'engine', params: { engine: page.engine.id } }">{{ t("engine.back") }}</v-btn>
    </template>
    <p v-if="!overhaul">{{ t("engine.none") }}</p>
    <template v-else>
      <board-panel :title="t('engine.lists.key_in')">
        <p class="muted">{{ t("engine.lists.text") }}</p>
        <form class="fields" @submit.prevent="add">
          <person-field v-model="by" :label="t('engine.lists.who')" :people="people" />
          <moment-field v-model="at" :label="t('engine.lists.when')" :past="14" />
          <moment-field v-model="until" :label="t('engine.lists.until')" :past="14" />
          <v-text-field v-model="why" :label="t('engine.lists.why')" maxlength="200" />
          <choice-field
            v-model="kind"
            :label="t('engine.lists.what')"
            :items="KINDS.map((value) => ({ value, title: t(`engine.lists.${value}`) }))"
          />
          <choice-field
            v-if="asksPoint"
            v-model="point"
            :label="t('engine.lists.point')"
            :items="points.map((one) => ({ value: one.point, title: t(`isolation.${one.point}`) }))"
          />
          <choice-field
            v-if="kind === 'door_opened' || kind === 'door_shut'"
            v-model="form.door"
            :label="t('engine.enter_door')"
            :items="(overhaul?.doors ?? []).map((one) => ({ value: one.id, title: one.id, raw: true }))"
          />
          <template v-if="kind === 'conditions'">
            <choice-field
              v-model="joint"
              :label="t('engine.lists.joint')"
              :items="overhaul.joints.map((one) => ({ value: one.key, title: one.label, raw: true }))"
            />
            <choice-field
              v-model="condition"
              :label="t('engine.lists.condition')"
              :items="ladder.map((value) => ({ value, title: t(`condition.${value}`) }))"
            />
            <v-text-field v-model="words" :label="t('engine.lists.conditions_words')" maxlength="200" />
          </template>
          <entry-fields
            v-if="kind === 'entered'"
            v-model="form"
            :people="people"
            :doors="overhaul?.doors ?? []"
          />
          <choice-field
            v-if="asksStanding"
            v-model="which"
            :label="t('engine.lists.name')"
            :items="standing.map((one) => ({ ...one, raw: true }))"
          />
          <v-text-field
            v-if="kind === 'isolated' || kind === 'lock_hung'"
            v-model="lock"
            :label="t('engine.lists.lock')"
            maxlength="60"
          />
          <v-text-field
            v-if="kind === 'isolated'"
            v-model="permit"
            :label="t('engine.lists.permit')"
            maxlength="60"
          />
          <template v-if="kind === 'crank_found' || kind === 'crank_moved'">
            <v-text-field
              v-model="angle"
              :label="t('engine.move_to', { first: page.engine.firing_order[0] ?? '' })"
              inputmode="decimal"
              maxlength="8"
            />
          </template>
          <template v-if="kind === 'crank_moved'">
            <choice-field
              v-model="way"
              :label="t('engine.move_way')"
              :items="overhaul.crank.ways.map((value) => ({ value, title: t(`engine.way.${value}`) }))"
            />
            <v-text-field v-model="commander" :label="t('engine.move_commander')" maxlength="60" />
          </template>
          <v-text-field
            v-if="kind === 'crank_moved' || kind === 'crank_found' || kind === 'lock_off'"
            v-model="words"
            :label="
              kind === 'crank_moved'
                ? t('engine.lists.looked')
                : kind === 'crank_found'
                  ? t('engine.find_proof')
                  : t('engine.lock_other_label')
            "
            maxlength="200"
          />
          <v-btn class="main" type="submit" :disabled="said === null || at === '' || by === ''">{{
            t("engine.lists.add")
          }}</v-btn>
        </form>
      </board-panel>
      <sheet-lines v-model="sheet" />
      <board-panel
        :title="t('engine.lists.done')"
        :none="t('engine.lists.done_none')"
        :empty="keyed.length === 0"
      >
        <ol class="plain">
          <li v-for="one in keyed" :key="one.seq" :class="{ struck: one.struck }">
            <span class="figure" translate="no">{{ dayTimeText(one.written_at ?? one.at) }}</span>
            <span>
              {{ entryWords(i18n, one) }} <span class="muted" translate="no">{{ one.written_by }}</span>
              <a v-if="one.photo" :href="`/api/photos/${one.photo}.jpg`" target="_blank" rel="noopener">{{
                t("engine.lists.photo_see")
              }}</a>
              <strong v-if="one.against" class="against">{{ t(`engine.against.${one.against}`) }}</strong>
              <strong v-if="one.told" class="against">{{ t(`engine.told_${one.told}`) }}</strong>
            </span>
          </li>
        </ol>
      </board-panel>
    </template>
  </paper-page>
  <not-here v-else :problem="acting.problem.value" :unsent="acting.unsent.value" @again="engine.again" />
</template>

<style scoped>
.fields {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  margin-top: 10px;
}

.fields .v-btn {
  height: 56px !important;
}

li {
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 130px minmax(0, 1fr);
  padding: 8px 0;
}

.figure {
  font-size: var(--size-1);
}

.struck {
  text-decoration: line-through;
}

.against {
  color: var(--doubt);
  display: block;
}
</style>
