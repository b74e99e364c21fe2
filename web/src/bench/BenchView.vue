<script setup lang="ts">
import { computed, nextTick, watch } from "vue";
import { useI18n } from "vue-i18n";
import { useDisplay } from "vuetify";
import { provideActions } from "@/bench/actions";
import { useOrientation } from "@/bench/orientation";
import { useWords } from "@/bench/words";
import AgePanel from "@/bench/AgePanel.vue";
import BenchActions from "@/bench/BenchActions.vue";
import BenchNotes from "@/bench/BenchNotes.vue";
import BenchDialogs from "@/bench/BenchDialogs.vue";
import CallPanel from "@/bench/CallPanel.vue";
import OfflineEnd from "@/bench/OfflineEnd.vue";
import EngineLine from "@/bench/EngineLine.vue";
import JointPlan from "@/bench/JointPlan.vue";
import LastReading from "@/bench/LastReading.vue";
import PassRibbon from "@/bench/PassRibbon.vue";
import PhotoNote from "@/bench/PhotoNote.vue";
import RestPanel from "@/bench/RestPanel.vue";
import SweepNote from "@/bench/SweepNote.vue";
import WaitingNote from "@/bench/WaitingNote.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { numberText, secondsText } from "@/shared/format";
import { useShortcuts } from "@/shared/shortcuts";
import { useBench } from "@/bench/store";
import { useAsking } from "@/shared/acting";
import { useHere } from "@/shared/here";
import { useLink } from "@/shared/link";
import NotHere from "@/shared/NotHere.vue";
import { useOutbox } from "@/shared/outbox";
import { aloud, speak } from "@/shared/look";
import { localeNow } from "@/i18n";
import { useSession } from "@/shared/session";

const props = defineProps<{ run: string }>();
const { smAndDown } = useDisplay();
const { t } = useI18n();
const bench = useBench();
const link = useLink();
const outbox = useOutbox();
const session = useSession();
const words = useWords();
const actions = provideActions();

const opening = useAsking<null>();
const open = (): Promise<void> => opening.ask(() => bench.open(props.run).then(() => null));
watch(() => props.run, open, { immediate: true });

const view = computed(() => bench.view);
/** Whoever has the run in hand, or a part of it, works at its engine; whoever only looks does not. */
const here = useHere();
watch(view, (now) => {
  const hands = now === null ? [] : [now.watch.person_id, ...now.parts.map((one) => one.person_id)];
  const at = now !== null && now.status !== "closed" && now.status !== "paused";
  if (at && hands.includes(session.me?.id ?? "")) here.at(now.engine_id, now.run_id);
});
const { orientation, mirrored, turn, mirror } = useOrientation(view);
const openFasteners = computed(() => bench.calls.flatMap((call) => call.fastener ?? []));
/** What waits on this tablet, by the fastener it is on. */
const waitingCells = computed(
  () => new Set(bench.waiting.flatMap(({ command }) => (command.kind === "record" ? [command.cell] : []))),
);
const waitingOn = computed(() => {
  const cells = (view.value?.ribbon ?? []).flatMap((row) => row.cells);
  return new Set(cells.flatMap((cell) => (waitingCells.value.has(cell.cell) ? (cell.fastener ?? []) : [])));
});
const others = computed(() => outbox.others.filter((one) => one.run === props.run));
const owed = computed(() => words.owed(view.value?.owed ?? []));
/** While something past its time is asked about, the call that relies on it waits. */
const age = computed(() => (bench.offline ? null : (view.value?.ages[0] ?? null)));
const call = computed(() => (age.value === null ? bench.call : null));

/** The figure that was probably meant, in the unit it was typed in. */
const meant = computed(() => {
  const { meant: figure, unit } = bench.problem?.params ?? {};
  return typeof figure === "string" ? `${numberText(figure)} ${unit ?? ""}` : null;
});
/** What was only asked about may stand: the figure as it was typed. */
const stands = computed(() => {
  const { got, unit } = bench.problem?.params ?? {};
  return bench.problem?.asks === true ? `${numberText(String(got))} ${unit ?? ""}` : null;
});

/** What others on the engine still rely on is left to whoever is last. */
const leavable = computed(
  () =>
    call.value?.for_engine === true &&
    (call.value.kind !== "restore" || bench.problem?.code === "refusal.isolation_relied_on"),
);

/** A touch must not leave the focus on a side button, or the pedal would press that one next. */
function keepFocus(event: MouseEvent): void {
  if ((event.target as Element).closest("button, a, [role=button]") !== null) event.preventDefault();
}

/** Said by the browser's own voice: the eyes stay on the joint. */
function readOut(): void {
  const said = document.querySelector<HTMLElement>(".call .said header")?.innerText;
  if (said !== undefined) speak(said, localeNow());
}
watch(
  () => call.value?.cell,
  async () => {
    if (aloud.value !== "on") return;
    await nextTick();
    readOut();
  },
);

useShortcuts({
  r: turn,
  f: mirror,
  n: () => (actions.dialog.value = { kind: "note" }),
  t: () => (actions.dialog.value = { kind: "trouble" }),
  h: () => (actions.dialog.value = { kind: "hand_over" }),
  p: () => (actions.dialog.value = { kind: "hand_over" }),
  l: readOut,
});
</script>

<template>
  <main v-if="view" id="content" class="bench" :data-seq="view.seq" @mousedown="keepFocus">
    <Teleport to="#bar-slot">
      <span v-if="bench.busy">{{ t("bench.sending") }}</span>
      <span v-else-if="bench.waiting.length > 0" class="lost">{{
        t("bench.waiting_short", { n: bench.waiting.length })
      }}</span>
      <i18n-t v-else-if="bench.storedAt" keypath="bench.stored" scope="global" tag="span" class="stored">
        <template #at
          ><span class="figure" translate="no">{{ secondsText(bench.storedAt) }}</span></template
        >
      </i18n-t>
      <span :class="link.up ? 'live' : 'lost'">{{ link.up ? t("bench.live") : t("bench.link_lost") }}</span>
    </Teleport>

    <!-- The call comes first for whoever goes by the keyboard; the plan stands left of it. -->
    <section class="right">
      <engine-line v-if="smAndDown" :view="view" />
      <problem-note :problem="bench.problem" :unsent="bench.unsent" />
      <div v-if="meant || stands" class="ways">
        <v-btn v-if="meant" class="main big" @click="actions.giveMeant">{{
          t("bench.meant", { meant })
        }}</v-btn>
        <v-btn v-if="stands" class="big" @click="actions.giveAsSure">{{
          t("bench.stands", { got: stands })
        }}</v-btn>
      </div>
      <v-btn v-if="leavable" class="big" block @click="bench.record({ type: 'left_to_engine' })">{{
        t("engine.leave_to")
      }}</v-btn>
      <p v-if="leavable" class="hint">{{ t("engine.leave_to_hint") }}</p>
      <sweep-note
        v-if="view.gear || (call?.turns_crank && !bench.offline)"
        :run="view.run_id"
        :turns="call?.turns_crank ?? false"
        :moves="call?.moves_crank ?? false"
      />
      <p v-if="view.fault" class="hint" role="alert">
        {{ t(`bench.${view.fault.code}`, view.fault.params) }}
      </p>
      <p v-if="bench.hint" class="hint" role="status">{{ bench.hint }}</p>
      <!-- With a link a press is answered at once: a note that came and went would make the call jump. -->
      <waiting-note v-if="bench.offline || others.length > 0" />
      <bench-notes v-if="!bench.offline" :view="view" />
      <photo-note v-for="one in bench.photosOwed.slice(0, 1)" :key="one.cell" :owed="one" />
      <call-panel
        v-if="call"
        :call="call"
        :calls="bench.calls"
        :clock-offset-ms="bench.clockOffsetMs"
        :refused="bench.problem !== null"
      />
      <age-panel v-else-if="age" :age="age" />
      <offline-end v-else-if="bench.offline" />
      <rest-panel v-else :view="view" />
      <!-- What passed its limit stands above already; the call below it needs the room. -->
      <last-reading
        v-if="view.last && !bench.offline && !view.questions[0]?.let_down_first"
        :row="view.last"
      />
    </section>

    <section class="left">
      <p class="crumb words">
        <span translate="no">{{ view.engine }} / {{ view.joint }}</span>
        <span class="muted"
          ><span translate="no">{{ view.procedure_title }}</span> ·
          {{ t("ui.revision", { revision: view.revision }) }}</span
        >
        <engine-line v-if="!smAndDown" :view="view" />
        <span class="debts" :class="{ none: owed.length === 0 }">
          {{ t("bench.owed") }}: {{ owed.length === 0 ? t("bench.owed_none") : owed.join(" · ") }}
        </span>
      </p>
      <joint-plan
        :plan="view.plan"
        :orientation="orientation"
        :joint="view.joint"
        :now="bench.call?.fastener ?? null"
        :open="openFasteners"
        :later="bench.later.map((one) => one.fastener)"
        :waiting="waitingOn"
        :parts="view.parts"
        :me="session.me?.id ?? ''"
        @pick="actions.pick"
      />
      <bench-actions :view="view" :mirrored="mirrored" @turn="turn" @mirror="mirror" />
      <pass-ribbon :rows="view.ribbon" :waiting="waitingCells" :now="bench.call?.cell ?? null" />
    </section>

    <bench-dialogs />
  </main>
  <not-here v-else :problem="opening.problem.value" :unsent="opening.unsent.value" @again="open" />
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 456px;
  flex: 1;
  min-height: 0;
}

/* What changes in one part does not make the browser measure the others. */
.left,
.right {
  contain: strict;
  grid-row: 1;
}

.left {
  display: grid;
  grid-column: 1;
  grid-template-columns: minmax(0, 1fr);
  /* With larger letters the column scrolls; a plan that no finger meets is no plan. */
  grid-template-rows: auto minmax(264px, 1fr) auto 218px;
  min-height: 0;
  overflow-y: auto;
}

.right {
  grid-column: 2;
  background: var(--panel);
  border-left: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
  overflow-y: auto;
  padding: 14px 22px 12px;
}

.right > :last-child {
  margin-top: auto;
}

/* In portrait, on a phone and enlarged: the call first, the page scrolls, nothing is squeezed. */
.at-narrow .bench,
.at-low .bench {
  display: flex;
  flex-direction: column;
  flex: none;
}

.at-low:not(.at-narrow) .bench {
  display: grid;
}

.at-narrow .left,
.at-narrow .right,
.at-low .left,
.at-low .right {
  contain: none;
}

.at-narrow .right {
  border-bottom: 1px solid var(--line);
  border-left: 0;
  padding: var(--gap-3);
}

.at-narrow .left {
  grid-template-rows: auto minmax(280px, 56vw) auto auto;
}

.at-phone .left {
  grid-template-rows: auto minmax(340px, 80vw) auto auto;
}

.at-narrow .crumb {
  padding: var(--gap-3) var(--gap-3) 0;
}

.at-narrow .crumb > :first-child,
.debts {
  flex: none;
}

.crumb {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-4);
  gap: 0 14px;
  margin: 0;
  padding: 10px 20px 0;
}

.crumb .muted {
  font-size: var(--size-3);
}

.debts {
  color: var(--doubt);
  font-size: var(--size-3);
  margin-left: auto;
}

.at-phone .debts {
  flex: 1 1 100%;
  min-width: 0;
}

.debts.none {
  color: var(--muted);
}

/* What comes of a question: two keys side by side, no taller than a glove wants them. */
.ways {
  display: grid;
  flex: none;
  gap: var(--gap-2);
  grid-auto-columns: minmax(0, 1fr);
  grid-auto-flow: column;
}

.ways .v-btn {
  height: auto;
  min-height: 64px;
  white-space: normal;
}

.hint {
  border-left: 5px solid var(--doubt);
  font-size: var(--size-3);
  margin: 0;
  padding: 4px 10px;
}

.lost {
  color: #ffd65a;
  font-weight: 600;
}

.live,
.stored {
  white-space: nowrap;
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
