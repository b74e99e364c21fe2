<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api, newId } from "@/api/client";
import type { JointCell, ProcedureRead } from "@/api/types";
import { useActing } from "@/shared/acting";
import ProblemNote from "@/shared/ProblemNote.vue";

/** What may be done on a joint; before a start, what decides the numbers is looked at and the ways are chosen. */
const props = defineProps<{
  engineId: string;
  engine: string;
  serial: string;
  joint: JointCell;
  mayStart: boolean;
}>();
const emit = defineEmits<{ shut: []; started: [run: string] }>();
const { t } = useI18n();
const { problem, unsent, clear, act } = useActing();
const chosen = ref<ProcedureRead | null>(null);
const observed = ref<Record<string, string>>({});
const selection = ref<Record<string, string>>({});
watch(
  () => props.joint.key,
  () => {
    chosen.value = null;
  },
);

const variants = computed(() => chosen.value?.document.variants ?? []);
const options = computed(() => chosen.value?.document.options ?? []);
const whole = computed(
  () =>
    variants.value.every((key) => observed.value[key.id] !== undefined) &&
    options.value.every((option) => selection.value[option.id] !== undefined),
);

async function pick(hash: string): Promise<void> {
  clear();
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
const valuesOf = (key: ProcedureRead["document"]["variants"][number]): string[] =>
  key.serials ? [props.serial] : [...key.values, ...key.others];
</script>

<template>
  <div class="sheet">
    <h2 translate="no">{{ engine }} · {{ joint.label }}</h2>
    <p class="muted">{{ t(`berth.state.${joint.state}`) }}</p>
    <p v-if="joint.state === 'no_procedure'">{{ t("berth.no_procedure") }}</p>
    <problem-note :problem="problem" :unsent="unsent" @again="start" />
    <template v-if="chosen && variants.length + options.length > 0">
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
    <div v-else class="row">
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
      <template v-if="mayStart && (joint.state === 'to_do' || joint.state === 'closed')">
        <v-btn v-for="offer in joint.offers" :key="offer.hash" class="wide" @click="pick(offer.hash)">
          <i18n-t keypath="berth.start" scope="global">
            <template #title
              ><span translate="no">&nbsp;{{ offer.title }}, {{ offer.revision }}</span></template
            >
          </i18n-t>
        </v-btn>
      </template>
    </div>
  </div>
</template>

<style scoped>
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

.row .wide {
  flex: 1 1 100%;
  height: auto !important;
  min-height: 64px;
  white-space: normal;
}
</style>
