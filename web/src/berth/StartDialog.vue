<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api, newId } from "@/api/client";
import type { JointCell, Offer, ProcedureRead } from "@/api/types";
import OfferLine from "@/berth/OfferLine.vue";
import { useActing } from "@/shared/acting";
import ConditionMark from "@/shared/ConditionMark.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import { useSession } from "@/shared/session";

/** What may be done on a joint; before a start, what decides the numbers is looked at and the ways are chosen. */
const props = defineProps<{
  engineId: string;
  engine: string;
  serial: string;
  joint: JointCell;
  /** Whether the engine has an open overhaul; without one its first job opens one. */
  overhaul: boolean;
  mayStart: boolean;
}>();
const emit = defineEmits<{ shut: []; started: [run: string]; go: [joint: string] }>();
const { t } = useI18n();
const { problem, unsent, clear, act } = useActing();
const chosen = ref<ProcedureRead | null>(null);
const observed = ref<Record<string, string>>({});
const selection = ref<Record<string, string>>({});
const departing = ref<Offer | null>(null);
const departures = ref<{ rule: string; joint: string; reason: string }[]>([]);
const asItRan = ref(false);
const session = useSession();
const mayDepart = computed(() => session.rights.has("accept"));
/** Nobody has said how an engine without an overhaul stands: what begins closed up may be started as it ran. */
const unsaid = computed(() =>
  props.overhaul ? [] : props.joint.offers.filter((o) => o.purpose === "loosen"),
);
watch(
  () => props.joint.key,
  () => {
    chosen.value = null;
  },
);

const variants = computed(() => chosen.value?.document.variants ?? []);
const options = computed(() => chosen.value?.document.options ?? []);
/** What decides the numbers, or the way, is asked before the start. */
const asking = computed(() => chosen.value !== null && variants.value.length + options.value.length > 0);
const whole = computed(
  () =>
    variants.value.every((key) => observed.value[key.id] !== undefined) &&
    options.value.every((option) => selection.value[option.id] !== undefined),
);

async function pick(hash: string, let_be: typeof departures.value = [], as_it_ran = false): Promise<void> {
  clear();
  departures.value = let_be;
  asItRan.value = as_it_ran;
  observed.value = {};
  selection.value = {};
  const read = await answerOf(api.GET("/api/procedures/{digest}", { params: { path: { digest: hash } } }));
  chosen.value = read;
  if (read.document.variants.length + read.document.options.length === 0) await start();
}

async function start(): Promise<void> {
  if (chosen.value === null) return;
  const runId = newId();
  const body = {
    id: newId(),
    run_id: runId,
    engine_id: props.engineId,
    joint_key: props.joint.key,
    procedure_hash: chosen.value.listed.hash,
    selection: selection.value,
    departures: departures.value,
    as_it_ran: asItRan.value,
    observed: variants.value.map((key) => ({
      key: key.id,
      value: observed.value[key.id] ?? "",
      evidence: key.evidence,
    })),
  };
  const started = await act(async () => {
    await answerOf(api.POST("/api/runs", { body }));
  });
  if (started) emit("started", runId);
}
async function depart(reason: string): Promise<void> {
  const offer = departing.value;
  departing.value = null;
  if (offer === null) return;
  await pick(
    offer.hash,
    offer.barriers.map((b) => ({ rule: b.rule ?? "", joint: b.joint, reason })),
  );
}
const valuesOf = (key: ProcedureRead["document"]["variants"][number]): string[] =>
  key.serials ? [props.serial] : [...key.values, ...key.others];
</script>

<template>
  <div class="sheet">
    <h2 translate="no">{{ engine }} · {{ joint.label }}</h2>
    <p class="stands words">
      <condition-mark :condition="joint.condition" />
      {{ t(`condition.${joint.condition ?? "unknown"}`) }}
      <span v-if="joint.going" class="muted">{{ t(`berth.going.${joint.going}`) }}</span>
      <span v-if="joint.state === 'question'" class="muted">{{ t("berth.state.question") }}</span>
    </p>
    <p v-if="joint.state === 'no_procedure'">{{ t("berth.no_procedure") }}</p>
    <problem-note :problem="problem" :unsent="unsent" @again="start" />
    <template v-if="chosen && asking">
      <h3 translate="no">{{ chosen.listed.title }}</h3>
      <fieldset v-for="key in variants" :key="key.id">
        <legend class="words">
          <span translate="no">{{ key.title }}</span>
          <small>{{ t("procedure.evidence", { words: key.evidence }) }}</small>
        </legend>
        <v-btn
          v-for="value in valuesOf(key)"
          :key="value"
          :aria-pressed="observed[key.id] === value"
          @click="observed[key.id] = value"
        >
          <span translate="no">{{ value }}</span>
        </v-btn>
      </fieldset>
      <fieldset v-for="option in options" :key="option.id">
        <legend class="words" translate="no">{{ option.title }}</legend>
        <v-btn
          v-for="choice in option.choices"
          :key="choice.id"
          :aria-pressed="selection[option.id] === choice.id"
          @click="selection[option.id] = choice.id"
        >
          <span translate="no">{{ choice.title }}</span>
        </v-btn>
      </fieldset>
      <div class="row">
        <v-btn @click="chosen = null">{{ t("ui.cancel") }}</v-btn>
        <v-btn class="main" :disabled="!whole" @click="start">{{ t("bench.start") }}</v-btn>
      </div>
    </template>
    <template v-if="!asking">
      <template v-if="overhaul && !joint.going">
        <offer-line
          v-for="offer in joint.offers"
          :key="offer.hash"
          :offer="offer"
          :may-start="mayStart"
          :may-depart="mayDepart"
          @start="pick(offer.hash)"
          @go="(key) => emit('go', key)"
          @depart="departing = offer"
        />
      </template>
      <template v-else-if="!overhaul && mayStart && unsaid.length > 0">
        <p>{{ t("berth.as_it_ran_text", { engine }) }}</p>
        <v-btn v-for="offer in unsaid" :key="offer.hash" class="wide" @click="pick(offer.hash, [], true)">
          <span
            >{{ t("berth.as_it_ran") }}: <span translate="no">{{ offer.title }}</span></span
          >
        </v-btn>
      </template>
    </template>
    <div v-if="!asking" class="row">
      <v-btn @click="emit('shut')">{{ t("ui.cancel") }}</v-btn>
      <v-btn v-if="joint.run_id" :to="{ name: 'record', params: { run: joint.run_id } }">
        {{ t("berth.look") }}
      </v-btn>
      <v-btn
        v-if="joint.run_id && joint.state !== 'closed'"
        class="main"
        :to="{ name: 'bench', params: { run: joint.run_id } }"
      >
        {{ t("berth.open") }}
      </v-btn>
    </div>
    <reason-dialog
      :open="departing !== null"
      :title="t('berth.depart_title')"
      :text="t('berth.depart_text', { reason: departing?.barriers[0]?.reason ?? '' })"
      :label="t('berth.depart_label')"
      :confirm="t('bench.start')"
      :leave="t('ui.cancel')"
      @done="depart"
      @shut="departing = null"
    />
  </div>
</template>

<style scoped>
.stands {
  align-items: center;
  display: flex;
  font-size: var(--size-4);
  gap: 10px;
  margin: 4px 0 10px;
}

h3 {
  font-size: var(--size-4);
  margin: 4px 0 8px;
}

fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 0 0 10px;
  padding: 6px 0;
}

legend {
  font-size: var(--size-4);
  padding: 0;
  width: 100%;
}

legend small {
  color: var(--muted);
  display: block;
  font-family: var(--run);
  font-size: var(--size-1);
  font-weight: 400;
}

fieldset .v-btn {
  font-size: var(--size-4);
  height: 64px !important;
}

.v-btn[aria-pressed="true"] {
  border: 3px solid var(--now);
}

.wide {
  height: auto !important;
  min-height: 64px;
  padding: 8px 16px;
  white-space: normal;
  width: 100%;
}

.wide :deep(.v-btn__content) {
  white-space: normal;
}
</style>
