<script setup lang="ts">
import { computed, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRouter } from "vue-router";
import { answerOf, api } from "@/api/client";
import type { Condition, EngineStrip, EngineView as Overhauled, JointCell } from "@/api/types";
import EngineSection from "@/berth/EngineSection.vue";
import StartDialog from "@/berth/StartDialog.vue";
import BoardPanel from "@/engine/BoardPanel.vue";
import ClosePanel from "@/engine/ClosePanel.vue";
import CrankPanel from "@/engine/CrankPanel.vue";
import DeclareDialog from "@/engine/DeclareDialog.vue";
import type { StopCause } from "@/api/types";
import StopDialog from "@/engine/StopDialog.vue";
import EngineLog from "@/engine/EngineLog.vue";
import HotWorkPanel from "@/engine/HotWorkPanel.vue";
import HandOverEngineDialog from "@/engine/HandOverEngineDialog.vue";
import IsolationPanel from "@/engine/IsolationPanel.vue";
import OpenDialog from "@/engine/OpenDialog.vue";
import PapersPanel from "@/engine/PapersPanel.vue";
import PeoplePanels from "@/engine/PeoplePanels.vue";
import ToldPanel from "@/engine/ToldPanel.vue";
import ShaftPanel from "@/engine/ShaftPanel.vue";
import { provideEngine } from "@/engine/engine";
import ReasonDialog from "@/bench/ReasonDialog.vue";
import FormDialog from "@/shared/FormDialog.vue";
import PaperPage from "@/shared/PaperPage.vue";
import NotHere from "@/shared/NotHere.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { dayTimeText } from "@/shared/format";
import { useFollowed } from "@/shared/followed";
import { orLastAnswer } from "@/shared/lastAnswer";
import { useSession } from "@/shared/session";

/** The engine as a whole: what it is like now, who is in it, where the crank is, what is next. */
const props = defineProps<{ engine: string }>();
const { t } = useI18n();
const router = useRouter();
const session = useSession();
const engine = provideEngine(() => props.engine);
const { page, overhaul, acting } = engine;

const strip = ref<EngineStrip | null>(null);
useFollowed(async () => {
  const berth = (await orLastAnswer("berth", () => answerOf(api.GET("/api/berth")))).value;
  strip.value = berth.engines.find((one) => one.id === props.engine) ?? null;
});

const picked = ref<string | null>(null);
const joint = computed(() => strip.value?.joints.find((one) => one.key === picked.value) ?? null);
const byKey = computed(() => new Map((strip.value?.joints ?? []).map((one) => [one.key, one])));
const following = computed(() => (overhaul.value?.next ?? []).flatMap((key) => byKey.value.get(key) ?? []));
const firstOffer = (cell: JointCell): string =>
  cell.offers.find((offer) => offer.when === "now" && offer.barriers.length === 0)?.title ?? "";

type Open = "declare" | "open" | "hand" | "remark" | "hours" | "stop" | null;
const open = ref<Open>(null);
/** Whether the engine has to stand for a while yet. */
const stands = (until: string): boolean => Date.parse(until) > Date.now();
const paying = ref<Overhauled["owed"][number] | null>(null);

async function declare(found: Record<string, Condition>, words: string): Promise<void> {
  open.value = null;
  await engine.send({ kind: "declare_conditions", found, words });
}
async function openOverhaul(title: string, scope: string[], asItRan: boolean): Promise<void> {
  open.value = null;
  await engine.open(title, scope, asItRan);
}
async function handOver(
  to: string,
  words: string | null,
  pins: { pin: string; other_pin: string },
): Promise<void> {
  open.value = null;
  await engine.send({ kind: "hand_over_engine", to, words }, pins);
}
async function remark(words: string): Promise<void> {
  open.value = null;
  await engine.send({ kind: "remark", words });
}
async function noteStop(at: string, cause: StopCause): Promise<void> {
  open.value = null;
  await engine.send({ kind: "note_stop", stopped_at: at, cause, words: null });
}
const hours = ref("");
const readOn = ref(new Date().toISOString().slice(0, 10));
const figure = computed(() => Number(hours.value.trim().replace(",", ".")));
async function readHours(): Promise<void> {
  open.value = null;
  await acting.act(async () => {
    const params = { path: { engine_id: props.engine } };
    const body = { hours: figure.value, on: readOn.value };
    await answerOf(api.POST("/api/engines/{engine_id}/hours", { params, body }));
  });
}
async function pay(words: string): Promise<void> {
  const debt = paying.value;
  paying.value = null;
  if (debt) await engine.send({ kind: "pay_debt", run: debt.run_id, cell: debt.cell, words });
}
async function started(run: string): Promise<void> {
  picked.value = null;
  await router.push({ name: "bench", params: { run } });
}
</script>

<template>
  <paper-page v-if="page">
    <template #title>
      <span translate="no">{{ page.engine.name }}</span>
    </template>
    <template #under>
      <p class="muted">
        <span translate="no"
          >{{ page.engine.type }} · {{ page.engine.serial }} · {{ page.engine.place }}</span
        >
        <template v-if="overhaul">
          ·
          {{
            t("engine.opened", {
              title: overhaul.title,
              by: overhaul.opened_by,
              at: dayTimeText(overhaul.opened_at),
            })
          }}
          <span v-if="overhaul.hours !== null"> · {{ t("engine.hours", { hours: overhaul.hours }) }}</span>
          ·
          {{
            overhaul.default_sheet
              ? t("engine.by_default")
              : t("engine.by_sheet", { title: overhaul.sheet_title })
          }}
        </template>
      </p>
    </template>
    <template #acts>
      <v-btn v-if="page.may_record" @click="open = 'hours'">{{ t("engine.read_hours") }}</v-btn>
      <v-btn v-if="!overhaul && !page.fault && page.may_lead" class="main" @click="open = 'open'">{{
        t("engine.open")
      }}</v-btn>
      <template v-if="overhaul">
        <v-btn :to="{ name: 'plan', params: { engine: page.engine.id } }">{{ t("plan.title") }}</v-btn>
        <v-btn :to="{ name: 'board', params: { engine: page.engine.id } }">{{ t("engine.board") }}</v-btn>
        <v-btn v-if="page.may_lead" @click="open = 'declare'">{{ t("engine.declare") }}</v-btn>
        <v-btn v-if="page.may_work" @click="open = 'hand'">{{ t("engine.hand_over") }}</v-btn>
        <v-btn v-if="page.may_record" @click="open = 'stop'">{{ t("engine.stop.title") }}</v-btn>
        <v-btn v-if="page.may_record" @click="open = 'remark'">{{ t("engine.remark") }}</v-btn>
      </template>
    </template>
    <problem-note :problem="acting.problem.value" :unsent="acting.unsent.value" />
    <p v-if="page.fault" class="none" role="alert">{{ t("engine.fault", { why: page.fault }) }}</p>
    <p v-else-if="!overhaul" class="none">{{ t("engine.none") }}</p>
    <p v-if="overhaul" class="stopped" :class="{ muted: overhaul.stop === null }">
      <template v-if="overhaul.stop">
        {{
          t("engine.stop.since", {
            at: dayTimeText(overhaul.stop.at),
            cause: t(`engine.stop.cause.${overhaul.stop.cause}`),
            by: overhaul.stop.by,
          })
        }}
        <b v-if="stands(overhaul.stop.until_at)" class="words">
          {{ t("engine.stop.until", { at: dayTimeText(overhaul.stop.until_at) }) }}
        </b>
      </template>
      <template v-else>{{ t("engine.stop.unknown") }}</template>
    </p>
    <engine-section v-if="strip" :engine="strip" bare @pick="(one) => (picked = one.key)" />
    <div v-if="overhaul" class="columns">
      <div class="column">
        <board-panel :title="t('engine.next')" :none="t('engine.next_none')" :empty="following.length === 0">
          <button
            v-for="one in following"
            :key="one.key"
            class="line"
            type="button"
            @click="picked = one.key"
          >
            <strong class="words" translate="no">{{ one.label }}</strong>
            <span class="muted" translate="no">{{ firstOffer(one) }}</span>
          </button>
        </board-panel>
        <crank-panel />
        <isolation-panel />
      </div>
      <div class="column">
        <board-panel
          :title="t('engine.pressure')"
          :none="t('engine.pressure_none')"
          :empty="overhaul.under_pressure.length === 0"
          :hot="overhaul.under_pressure.length > 0"
        >
          <p v-for="one in overhaul.under_pressure" :key="one" class="line words" translate="no">{{ one }}</p>
        </board-panel>
        <told-panel />
        <people-panels />
        <hot-work-panel />
        <board-panel
          :title="t('engine.hung')"
          :none="t('engine.hung_none')"
          :empty="overhaul.hung.length === 0"
        >
          <p v-for="one in overhaul.hung" :key="one" class="line words" translate="no">{{ one }}</p>
        </board-panel>
        <board-panel
          :title="t('engine.owed')"
          :none="t('engine.owed_none')"
          :empty="overhaul.owed.length === 0"
        >
          <div v-for="one in overhaul.owed" :key="one.run_id + one.cell" class="line owed">
            <span class="debt">
              <strong class="words" translate="no">{{ one.joint }}</strong>
              <span translate="no">{{ one.text }}</span>
              <small v-if="one.to" class="muted">{{ t("engine.owed_to", { to: one.to }) }}</small>
            </span>
            <v-btn v-if="page.may_lead" @click="paying = one">{{ t("engine.pay") }}</v-btn>
          </div>
        </board-panel>
        <close-panel />
        <shaft-panel />
      </div>
    </div>
    <papers-panel
      v-if="overhaul"
      :key="overhaul.seq"
      :overhaul="overhaul.overhaul_id"
      :engine="page.engine.id"
      :records="page.may_record"
    />
    <engine-log v-if="overhaul" />

    <v-dialog
      :model-value="joint !== null"
      :aria-label="t('berth.sheet', { label: joint?.label ?? '' })"
      @update:model-value="picked = null"
    >
      <start-dialog
        v-if="joint"
        :engine-id="page.engine.id"
        :engine="page.engine.name"
        :serial="page.engine.serial"
        :joint="joint"
        :overhaul="overhaul !== null"
        :may-start="session.rights.has('start_run')"
        @shut="picked = null"
        @started="started"
        @go="(key) => (picked = key)"
      />
    </v-dialog>
    <declare-dialog
      :open="open === 'declare'"
      :joints="overhaul?.joints ?? []"
      :picked="null"
      @done="declare"
      @shut="open = null"
    />
    <open-dialog
      :open="open === 'open'"
      :engine="page.engine.name"
      :joints="strip?.joints ?? []"
      @done="openOverhaul"
      @shut="open = null"
    />
    <form-dialog
      :open="open === 'hours'"
      :title="t('engine.hours_title')"
      :confirm="t('engine.read_hours')"
      :ready="hours.trim() !== '' && Number.isFinite(figure) && readOn !== ''"
      @done="readHours"
      @shut="open = null"
    >
      <v-text-field v-model="hours" :label="t('engine.hours_label')" inputmode="decimal" maxlength="9" />
      <v-text-field v-model="readOn" :label="t('engine.hours_on')" type="date" />
    </form-dialog>
    <stop-dialog :open="open === 'stop'" @done="noteStop" @shut="open = null" />
    <hand-over-engine-dialog :open="open === 'hand'" :me="page.me" @done="handOver" @shut="open = null" />
    <reason-dialog
      :open="open === 'remark'"
      :title="t('engine.remark')"
      text=""
      :label="t('engine.remark')"
      :confirm="t('engine.remark')"
      :leave="t('ui.cancel')"
      @done="remark"
      @shut="open = null"
    />
    <reason-dialog
      :open="paying !== null"
      :title="t('engine.pay_title')"
      :text="paying?.text ?? ''"
      :label="t('engine.pay_label')"
      :confirm="t('engine.pay')"
      :leave="t('ui.cancel')"
      @done="pay"
      @shut="paying = null"
    />
  </paper-page>
  <not-here v-else :problem="acting.problem.value" :unsent="acting.unsent.value" @again="engine.again" />
</template>

<style scoped>
.stopped {
  font-size: var(--size-3);
  margin: var(--gap-2) 0;
}

.stopped b {
  color: var(--out);
  font-size: var(--size-4);
}

.none {
  margin: 0;
}

.columns {
  align-items: start;
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr);
}

.at-narrow .columns {
  grid-template-columns: minmax(0, 1fr);
}

.column {
  display: grid;
  gap: 14px;
}

.line {
  background: none;
  border: 0;
  border-top: 1px solid var(--line);
  color: inherit;
  display: block;
  font: inherit;
  margin: 0;
  min-height: var(--touch);
  padding: 8px 0;
  text-align: left;
  width: 100%;
}

button.line {
  cursor: pointer;
}

button.line .words {
  font-size: var(--size-4);
  margin-right: 12px;
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 4px;
}

p.line {
  font-size: var(--size-4);
}

.owed {
  align-items: center;
  display: flex;
  gap: 10px;
  justify-content: space-between;
}

.debt {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}

.owed .v-btn {
  flex: none;
  font-size: var(--size-2);
  height: 44px !important;
}
</style>
