import { defineStore } from "pinia";
import { computed, ref, watch } from "vue";
import { api, LinkError, newId, ProblemError, take } from "@/api/client";
import type { Answer, BenchAnswer, BenchView, Call, Command, Problem } from "@/api/types";
import { useLive } from "./live";
import { forgetParcel, keepParcel, waitingParcels } from "./outbox";

/** A command without the parts that every command gets on sending. */
export type Wish = Command extends infer C
  ? C extends Command
    ? Omit<C, "id" | "tablet_at">
    : never
  : never;

interface Unsent {
  command: Command;
  pin: string | null;
}

const DOUBLE_PRESS_MS = 700;

/** One run on the Bench: what the server says of it, and what is on its way there. */
export const useBench = defineStore("bench", () => {
  const live = useLive();
  const runId = ref<string | null>(null);
  const view = ref<BenchView | null>(null);
  const chosen = ref<string | null>(null);
  const busy = ref(false);
  const problem = ref<Problem | null>(null);
  const unsent = ref<Unsent | null>(null);
  const storedAt = ref<Date | null>(null);
  const clockOffsetMs = ref(0);
  const hint = ref<string | null>(null);
  let lastRecorded = -Infinity;
  let lastCell = "";

  const call = computed<Call | null>(() => {
    const calls = view.value?.calls ?? [];
    return calls.find((one) => one.cell === chosen.value) ?? calls[0] ?? null;
  });

  function show(answer: BenchAnswer): void {
    if (view.value?.run_id === answer.view.run_id && answer.view.seq < view.value.seq) return;
    view.value = answer.view;
    clockOffsetMs.value = new Date(answer.now).getTime() - Date.now();
    if (!answer.view.calls.some((one) => one.cell === chosen.value)) chosen.value = null;
  }

  async function fetchRun(): Promise<void> {
    if (runId.value === null) return;
    show(await take(api.GET("/api/runs/{run_id}", { params: { path: { run_id: runId.value } } })));
  }

  async function open(id: string): Promise<void> {
    if (runId.value !== id) {
      view.value = null;
      problem.value = null;
      unsent.value = null;
      chosen.value = null;
      storedAt.value = null;
    }
    runId.value = id;
    await fetchRun();
    await sendWaiting();
  }

  /** What a tablet kept when it was killed or lost its link goes out first; its id lets it count once. */
  async function sendWaiting(): Promise<void> {
    if (runId.value === null || busy.value) return;
    for (const parcel of await waitingParcels(runId.value)) {
      if (!(await post({ command: parcel.command, pin: null }))) return;
    }
  }

  /** Send a wish; true when it is stored. What could not be sent is kept, to be sent again. */
  async function send(wish: Wish, pin: string | null = null): Promise<boolean> {
    // What waits goes first: two readings never change places.
    if (unsent.value !== null) return false;
    const command = { ...wish, id: newId(), tablet_at: new Date().toISOString() } as Command;
    return post({ command, pin });
  }

  async function post(parcel: Unsent): Promise<boolean> {
    if (runId.value === null || busy.value) return false;
    busy.value = true;
    problem.value = null;
    hint.value = null;
    try {
      const path = { run_id: runId.value };
      // A PIN is never kept: what needs one is given again.
      if (parcel.pin === null) await keepParcel({ run: runId.value, command: parcel.command });
      show(await take(api.POST("/api/runs/{run_id}/commands", { params: { path }, body: parcel })));
      await forgetParcel(parcel.command.id);
      unsent.value = null;
      storedAt.value = new Date(Date.now() + clockOffsetMs.value);
      return true;
    } catch (error) {
      await keep(parcel, error);
      return false;
    } finally {
      busy.value = false;
    }
  }

  async function keep(parcel: Unsent, error: unknown): Promise<void> {
    if (error instanceof ProblemError) {
      problem.value = error.problem;
      unsent.value = error.problem.status === 503 ? parcel : null;
      if (unsent.value === null) await forgetParcel(parcel.command.id);
      if (error.problem.status === 409) await fetchRun();
      return;
    }
    if (!(error instanceof LinkError)) throw error;
    problem.value = null;
    unsent.value = parcel;
  }

  /** Record an answer on the present call; a second press right after the first is not a second capture. */
  async function record(answer: Answer, pin: string | null = null, cell?: string): Promise<boolean> {
    const now = performance.now();
    const wanted = cell === undefined ? call.value : view.value?.calls.find((one) => one.cell === cell);
    // Two nuts may come free in the same moment; the same call pressed twice is one capture.
    const again = wanted?.cell === lastCell || cell === undefined;
    if (!wanted || (again && now - lastRecorded < DOUBLE_PRESS_MS)) return false;
    lastRecorded = now;
    lastCell = wanted.cell;
    return send({ kind: "record", cell: wanted.cell, attempt: wanted.attempt, answer }, pin);
  }

  /** Put a photograph to a call; it is either kept and named in the run, or refused. */
  async function addPhoto(cell: string, file: Blob): Promise<"kept" | "refused" | "no_link"> {
    if (runId.value === null) return "refused";
    problem.value = null;
    const params = { path: { run_id: runId.value }, query: { id: newId(), cell } };
    const sent = api.POST("/api/runs/{run_id}/photos", {
      params,
      body: file as unknown as string,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { "Content-Type": file.type },
    });
    try {
      show(await take(sent));
      return "kept";
    } catch (error) {
      if (error instanceof LinkError) return "no_link";
      if (!(error instanceof ProblemError)) throw error;
      problem.value = error.problem;
      return "refused";
    }
  }

  async function sendAgain(): Promise<void> {
    if (unsent.value !== null) await post(unsent.value);
  }

  /** Fetch the run when somebody else has moved it on; one's own press brings its answer itself. */
  function catchUp(): void {
    const advance = live.newest;
    if (busy.value || advance === null || advance.run_id !== runId.value) return;
    if (advance.seq > (view.value?.seq ?? 0)) void fetchRun().catch(() => undefined);
  }
  watch([(): unknown => live.newest, busy], catchUp);
  watch(
    () => live.linked,
    (linked) => {
      if (linked) void fetchRun().then(sendWaiting, () => undefined);
    },
  );

  return {
    runId,
    view,
    call,
    chosen,
    busy,
    problem,
    unsent,
    storedAt,
    clockOffsetMs,
    hint,
    open,
    send,
    record,
    addPhoto,
    sendAgain,
  };
});
