import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";
import { answerOf, api, newId } from "@/api/client";
import { drawnSmall } from "@/api/pictures";
import type { Ahead, Answer, BenchAnswer, BenchView, Call, Command, Problem } from "@/api/types";
import { offlineCalls, photosOwed as photosOwedOn } from "@/bench/offlineCalls";
import { i18n } from "@/i18n";
import { keep, type PictureToSend } from "@/shared/tabletDisk";
import { note } from "@/shared/acting";
import { useLink } from "@/shared/link";
import { orLastAnswer } from "@/shared/lastAnswer";
import { AGAIN_AFTER_MS, useOutbox } from "@/shared/outbox";
import { signal } from "@/shared/signals";
import { benchOf, versionOf, whole } from "@/bench/wholeAnswer";
import { withUnchangedParts } from "@/bench/unchanged";

/** A command without the parts that every command gets on sending. */
export type Wish = Command extends infer C
  ? C extends Command
    ? Omit<C, "id" | "tablet_at">
    : never
  : never;

/** A PIN, and whose it is where somebody else does this one act. */
export type Signed = { pin: string; by?: string };

const DOUBLE_PRESS_MS = 700;
/** Within so long a second press is the first one bouncing, whatever call stands there by then. */
const ONE_PRESS_MS = 250;
/** What may join a queue that waits for the link; everything else needs the server's word first. */
const MAY_WAIT = new Set(["record", "strike", "note"]);

/** One run on the Bench: what the server says of it, and what is on its way there. */
export const useBench = defineStore("bench", () => {
  const link = useLink();
  const outbox = useOutbox();
  const runId = ref<string | null>(null);
  const view = shallowRef<BenchView | null>(null);
  const ahead = shallowRef<Ahead | null>(null);
  const chosen = ref<string | null>(null);
  /** Presses that are not kept on this tablet yet; with a link, not answered yet. A picture takes longer than a touch. */
  const pressing = ref(0);
  const problem = ref<Problem | null>(null);
  /** A command that cannot wait found no server; nothing of it was kept. */
  const unsent = ref(false);
  const storedAt = ref<Date | null>(null);
  const clockOffsetMs = ref(0);
  const hint = ref<string | null>(null);
  /** What was asked cannot join what waits for the link. */
  const mustWait = ref(false);
  /** Acts go out one after another. */
  const onTheWay = new Set<string>();
  let last: Promise<unknown> = Promise.resolve();
  let lastRecorded = -Infinity;
  let lastCell = "";
  /** What was answered last, and on which call: the question about a figure that cannot be is about this. */
  const lastGiven = shallowRef<{ cell: string; answer: Answer } | null>(null);
  /** A fastener picked while an answer was still on its way: the pick is meant for what comes after. */
  let picked: string | null = null;

  const waiting = computed(() => outbox.mine.filter((one) => one.run === runId.value));
  /** Whether this tablet goes on by itself, by what the server gave it before the link was lost. */
  const offline = computed(() => link.lost && waiting.value.length > 0);
  const calls = computed<Call[]>(() => {
    if (view.value === null) return [];
    return offline.value ? offlineCalls(view.value, ahead.value, waiting.value) : view.value.calls;
  });
  const call = computed<Call | null>(
    () => calls.value.find((one) => one.cell === chosen.value) ?? calls.value[0] ?? null,
  );
  /** A look that is still at hand has its own button. */
  const photosOwed = computed(() =>
    view.value === null || calls.value.some((one) => one.photograph)
      ? []
      : photosOwedOn(view.value, ahead.value, waiting.value),
  );
  /** Fasteners that only wait for their turn. */
  const later = computed(() => (offline.value ? [] : (view.value?.later ?? [])));
  const busy = computed(() => pressing.value > 0 || (waiting.value.length > 0 && !link.lost));

  function show(answer: BenchAnswer): void {
    if (answer.view.run_id !== runId.value) return;
    if (view.value?.run_id === answer.view.run_id && answer.view.seq < view.value.seq) return;
    view.value = withUnchangedParts(view.value, answer.view);
    if (answer.ahead !== null) ahead.value = answer.ahead;
    clockOffsetMs.value = new Date(answer.now).getTime() - Date.now();
    const open = answer.view.calls;
    if (!open.some((one) => one.cell === chosen.value)) {
      chosen.value = open.find((one) => picked !== null && one.fastener === picked)?.cell ?? null;
    }
    picked = null;
    void keepShown(answer);
  }

  /** An answer to a press is kept too, so that the Bench opens without a link where it was left. */
  async function keepShown(answer: BenchAnswer): Promise<void> {
    const value = { ...answer, ahead: ahead.value };
    await keep(`bench:${answer.view.run_id}`, { value, at: answer.now }).catch(() => undefined);
  }

  async function fetchRun(): Promise<void> {
    const id = runId.value;
    if (id === null) return;
    const ask = async (): Promise<BenchAnswer> => whole(id, await benchOf(id), () => benchOf(id));
    const { value, fresh } = await orLastAnswer(`bench:${id}`, ask);
    if (!fresh) link.lost = true;
    show(value);
  }

  async function open(id: string): Promise<void> {
    if (runId.value !== id) {
      view.value = null;
      ahead.value = null;
      problem.value = null;
      chosen.value = null;
      storedAt.value = null;
    }
    runId.value = id;
    await outbox.ready();
    await fetchRun();
    await sendWaiting();
  }

  /** What waits goes out in order; the newest answer to this run is what the Bench shows. */
  async function sendWaiting(): Promise<void> {
    await outbox.flush();
  }

  watch(
    () => outbox.outcome,
    (outcome) => {
      if (outcome === null || outcome.run !== runId.value) return;
      if ("problem" in outcome) {
        problem.value = outcome.problem;
        if (outcome.problem.status === 409) void fetchRun().catch(() => undefined);
        return;
      }
      if (!("answer" in outcome)) return;
      show(outcome.answer);
      storedAt.value = new Date(Date.now() + clockOffsetMs.value);
    },
    { flush: "sync" },
  );

  /** Forget what went wrong before. */
  function clear(): void {
    problem.value = null;
    hint.value = null;
    mustWait.value = false;
    unsent.value = false;
  }

  /** Say something that is no refusal; the next act wipes it. */
  function say(words: string): void {
    hint.value = words;
  }

  /** Ask the server about the run; what it says no to is shown like a refused act. */
  async function asking(question: () => Promise<void>): Promise<void> {
    clear();
    try {
      await question();
    } catch (error) {
      note(error, problem, unsent);
    }
  }

  /**
   * Send a wish; true when the server has stored it. What gets no answer waits on this tablet.
   *
   * What is asked while something else is on its way is done after it; the same asked twice is asked once.
   */
  async function send(wish: Wish, signed: Signed | null = null): Promise<boolean> {
    const id = runId.value;
    const same = JSON.stringify(wish);
    if (id === null || onTheWay.has(same)) return false;
    // What the server says of the act before is not wiped by the one that waited for it.
    if (onTheWay.size === 0) clear();
    const command = { ...wish, id: newId(), tablet_at: new Date().toISOString() } as Command;
    onTheWay.add(same);
    pressing.value += 1;
    const before = last;
    const done = (async (): Promise<boolean> => {
      await before;
      return await sendNow(id, command, signed);
    })();
    last = done.catch(() => undefined);
    try {
      return await done;
    } finally {
      onTheWay.delete(same);
      pressing.value -= 1;
    }
  }

  async function sendNow(id: string, command: Command, signed: Signed | null): Promise<boolean> {
    // Nothing that needs the server's word, or a PIN, overtakes what was pressed before it.
    if (waiting.value.length > 0 && (signed !== null || !MAY_WAIT.has(command.kind))) {
      mustWait.value = true;
      return false;
    }
    return await (signed === null ? sendKept(id, command) : sendSigned(id, command, signed));
  }

  async function sendKept(
    id: string,
    command: Command | PictureToSend,
    picture: ArrayBuffer | null = null,
  ): Promise<boolean> {
    await outbox.put(id, command, view.value?.seq ?? 0, picture);
    if (link.lost) {
      void sendWaiting();
      return false;
    }
    await sendWaiting();
    return outbox.stored(command.id);
  }

  /** A PIN is never kept: what needs one is sent at once or given again. */
  async function sendSigned(id: string, command: Command, signed: Signed): Promise<boolean> {
    const params = { path: { run_id: id } };
    const body = { command, ...signed, knows: versionOf(id) };
    try {
      const sent = await answerOf(api.POST("/api/runs/{run_id}/commands", { params, body }));
      show(await whole(id, sent, () => benchOf(id)));
      storedAt.value = new Date(Date.now() + clockOffsetMs.value);
      return true;
    } catch (error) {
      note(error, problem, unsent);
      return false;
    }
  }

  /** Turn to a fastener; while an answer is on its way, to whatever is open on it afterwards. */
  function pick(cell: Call): void {
    chosen.value = cell.cell;
    if (busy.value) picked = cell.fastener;
  }

  /** Turn to a call that an act has just opened. */
  function turnTo(cell: string): void {
    chosen.value = cell;
  }

  /** Record an answer on the present call; a second press right after the first is not a second capture. */
  async function record(answer: Answer, signed: Signed | null = null, cell?: string): Promise<boolean> {
    const now = performance.now();
    const wanted = cell === undefined ? call.value : calls.value.find((one) => one.cell === cell);
    // Two nuts may come free in the same moment; the same call pressed twice is one capture.
    if (!wanted && cell !== undefined) say(i18n.global.t("bench.moved_on"));
    const again = wanted?.cell === lastCell;
    const since = now - lastRecorded;
    if (!wanted || (again && since < DOUBLE_PRESS_MS)) return false;
    if (busy.value || (cell === undefined && since < ONE_PRESS_MS)) {
      // A hand that bounces, or a press for a call that is not known yet: not kept, and nobody is to think that it was.
      say(i18n.global.t("bench.not_taken"));
      signal("refused");
      return false;
    }
    lastRecorded = now;
    lastCell = wanted.cell;
    lastGiven.value = { cell: wanted.cell, answer };
    const stored = await send({ kind: "record", cell: wanted.cell, attempt: wanted.attempt, answer }, signed);
    if (problem.value !== null) signal("refused");
    else signal(stored && view.value?.last?.verdict === "out_of_band" ? "out_of_band" : "taken");
    return stored;
  }

  /** Put a photograph to a call; false when the file is none. Like every press, it is kept here until it is answered. */
  async function addPhoto(cell: string, file: Blob): Promise<boolean> {
    const id = runId.value;
    if (id === null) return false;
    clear();
    pressing.value += 1;
    try {
      const picture = await drawnSmall(file);
      if (picture === null) return false;
      const sent = { kind: "picture" as const, id: newId(), tablet_at: new Date().toISOString(), cell };
      await sendKept(id, sent, picture);
      return true;
    } finally {
      pressing.value -= 1;
    }
  }

  /** How far the run on the Bench is known to be. */
  const reached = computed(() => (runId.value === null ? 0 : (link.reached.get(runId.value) ?? 0)));

  /** Fetch the run when somebody else has moved it on; one's own press brings its answer itself. */
  function catchUp(): void {
    if (busy.value || link.lost) return;
    if (view.value !== null && reached.value > view.value.seq) void fetchRun().catch(() => undefined);
  }
  // Also once a press is answered, or the server answers again: what was told meanwhile is not told twice.
  watch([reached, busy, (): boolean => link.lost], catchUp);
  watch(
    () => link.open,
    (open) => {
      if (open)
        void sendWaiting()
          .then(fetchRun)
          .catch(() => undefined);
    },
  );
  setInterval(() => {
    if (link.lost && outbox.mine.length === 0) void fetchRun().catch(() => undefined);
  }, AGAIN_AFTER_MS);

  return {
    runId,
    view,
    calls,
    call,
    chosen,
    offline,
    waiting,
    photosOwed,
    busy,
    problem,
    unsent,
    storedAt,
    clockOffsetMs,
    hint,
    mustWait,
    lastGiven,
    later,
    clear,
    say,
    asking,
    turnTo,
    open,
    pick,
    send,
    sendWaiting,
    record,
    addPhoto,
  };
});
