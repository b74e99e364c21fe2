import { defineStore } from "pinia";
import { computed, ref, shallowRef, watch } from "vue";
import { api, LinkError, newId, ProblemError, answerOf } from "@/api/client";
import { sendPicture } from "@/api/pictures";
import { benchOf, versionOf, whole } from "@/bench/wholeAnswer";
import type { BenchAnswer, Command, EnginePage, Late, OverhaulCommand, Problem } from "@/api/types";
import {
  addParcel,
  allParcels,
  forgetParcel,
  keepParcels,
  type Parcel,
  pictureOf,
  type PictureToSend,
} from "@/shared/tabletDisk";
import { useLink } from "@/shared/link";
import { useSession } from "@/shared/session";

const ANSWER_WITHIN_MS = 6000;
export const AGAIN_AFTER_MS = 3000;
const LIFE = newId();
const LONGEST_KEPT_S = 365 * 86_400;

type Answered = { answer: BenchAnswer } | { page: EnginePage } | { problem: Problem };
/** What the server said of a command: for a run, or for an engine's overhaul. */
export type Outcome = { run: string; overhaul: string | undefined } & Answered;

/**
 * Everything pressed on this tablet that the server has not answered yet.
 *
 * A parcel is on the disk before it is sent, is sent under one id until it is answered, and never
 * changes places with another. When the link is lost, what waits is marked with the stretch it
 * belongs to, so that the server can keep for a person what does not fit any more.
 */
export const useOutbox = defineStore("outbox", () => {
  const session = useSession();
  const link = useLink();
  const all = ref<Parcel[]>([]);
  const sending = ref(false);
  /** Set when this browser cannot write to its disk: then a parcel lives only as long as the page. */
  const keepsNothing = ref(false);
  /** What the server says when it is there and cannot decide. */
  const trouble = ref<Problem | null>(null);
  const outcome = shallowRef<Outcome | null>(null);
  /** Pictures of parcels that this browser could not write to its disk. */
  const unwritten = new Map<string, ArrayBuffer>();
  let batch = newId();
  let asked: Promise<void> | null = null;
  let lastStored = "";

  const mine = computed(() => all.value.filter((one) => one.person === session.me?.id));
  const others = computed(() => all.value.filter((one) => one.person !== session.me?.id));

  watch(
    () => mine.value.length,
    (length) => {
      link.waiting = length;
    },
    { immediate: true, flush: "sync" },
  );

  async function onDisk(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
      keepsNothing.value = false;
    } catch {
      keepsNothing.value = true;
    }
  }

  /** Take up what an earlier life of this page left behind. */
  function ready(): Promise<void> {
    asked ??= onDisk(async () => {
      all.value = await allParcels();
      batch = all.value.at(-1)?.batch ?? batch;
    });
    return asked;
  }

  /** Put a command of a run into the queue, or a picture; it is on the disk when this returns. */
  async function put(
    run: string,
    command: Command | PictureToSend,
    saw: number,
    picture: ArrayBuffer | null = null,
  ): Promise<void> {
    await keepParcel({ run, command, saw }, picture);
  }

  /** Put a command of an overhaul into the queue. */
  async function putForEngine(overhaul: string, command: OverhaulCommand): Promise<void> {
    await keepParcel({ run: "", overhaul, command, saw: 0 }, null);
  }

  async function keepParcel(
    what: Pick<Parcel, "run" | "overhaul" | "command" | "saw">,
    picture: ArrayBuffer | null,
  ): Promise<void> {
    await ready();
    const parcel: Parcel = {
      ...what,
      n: (all.value.at(-1)?.n ?? 0) + 1,
      person: session.me?.id ?? "",
      personName: session.me?.name ?? "",
      batch: link.lost ? batch : null,
      life: LIFE,
      pressedMs: performance.now(),
    };
    await onDisk(async () => {
      parcel.n = await addParcel(parcel, picture);
    });
    if (keepsNothing.value && picture !== null) unwritten.set(what.command.id, picture);
    all.value.push(parcel);
  }

  /** Send what waits, in order, until it is all answered or the server does not answer. */
  async function flush(): Promise<void> {
    await ready();
    if (sending.value) return;
    sending.value = true;
    try {
      for (let next = mine.value[0]; next; next = mine.value[0]) {
        if (!(await post(next))) {
          await markLost();
          return;
        }
        if (mine.value.length === 0) {
          link.settle();
          batch = newId();
        }
      }
    } finally {
      sending.value = false;
    }
  }

  /** Send one parcel; true when the server has answered it, whatever it said. */
  async function post(parcel: Parcel): Promise<boolean> {
    const { batch: stretch, saw } = parcel;
    const late = stretch === null ? null : { batch: stretch, saw, kept_s: keptSeconds(parcel) };
    try {
      const answer = await answerTo(parcel, late);
      lastStored = parcel.command.id;
      await answered(parcel, answer);
      return true;
    } catch (error) {
      trouble.value = null;
      if (error instanceof LinkError) return false;
      if (!(error instanceof ProblemError)) throw error;
      if (isTheServersTrouble(error.problem)) {
        trouble.value = error.problem;
        return false;
      }
      await answered(parcel, { problem: error.problem });
      return true;
    }
  }

  async function answerTo(parcel: Parcel, late: Late | null): Promise<Answered> {
    const { command, run, overhaul } = parcel;
    if (command.kind === "picture") {
      const sent = await sendPicture(run, command, await pictureFor(parcel), late);
      return { answer: await whole(run, sent, () => benchOf(run)) };
    }
    const signal = AbortSignal.timeout(ANSWER_WITHIN_MS);
    if (overhaul !== undefined) {
      const params = { path: { overhaul_id: overhaul } };
      // How long nobody can tell is as long as can be: whatever has moved since then speaks against it.
      const kept = late === null ? null : (late.kept_s ?? LONGEST_KEPT_S);
      const body = { command: command as OverhaulCommand, pin: null, other_pin: null, kept_s: kept };
      return {
        page: await answerOf(api.POST("/api/overhauls/{overhaul_id}/commands", { params, body, signal })),
      };
    }
    const params = { path: { run_id: run } };
    const body = { command: command as Command, late, knows: versionOf(run) };
    const sent = await answerOf(api.POST("/api/runs/{run_id}/commands", { params, body, signal }));
    return { answer: await whole(run, sent, () => benchOf(run)) };
  }

  /** A disk that cannot be read now may be later: the parcel stays, as if there were no link. */
  async function pictureFor(parcel: Parcel): Promise<ArrayBuffer> {
    const held = unwritten.get(parcel.command.id);
    if (held !== undefined) return held;
    const read = await pictureOf(parcel).catch((cause: unknown) => {
      throw new LinkError("no disk", { cause });
    });
    return read ?? new ArrayBuffer(0);
  }

  async function answered(parcel: Parcel, what: Answered): Promise<void> {
    trouble.value = null;
    unwritten.delete(parcel.command.id);
    await onDisk(() => forgetParcel(parcel));
    all.value = all.value.filter((one) => one.n !== parcel.n);
    outcome.value = { run: parcel.run, overhaul: parcel.overhaul, ...what };
  }

  /** Tell whether a command was the last one that the server took. */
  const stored = (id: string): boolean => lastStored === id;

  async function markLost(): Promise<void> {
    link.lost = true;
    const unmarked = mine.value.filter((one) => one.batch === null);
    for (const parcel of unmarked) parcel.batch = batch;
    await onDisk(() => keepParcels(unmarked));
  }

  setInterval(() => {
    if (link.lost && mine.value.length > 0) void flush();
  }, AGAIN_AFTER_MS);
  /** What an earlier life of the page left goes out as soon as somebody is here again. */
  watch(
    () => session.me?.id,
    (id) => {
      if (id !== undefined) void flush();
    },
    { immediate: true },
  );

  return {
    all,
    mine,
    others,
    sending,
    keepsNothing,
    trouble,
    outcome,
    ready,
    put,
    putForEngine,
    flush,
    stored,
  };
});

/** The server is there but cannot decide now; what was sent stays in the queue. */
function isTheServersTrouble(problem: Problem): boolean {
  return problem.status >= 500 || problem.status === 401 || problem.status === 429;
}

/** How long a parcel has waited; a clock that jumped between two lives of the page tells nothing. */
function keptSeconds(parcel: Parcel): number | null {
  const seconds =
    parcel.life === LIFE
      ? (performance.now() - parcel.pressedMs) / 1000
      : (Date.now() - Date.parse(parcel.command.tablet_at ?? "")) / 1000;
  return seconds >= 0 && seconds < LONGEST_KEPT_S ? seconds : null;
}
