<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useI18n } from "vue-i18n";
import { api, ProblemError, take } from "@/api/client";
import type { Answer, OpenQuestion, Row, ToolListed, TroubleView } from "@/api/types";
import type { Stand } from "@/bench/turning";
import { useWords } from "@/bench/words";
import CallPanel from "@/components/bench/CallPanel.vue";
import JointPlan from "@/components/bench/JointPlan.vue";
import PassRibbon from "@/components/bench/PassRibbon.vue";
import PinSheet from "@/components/bench/PinSheet.vue";
import QuestionNote from "@/components/bench/QuestionNote.vue";
import ReasonSheet from "@/components/bench/ReasonSheet.vue";
import TroubleNote from "@/components/bench/TroubleNote.vue";
import TroubleSheet from "@/components/bench/TroubleSheet.vue";
import VerdictMark from "@/components/bench/VerdictMark.vue";
import KeysSheet from "@/components/KeysSheet.vue";
import ProblemNote from "@/components/ProblemNote.vue";
import { figureText, secondsText, timeText } from "@/format";
import { useShortcuts } from "@/shortcuts";
import { useBench, type Wish } from "@/stores/bench";
import { useLive } from "@/stores/live";
import { useSession } from "@/stores/session";

const props = defineProps<{ run: string }>();
const { t } = useI18n();
const bench = useBench();
const live = useLive();
const session = useSession();
const words = useWords();

type Sheet =
  | { kind: "reason" | "accept"; row: Row }
  | { kind: "redo"; row: Row; cells: string[] }
  | { kind: "override"; tool: ToolListed }
  | { kind: "end"; trouble: TroubleView; how: "fixed" | "departure" }
  | { kind: "note" | "sign" | "pause" | "keys" | "trouble" };
const sheet = ref<Sheet | null>(null);
const QUICK = ["bench.quick_mistyped", "bench.quick_misread", "bench.quick_wrong"];

watch(
  () => props.run,
  (run) => bench.open(run),
  { immediate: true },
);

const view = computed(() => bench.view);
const mayAccept = computed(() => session.rights.has("accept"));
const mayClose = computed(() => session.rights.has("close_run"));
const openFasteners = computed(() => (view.value?.calls ?? []).flatMap((call) => call.fastener ?? []));
const owed = computed(() => words.owed(view.value?.owed ?? []));
const reasonsOwed = computed(() => (view.value?.owed ?? []).filter((one) => one.kind === "reason"));

const standKey = computed(() => `jorvek.stand.${view.value?.engine_id ?? ""}.${view.value?.joint_key ?? ""}`);
const stand = ref<Stand>({ quarterTurns: 0, mirrored: false });
watch(standKey, (key) => {
  const kept = localStorage.getItem(key);
  stand.value = kept === null ? { quarterTurns: 0, mirrored: false } : (JSON.parse(kept) as Stand);
});
watch(stand, (value) => {
  localStorage.setItem(standKey.value, JSON.stringify(value));
});

function turn(): void {
  stand.value = {
    ...stand.value,
    quarterTurns: ((stand.value.quarterTurns + 1) % 4) as Stand["quarterTurns"],
  };
}

function mirror(): void {
  stand.value = { ...stand.value, mirrored: !stand.value.mirrored };
}

/** A touch must not leave the focus on a side button, or the pedal would press that one next. */
function keepFocus(event: MouseEvent): void {
  if ((event.target as Element).closest("button, a, [role=button]") !== null) event.preventDefault();
}

function pick(fastener: string): void {
  const call = view.value?.calls.find((one) => one.fastener === fastener);
  if (call) bench.chosen = call.cell;
}

async function strike(row: Row): Promise<void> {
  const done = await bench.send({ kind: "strike", cell: row.cell, attempt: row.attempt });
  if (done) sheet.value = { kind: "reason", row };
}

async function strikeLast(): Promise<void> {
  const now = view.value;
  if (now?.last && now.last_may_strike) await strike(now.last);
}

async function askRedo(question: OpenQuestion): Promise<void> {
  const params = { path: { run_id: props.run }, query: { cell: question.row.cell } };
  try {
    const scope = await take(api.GET("/api/runs/{run_id}/redo", { params }));
    sheet.value = { kind: "redo", row: question.row, cells: scope.cells };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    bench.problem = error.problem;
  }
}

async function draw(tool: ToolListed): Promise<void> {
  if (tool.out_of_date) sheet.value = { kind: "override", tool };
  else await bench.record({ type: "tool", tool_id: tool.id });
}

async function finishSheet(reason: string): Promise<void> {
  const open = sheet.value;
  sheet.value = null;
  switch (open?.kind) {
    case "reason":
      await bench.send({ kind: "give_reason", cell: open.row.cell, attempt: open.row.attempt, reason });
      break;
    case "accept":
      await bench.send({ kind: "accept", cell: open.row.cell, attempt: open.row.attempt, reason });
      break;
    case "redo":
      await bench.send({ kind: "redo", cell: open.row.cell, cells: open.cells, reason });
      break;
    case "override":
      await bench.record({ type: "tool", tool_id: open.tool.id, override_reason: reason });
      break;
    case "end":
      await bench.send({ kind: "end_trouble", trouble: open.trouble.seq, how: open.how, words: reason });
      break;
    case "note":
      await bench.send({ kind: "note", text: reason, cell: bench.call?.cell ?? null });
      break;
    default:
  }
}

async function sign(pin: string): Promise<void> {
  sheet.value = null;
  await bench.record({ type: "signature" }, pin);
}

async function giveOwedReason(): Promise<void> {
  const first = reasonsOwed.value[0];
  if (first === undefined) return;
  const record = await take(
    api.GET("/api/runs/{run_id}/record", { params: { path: { run_id: props.run } } }),
  );
  const rows = record.sections.flatMap((section) => section.rows);
  const row = rows.find((one) => one.cell === first.cell && one.attempt === first.attempt);
  if (row) sheet.value = { kind: "reason", row };
}

async function pause(): Promise<void> {
  sheet.value = null;
  await bench.send({ kind: "pause" });
}

const openTroubles = computed(() => (view.value?.troubles ?? []).filter((one) => one.how === null));
type TroubleKind = Extract<Wish, { kind: "raise_trouble" }>["what"];

async function raiseTrouble(what: TroubleKind): Promise<void> {
  const cell = bench.call?.cell ?? view.value?.last?.cell;
  sheet.value = null;
  if (cell !== undefined) await bench.send({ kind: "raise_trouble", what, cell });
}

/** Doing it again ends the trouble; what is repeated is shown before it is confirmed. */
async function redoTrouble(trouble: TroubleView): Promise<void> {
  const params = { path: { run_id: props.run }, query: { cell: trouble.cell } };
  const words = t(`trouble.${trouble.what}`);
  try {
    const scope = await take(api.GET("/api/runs/{run_id}/redo", { params }));
    const redone = await bench.send({ kind: "redo", cell: trouble.cell, cells: scope.cells, reason: words });
    if (redone) await bench.send({ kind: "end_trouble", trouble: trouble.seq, how: "done_again", words });
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    bench.problem = error.problem;
  }
}

const give = (answer: Answer, cell?: string): void => void bench.record(answer, null, cell);
const rowWords = (row: Row): string =>
  [row.fastener, words.item(row.kind, row.item), words.answer(row)].filter(Boolean).join(" ");

const sheetTexts = computed(() => {
  const open = sheet.value;
  if (open === null || !("row" in open || "tool" in open || open.kind === "note" || open.kind === "end")) {
    return null;
  }
  const what = "row" in open ? rowWords(open.row) : "";
  const plain = { label: t("bench.reason"), confirm: t("ui.confirm"), leave: t("ui.cancel") };
  switch (open.kind) {
    case "reason":
      return {
        ...plain,
        title: t("bench.strike_title"),
        text: t("bench.strike_text", { what }),
        confirm: t("bench.give_reason"),
        leave: t("bench.strike_later"),
        quick: QUICK,
      };
    case "accept":
      return { ...plain, title: t("bench.accept_title"), text: t("bench.accept_text", { what }) };
    case "redo":
      return { ...plain, title: t("bench.redo_title"), text: t("bench.redo_text"), confirm: t("bench.redo") };
    case "override":
      return {
        ...plain,
        title: t("bench.override_title"),
        text: t("bench.override_text", { tool: open.tool.id, due: open.tool.calibration_due }),
      };
    case "end":
      return { ...plain, title: t(`trouble.${open.how}_title`), text: t(`trouble.${open.trouble.what}`) };
    case "note":
      return { ...plain, title: t("bench.note_title"), text: "", label: t("bench.note_text") };
  }
  return null;
});

const cellWords = (key: string): string => {
  for (const row of view.value?.ribbon ?? []) {
    const cell = row.cells.find((one) => one.cell === key);
    if (cell) return `${row.title}: ${words.short(cell.item)} ${cell.fastener ?? ""}`;
  }
  return key;
};

useShortcuts({
  r: turn,
  f: mirror,
  n: () => (sheet.value = { kind: "note" }),
  t: () => (sheet.value = { kind: "trouble" }),
  h: () => (sheet.value = { kind: "pause" }),
  p: () => (sheet.value = { kind: "pause" }),
  "?": () => (sheet.value = { kind: "keys" }),
});
</script>

<template>
  <main v-if="view" id="content" class="bench" @mousedown="keepFocus">
    <Teleport to="#bar-slot">
      <span v-if="bench.busy">{{ t("bench.sending") }}</span>
      <span v-else-if="bench.unsent" class="lost">{{ t("bench.not_stored") }}</span>
      <i18n-t v-else-if="bench.storedAt" keypath="bench.stored" scope="global" tag="span" class="stored">
        <template #at
          ><span class="figure" translate="no">{{ secondsText(bench.storedAt) }}</span></template
        >
      </i18n-t>
      <span :class="live.linked ? 'live' : 'lost'">{{
        live.linked ? t("bench.live") : t("bench.link_lost")
      }}</span>
    </Teleport>

    <section class="left">
      <p class="crumb words">
        <span translate="no">{{ view.engine }} / {{ view.joint }}</span>
        <span class="muted"
          ><span translate="no">{{ view.procedure_title }}</span> ·
          {{ t("ui.revision", { revision: view.revision }) }}</span
        >
        <span class="debts" :class="{ none: owed.length === 0 }">
          {{ t("bench.owed") }}: {{ owed.length === 0 ? t("bench.owed_none") : owed.join(" · ") }}
        </span>
      </p>
      <joint-plan
        :plan="view.plan"
        :stand="stand"
        :joint="view.joint"
        :now="bench.call?.fastener ?? null"
        :open="openFasteners"
        @pick="pick"
      />
      <div class="actions">
        <v-btn @click="turn">{{ t("bench.turn") }}<span class="key" translate="no">R</span></v-btn>
        <v-btn :aria-pressed="stand.mirrored" @click="mirror">
          {{ t("bench.mirror") }}<span class="key" translate="no">F</span>
        </v-btn>
        <v-btn :disabled="!view.last_may_strike" @click="strikeLast">
          {{ t("bench.strike") }}<span class="key" translate="no">⌫</span>
        </v-btn>
        <v-btn
          :disabled="view.standing !== 'call' && view.standing !== 'blocked'"
          @click="sheet = { kind: 'trouble' }"
        >
          {{ t("trouble.button") }}<span class="key" translate="no">T</span>
        </v-btn>
        <v-btn @click="sheet = { kind: 'note' }"
          >{{ t("bench.note") }}<span class="key" translate="no">N</span></v-btn
        >
        <v-btn
          :disabled="view.standing === 'paused' || view.standing === 'closed'"
          @click="sheet = { kind: 'pause' }"
        >
          {{ t("bench.hand_over") }}<span class="key" translate="no">H</span>
        </v-btn>
      </div>
      <pass-ribbon :rows="view.ribbon" :now="bench.call?.cell ?? null" />
    </section>

    <section class="right">
      <problem-note :problem="bench.problem" :unsent="bench.unsent !== null" @again="bench.sendAgain" />
      <question-note
        v-for="question in view.questions.slice(0, 1)"
        :key="question.row.cell"
        :question="question"
        :may-accept="mayAccept"
        @strike="strike(question.row)"
        @redo="askRedo(question)"
        @accept="sheet = { kind: 'accept', row: question.row }"
      />
      <trouble-note
        v-for="trouble in openTroubles.slice(0, 1)"
        :key="trouble.seq"
        :trouble="trouble"
        :may-depart="mayAccept"
        @end="(how) => (sheet = { kind: 'end', trouble, how })"
        @redo="redoTrouble(trouble)"
      />
      <call-panel
        v-if="bench.call"
        :call="bench.call"
        :calls="view.calls"
        :busy="bench.busy"
        :clock-offset-ms="bench.clockOffsetMs"
        @give="give"
        @draw="draw"
        @sign="sheet = { kind: 'sign' }"
        @strike-last="strikeLast"
      />
      <div v-else class="rest">
        <h1>{{ t(`bench.${view.standing}_head`) }}</h1>
        <i18n-t v-if="view.standing === 'paused'" keypath="bench.paused_text" scope="global" tag="p">
          <template #by
            ><span translate="no">{{ view.watch.by }}</span></template
          >
        </i18n-t>
        <p v-else>{{ t(`bench.${view.standing}_text`) }}</p>
        <v-btn
          v-if="view.standing === 'paused'"
          class="main big"
          block
          @click="bench.send({ kind: 'take_over' })"
        >
          {{ t("bench.take_over") }}
        </v-btn>
        <v-btn v-if="reasonsOwed.length > 0" class="main big" block @click="giveOwedReason">
          {{ t("bench.give_reason") }}
        </v-btn>
        <v-btn
          v-if="view.standing === 'complete' && mayClose"
          class="main big"
          block
          @click="bench.send({ kind: 'close' })"
        >
          {{ t("bench.finish") }}
        </v-btn>
        <v-btn
          v-if="view.standing === 'complete' || view.standing === 'closed'"
          class="big"
          block
          :to="{ name: 'record', params: { run } }"
        >
          {{ t("berth.look") }}
        </v-btn>
      </div>
      <p
        v-if="view.last"
        class="last"
        :class="{ hatched: view.last.verdict === 'out_of_band' }"
        aria-live="polite"
      >
        <span class="words muted">{{ t("bench.last") }}</span>
        <span class="what words">
          <template v-if="view.last.fastener"
            >{{ t(`bench.${view.last.piece}`, { name: view.last.fastener }) }} ·
          </template>
          <span v-if="words.authored(view.last)" translate="no">{{ view.last.text }}</span>
          <template v-else>{{ words.item(view.last.kind, view.last.item) }}</template>
        </span>
        <span class="figure" translate="no">
          {{ figureText(view.last.read)
          }}<template v-if="view.last.judged"> → {{ figureText(view.last.judged) }}</template>
        </span>
        <verdict-mark :row="view.last" />
        <span class="who muted" translate="no">{{ view.last.by }} {{ timeText(view.last.at) }}</span>
      </p>
    </section>

    <reason-sheet v-if="sheetTexts" :open="true" v-bind="sheetTexts" @done="finishSheet" @shut="sheet = null">
      <ul v-if="sheet?.kind === 'redo'" class="scope">
        <li v-for="cell in sheet.cells" :key="cell">{{ cellWords(cell) }}</li>
      </ul>
    </reason-sheet>
    <pin-sheet
      :open="sheet?.kind === 'sign'"
      :name="session.me?.name ?? ''"
      @done="sign"
      @shut="sheet = null"
    />
    <trouble-sheet :open="sheet?.kind === 'trouble'" @shut="sheet = null" @raise="raiseTrouble" />
    <keys-sheet :open="sheet?.kind === 'keys'" @shut="sheet = null" />
    <v-dialog
      :model-value="sheet?.kind === 'pause'"
      :aria-label="t('bench.pause_title')"
      @update:model-value="sheet = null"
    >
      <div class="sheet">
        <h2>{{ t("bench.pause_title") }}</h2>
        <p>{{ t("bench.pause_text") }}</p>
        <div class="row">
          <v-btn @click="sheet = null">{{ t("ui.cancel") }}</v-btn>
          <v-btn class="main" @click="pause">{{ t("bench.pause") }}</v-btn>
        </div>
      </div>
    </v-dialog>
  </main>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 456px;
  height: calc(100vh - 56px);
  min-height: 640px;
}

.left {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr) auto 218px;
  min-height: 0;
}

.right {
  background: var(--panel);
  border-left: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
  overflow-y: auto;
  padding: 14px 22px 12px;
}

.crumb > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.crumb > :first-child,
.debts {
  flex: none;
}

.crumb {
  align-items: baseline;
  display: flex;
  font-size: 21px;
  gap: 14px;
  margin: 0;
  padding: 10px 20px 0;
}

.crumb .muted {
  font-size: 17px;
}

.debts {
  color: var(--doubt);
  font-size: 18px;
  margin-left: auto;
}

.debts.none {
  color: var(--muted);
}

.actions {
  display: flex;
  gap: 8px;
  padding: 6px 20px 10px;
}

.actions .v-btn {
  flex: 1 1 auto;
  font-size: 20px;
  padding: 0 10px;
}

.rest {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 14px;
  justify-content: center;
}

.question ~ .rest {
  justify-content: flex-start;
}

.rest h1 {
  font-size: 44px;
}

.rest p {
  font-size: 18px;
  margin: 0;
}

.rest .big {
  font-size: 28px;
  height: 76px !important;
}

.last {
  align-items: baseline;
  border-top: 1px solid var(--line);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 9px;
  margin: 0;
  padding-top: 8px;
}

.last .words {
  font-size: 18px;
}

.last .who {
  font-size: 13px;
  margin-left: auto;
}

.scope {
  columns: 2;
  font-size: 14px;
  max-height: 220px;
  overflow-y: auto;
}

.lost {
  color: #ffd65a;
  font-weight: 600;
}

.live::before {
  border: 2px solid currentcolor;
  border-radius: 50%;
  content: "";
  display: inline-block;
  height: 8px;
  margin-right: 6px;
  width: 8px;
}
</style>
