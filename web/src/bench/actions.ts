import { inject, provide, ref, type InjectionKey, type Ref } from "vue";
import { useI18n } from "vue-i18n";
import { api, ProblemError, answerOf } from "@/api/client";
import type { ClaimView, Row, SisterView, ToolListed, TroubleView } from "@/api/types";
import { lastWaiting } from "@/bench/offlineCalls";
import { useBench, type Wish } from "@/bench/store";

/** A question that lies over the Bench until it is answered or put away. */
export type Dialog =
  | { kind: "reason" | "accept"; row: Row }
  | { kind: "redo"; row: Row; cells: string[] }
  | { kind: "override"; tool: ToolListed }
  | { kind: "end"; trouble: TroubleView; how: "fixed" | "departure" }
  | { kind: "cause"; cell: string }
  | { kind: "depart"; step: string }
  | { kind: "sister"; check: SisterView; too: boolean }
  | { kind: "leave_claim"; claim: ClaimView }
  | { kind: "turn"; cell: string; fastener: string }
  | { kind: "note" | "leave_out" | "sign" | "hand_over" | "part" | "keys" | "trouble" };

export type TroubleKind = Extract<Wish, { kind: "raise_trouble" }>["what"];

export interface Actions {
  dialog: Ref<Dialog | null>;
  strike: (row: Row) => Promise<void>;
  strikeLast: () => Promise<void>;
  askRedo: (row: Row) => Promise<void>;
  redoTrouble: (trouble: TroubleView) => Promise<void>;
  raiseTrouble: (what: TroubleKind) => Promise<void>;
  giveOwedReason: () => Promise<void>;
  draw: (tool: ToolListed) => Promise<void>;
  finish: (words: string) => Promise<void>;
}

const ACTIONS: InjectionKey<Actions> = Symbol("actions");

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
  const dialog = ref<Dialog | null>(null);

  const refused = (error: unknown): void => {
    if (!(error instanceof ProblemError)) throw error;
    bench.problem = error.problem;
  };
  const scopeOf = async (cell: string): Promise<string[]> => {
    const params = { path: { run_id: bench.runId ?? "" }, query: { cell } };
    return (await answerOf(api.GET("/api/runs/{run_id}/redo", { params }))).cells;
  };

  async function strike(row: Row): Promise<void> {
    const done = await bench.send({ kind: "strike", cell: row.cell, attempt: row.attempt });
    if (done) dialog.value = { kind: "reason", row };
  }

  async function strikeLast(): Promise<void> {
    const now = bench.view;
    const last = bench.offline ? lastWaiting(bench.waiting) : null;
    if (last) await bench.send({ kind: "strike", cell: last.cell, attempt: last.attempt });
    if (bench.offline) return;
    if (now?.last && now.last_may_strike) await strike(now.last);
  }

  async function askRedo(row: Row): Promise<void> {
    try {
      dialog.value = { kind: "redo", row, cells: await scopeOf(row.cell) };
    } catch (error) {
      refused(error);
    }
  }

  /** Doing it again ends the trouble; what is repeated is shown before it is confirmed. */
  async function redoTrouble(trouble: TroubleView): Promise<void> {
    const words = t(`trouble.${trouble.what}`);
    try {
      const cells = await scopeOf(trouble.cell);
      const redone = await bench.send({ kind: "redo", cell: trouble.cell, cells, reason: words });
      if (redone) await bench.send({ kind: "end_trouble", trouble: trouble.seq, how: "done_again", words });
    } catch (error) {
      refused(error);
    }
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
    const record = await answerOf(api.GET("/api/runs/{run_id}/record", { params }));
    const rows = record.sections.flatMap((section) => section.rows);
    const row = rows.find((one) => one.cell === first.cell && one.attempt === first.attempt);
    if (row) dialog.value = { kind: "reason", row };
  }

  async function draw(tool: ToolListed): Promise<void> {
    if (tool.out_of_date) dialog.value = { kind: "override", tool };
    else await bench.record({ type: "tool", tool_id: tool.id });
  }

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
      case "accept":
        await bench.send({ kind: "accept", cell: open.row.cell, attempt: open.row.attempt, reason: words });
        break;
      case "redo":
        await bench.send({ kind: "redo", cell: open.row.cell, cells: open.cells, reason: words });
        break;
      case "override":
        await bench.record({ type: "tool", tool_id: open.tool.id, override_reason: words });
        break;
      case "end":
        await bench.send({ kind: "end_trouble", trouble: open.trouble.seq, how: open.how, words });
        break;
      case "cause":
        await bench.send({ kind: "name_cause", cell: open.cell, cause: words });
        break;
      case "depart":
        await bench.send({ kind: "answer_age", step: open.step, good: true, words });
        break;
      case "sister":
        await bench.send({ kind: "answer_sister", asked: open.check.seq, found_too: open.too, words });
        break;
      case "leave_claim":
        await bench.send({ kind: "settle_claim", claim: open.claim.seq, take: false, words });
        break;
      case "turn":
        if (await bench.send({ kind: "out_of_turn", cell: open.cell, reason: words })) {
          bench.chosen = open.cell;
        }
        break;
      case "note":
        await bench.send({ kind: "note", text: words, cell: bench.call?.cell ?? null });
        break;
      case "leave_out":
        await bench.record({ type: "left_out", reason: words });
        break;
      default:
    }
  }

  const actions: Actions = {
    dialog,
    strike,
    strikeLast,
    askRedo,
    redoTrouble,
    raiseTrouble,
    giveOwedReason,
    draw,
    finish,
  };
  provide(ACTIONS, actions);
  return actions;
}
