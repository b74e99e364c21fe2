import { inject, provide, ref, watch, type InjectionKey, type Ref } from "vue";
import { useI18n } from "vue-i18n";
import { answerOf, api } from "@/api/client";
import type {
  Answer,
  ClaimView,
  PersonListed,
  Right,
  Row,
  SisterView,
  StuckView,
  ToolNow,
  TroubleView,
} from "@/api/types";
import { lastWaiting } from "@/bench/offlineCalls";
import { useBench, type Signed, type Wish } from "@/bench/store";
import { useSession } from "@/shared/session";

/** A question that lies over the Bench until it is answered or put away. */
export type Dialog =
  | { kind: "reason" | "accept" | "strike"; row: Row }
  | { kind: "stuck"; cell: string; fastener: string; blade: string }
  | { kind: "decide"; stuck: StuckView }
  | { kind: "reject"; row: Row; piece: string }
  | { kind: "redo"; row: Row; cells: string[] }
  | { kind: "override"; tool: ToolNow; cell: string }
  | { kind: "end"; trouble: TroubleView; how: "fixed" | "departure" }
  | { kind: "cause"; cell: string }
  | { kind: "depart"; step: string }
  | { kind: "sister"; check: SisterView; too: boolean }
  | { kind: "leave_claim"; claim: ClaimView }
  | { kind: "turn"; cell: string; fastener: string }
  | { kind: "who"; act: Right; person: PersonListed | null; done: (signed: Signed) => Promise<boolean> }
  | { kind: "stand_in"; person: PersonListed; answer: Answer; cell: string }
  | { kind: "sign"; cell: string }
  | { kind: "leave_out"; cell: string; what: string }
  | { kind: "note" | "hand_over" | "part" | "trouble" };

export type TroubleKind = Extract<Wish, { kind: "raise_trouble" }>["what"];

export interface Actions {
  dialog: Ref<Dialog | null>;
  /** Answer the present call, or another one that is open. */
  give: (answer: Answer, cell?: string) => Promise<void>;
  /** Looked at again, the figure that was asked about stands. */
  giveAsSure: () => Promise<void>;
  /** Take the figure that was probably meant in place of one that cannot be. */
  giveMeant: () => Promise<void>;
  sign: (pin: string) => Promise<void>;
  /** Somebody else who answers the present call on this tablet, in their own name. */
  standIn: Ref<PersonListed | null>;
  standInFor: (person: PersonListed) => void;
  askSign: () => void;
  pick: (fastener: string) => void;
  takeOver: () => Promise<boolean>;
  pause: () => Promise<boolean>;
  close: () => Promise<boolean>;
  share: (fasteners: string[]) => Promise<boolean>;
  answerAge: (step: string, good: boolean, words: string) => Promise<boolean>;
  takeIn: (claim: number) => Promise<boolean>;
  photograph: (cell: string, file: File) => Promise<void>;
  strike: (row: Row, reason?: string) => Promise<boolean>;
  strikeLast: () => Promise<void>;
  askRedo: (row: Row) => Promise<void>;
  redoTrouble: (trouble: TroubleView) => Promise<void>;
  raiseTrouble: (what: TroubleKind) => Promise<void>;
  giveOwedReason: () => Promise<void>;
  draw: (tool: ToolNow) => Promise<void>;
  tryPressure: (number: string) => Promise<void>;
  reportStuck: (cell: string, gap: boolean) => Promise<void>;
  finish: (words: string) => Promise<void>;
}

const ONE_ANSWER: Partial<Record<string, Answer>> = {
  signature: { type: "signature" },
  tick: { type: "tick" },
  seen: { type: "seen" },
};
const PICTURES = "JPEG, PNG, WEBP";
export const ACTIONS: InjectionKey<Actions> = Symbol("actions");

/** The actions of the Bench that a screen above has provided. */
export function useActions(): Actions {
  const actions = inject(ACTIONS);
  if (actions === undefined) throw new Error("no Bench above");
  return actions;
}

/** Everything on the Bench that needs more than one touch, and the sheet that asks the rest. */
export function provideActions(): Actions {
  const { t } = useI18n();
  const bench = useBench();
  const session = useSession();
  const dialog = ref<Dialog | null>(null);
  const standIn = ref<PersonListed | null>(null);
  watch(
    () => `${bench.call?.cell ?? ""}/${bench.call?.attempt ?? 0}`,
    () => {
      standIn.value = null;
    },
  );

  const scopeOf = async (cell: string): Promise<string[]> => {
    const params = { path: { run_id: bench.runId ?? "" }, query: { cell } };
    return (await answerOf(api.GET("/api/runs/{run_id}/redo", { params }))).cells;
  };

  /** The call that stands there now: what is asked about over it is meant for this one, whatever goes on meanwhile. */
  const here = (): string => bench.call?.cell ?? "";

  async function give(answer: Answer, cell?: string): Promise<void> {
    if (standIn.value === null) await bench.record(answer, null, cell);
    else dialog.value = { kind: "stand_in", person: standIn.value, answer, cell: cell ?? here() };
  }

  /** Do it if this person may; else somebody who may is asked for their PIN, and it is done in their name. */
  async function mayBeOther(act: Right, done: (signed: Signed | null) => Promise<boolean>): Promise<boolean> {
    if (session.rights.has(act)) return await done(null);
    dialog.value = { kind: "who", act, person: null, done };
    return false;
  }

  async function giveMeant(): Promise<void> {
    const meant = bench.problem?.params["meant"];
    const last = bench.lastGiven;
    if (typeof meant !== "string" || last?.answer.type !== "value") return;
    bench.clear();
    // Whoever stands in for another does so for the answer that is given once more, too.
    await give({ ...last.answer, text: meant }, last.cell);
  }

  async function giveAsSure(): Promise<void> {
    const last = bench.lastGiven;
    if (bench.problem?.asks !== true || last === null) return;
    bench.clear();
    await give({ ...last.answer, sure: true } as Answer, last.cell);
  }

  async function sign(pin: string): Promise<void> {
    const open = dialog.value;
    dialog.value = null;
    if (open?.kind === "who" && open.person !== null) await open.done({ pin, by: open.person.id });
    else if (open?.kind === "stand_in")
      await bench.record(open.answer, { pin, by: open.person.id }, open.cell);
    else if (open?.kind === "sign") await bench.record({ type: "signature" }, { pin }, open.cell);
  }

  /** What has but one answer is given by choosing who gives it; anything else is answered on the usual keys first. */
  function standInFor(person: PersonListed): void {
    const answer = ONE_ANSWER[bench.call?.ask ?? ""];
    standIn.value = person;
    if (answer !== undefined) dialog.value = { kind: "stand_in", person, answer, cell: here() };
  }

  function askSign(): void {
    dialog.value =
      standIn.value === null
        ? { kind: "sign", cell: here() }
        : { kind: "stand_in", person: standIn.value, answer: { type: "signature" }, cell: here() };
  }

  /** A fastener was touched: it is called next, or asked about, or waits for its turn. */
  function pick(fastener: string): void {
    const open = bench.calls.find((one) => one.fastener === fastener);
    const later = bench.later.find((one) => one.fastener === fastener);
    if (open) bench.pick(open);
    else if (later) dialog.value = { kind: "turn", ...later };
  }

  const takeOver = (): Promise<boolean> => bench.send({ kind: "take_over" });
  const pause = (): Promise<boolean> => bench.send({ kind: "pause" });
  const close = (): Promise<boolean> =>
    mayBeOther("close_run", (signed) => bench.send({ kind: "close" }, signed));
  const share = (fasteners: string[]): Promise<boolean> => bench.send({ kind: "take_part", fasteners });
  const answerAge = (step: string, good: boolean, words: string): Promise<boolean> =>
    bench.send({ kind: "answer_age", step, good, words });
  const takeIn = (claim: number): Promise<boolean> => bench.send({ kind: "settle_claim", claim, take: true });

  async function photograph(cell: string, file: File): Promise<void> {
    const picture = await bench.addPhoto(cell, file);
    if (!picture) bench.say(t("refusal.no_photo", { allowed: PICTURES }));
    else if (!bench.offline && bench.problem === null) bench.say(t("bench.photo_kept"));
  }

  /** The reason is given with it, or asked for as soon as it is struck. */
  async function strike(row: Row, reason?: string): Promise<boolean> {
    const given = reason === undefined ? {} : { reason };
    const done = await bench.send({ kind: "strike", cell: row.cell, attempt: row.attempt, ...given });
    if (done && reason === undefined) dialog.value = { kind: "reason", row };
    return done;
  }

  async function strikeLast(): Promise<void> {
    const now = bench.view;
    const last = bench.offline ? lastWaiting(bench.waiting) : null;
    if (last) await bench.send({ kind: "strike", cell: last.cell, attempt: last.attempt });
    if (bench.offline) return;
    // Whose it is, and what, is read before it goes.
    if (now?.last && now.last_may_strike) dialog.value = { kind: "strike", row: now.last };
  }

  async function askRedo(row: Row): Promise<void> {
    await bench.asking(async () => {
      dialog.value = { kind: "redo", row, cells: await scopeOf(row.cell) };
    });
  }

  /** Doing it again ends the trouble; what is repeated is shown before it is confirmed. */
  async function redoTrouble(trouble: TroubleView): Promise<void> {
    const words = t(`trouble.${trouble.what}`);
    await bench.asking(async () => {
      const cells = await scopeOf(trouble.cell);
      const redone = await bench.send({ kind: "redo", cell: trouble.cell, cells, reason: words });
      if (redone) await bench.send({ kind: "end_trouble", trouble: trouble.seq, how: "done_again", words });
    });
  }

  async function raiseTrouble(what: TroubleKind): Promise<void> {
    const cell = bench.call?.cell ?? bench.view?.last?.cell;
    dialog.value = null;
    if (cell !== undefined) await bench.send({ kind: "raise_trouble", what, cell });
  }

  async function giveOwedReason(): Promise<void> {
    const first = bench.view?.owed.find((one) => one.debt === "reason");
    if (first === undefined) return;
    const params = { path: { run_id: bench.runId ?? "" } };
    await bench.asking(async () => {
      const record = await answerOf(api.GET("/api/runs/{run_id}/record", { params }));
      const rows = record.sections.flatMap((section) => section.rows);
      const row = rows.find((one) => one.cell === first.cell && one.attempt === first.attempt);
      if (row) dialog.value = { kind: "reason", row };
    });
  }

  /** Drawing a tool that lies at another joint hands it on by name. */
  const handedOn = (tool: ToolNow): boolean => tool.place !== null && tool.place.bound && !tool.place.idle;

  async function draw(tool: ToolNow): Promise<void> {
    if (tool.out_of_date) dialog.value = { kind: "override", tool, cell: here() };
    else await bench.record({ type: "tool", tool_id: tool.id, handed_on: handedOn(tool) });
  }

  /** The pressure is the run's, not this tablet's: every tablet sees the same. */
  async function tryPressure(number: string): Promise<void> {
    const ladder = bench.view?.ladder;
    if (ladder)
      await bench.send({ kind: "try_pressure", step: ladder.step, text: number, unit: ladder.unit });
  }

  async function reportStuck(cell: string, gap: boolean): Promise<void> {
    dialog.value = null;
    await bench.send({ kind: "report_stuck", cell, gap });
  }

  const byLead = (wish: Wish): Promise<boolean> => mayBeOther("accept", (signed) => bench.send(wish, signed));
  const answeredBy = (act: Right, answer: Answer, cell: string): Promise<boolean> =>
    mayBeOther(act, (signed) => bench.record(answer, signed, cell));
  const outOfTurn = (cell: string, reason: string): Promise<boolean> =>
    mayBeOther("accept", async (signed) => {
      const done = await bench.send({ kind: "out_of_turn", cell, reason }, signed);
      if (done) bench.turnTo(cell);
      return done;
    });

  async function finish(words: string): Promise<void> {
    const open = dialog.value;
    dialog.value = null;
    switch (open?.kind) {
      case "reason":
        await bench.send({
          kind: "give_reason",
          cell: open.row.cell,
          attempt: open.row.attempt,
          reason: words,
        });
        break;
      case "strike":
        await strike(open.row, words);
        break;
      case "accept":
        await byLead({ kind: "accept", cell: open.row.cell, attempt: open.row.attempt, reason: words });
        break;
      case "decide":
        await byLead({ kind: "decide_stuck", stuck: open.stuck.seq, words });
        break;
      case "reject":
        await byLead({
          kind: "reject_fastener",
          cell: open.row.cell,
          attempt: open.row.attempt,
          piece: open.piece.trim(),
          reason: words,
        });
        break;
      case "redo":
        await bench.send({ kind: "redo", cell: open.row.cell, cells: open.cells, reason: words });
        break;
      case "override": {
        const drawn = {
          type: "tool" as const,
          tool_id: open.tool.id,
          override_reason: words,
          handed_on: handedOn(open.tool),
        };
        await answeredBy("override_tool", drawn, open.cell);
        break;
      }
      case "end":
        await (open.how === "departure" ? byLead : bench.send)({
          kind: "end_trouble",
          trouble: open.trouble.seq,
          how: open.how,
          words,
        });
        break;
      case "cause":
        await bench.send({ kind: "name_cause", cell: open.cell, cause: words });
        break;
      case "depart":
        await byLead({ kind: "answer_age", step: open.step, good: true, words });
        break;
      case "sister":
        await bench.send({ kind: "answer_sister", asked: open.check.seq, found_too: open.too, words });
        break;
      case "leave_claim":
        await bench.send({ kind: "settle_claim", claim: open.claim.seq, take: false, words });
        break;
      case "turn":
        await outOfTurn(open.cell, words);
        break;
      case "note":
        await bench.send({ kind: "note", text: words, cell: bench.call?.cell ?? null });
        break;
      case "leave_out":
        await answeredBy("accept", { type: "left_out", reason: words }, open.cell);
        break;
      default:
    }
  }

  const actions: Actions = {
    dialog,
    give,
    giveAsSure,
    giveMeant,
    sign,
    standIn,
    standInFor,
    askSign,
    pick,
    takeOver,
    pause,
    close,
    share,
    answerAge,
    takeIn,
    photograph,
    strike,
    strikeLast,
    askRedo,
    redoTrouble,
    raiseTrouble,
    giveOwedReason,
    draw,
    tryPressure,
    reportStuck,
    finish,
  };
  provide(ACTIONS, actions);
  return actions;
}
