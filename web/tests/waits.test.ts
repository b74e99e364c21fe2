import { describe, expect, it } from "vitest";
import type { MyRun, Waiting } from "@/api/types";
import { moreWaits } from "@/shared/mine";
import { waitsOver } from "@/shared/waits";

const run = (run_id: string, waits: MyRun["waits"]): MyRun => ({
  run_id,
  joint: `Unit 2 · ${run_id}`,
  waits,
});

describe("a wait of one's own", () => {
  it("is over when what was waited for has come, and says which", () => {
    const before = [run("head-3", "sign"), run("head-6", "question"), run("head-4", null)];
    const now = [run("head-3", null), run("head-6", null), run("head-4", null)];
    expect(waitsOver(before, now)).toEqual([
      { run: "head-3", joint: "Unit 2 · head-3", signed: true },
      { run: "head-6", joint: "Unit 2 · head-6", signed: false },
    ]);
  });

  it("goes on while anything is waited for, be it another thing", () => {
    expect(waitsOver([run("head-3", "question")], [run("head-3", "sign")])).toEqual([]);
  });

  it("is nobody's concern once the run was handed over, and nothing is said at the first look", () => {
    expect(waitsOver([run("head-3", "sign")], [])).toEqual([]);
    expect(waitsOver([], [run("head-3", null)])).toEqual([]);
  });
});

const waiting = (run_id: string, what: Waiting["what"], since = "2026-03-02T06:00:00Z"): Waiting => ({
  run_id,
  what,
  since,
  title: "",
  engine: "Unit 2",
  joint: run_id,
  by: "Bram Okafor",
});

describe("what waits for somebody", () => {
  it("is news once, however long it goes on waiting", () => {
    const first = [waiting("head-3", "sign")];
    expect(moreWaits([], first)).toBe(true);
    expect(moreWaits(first, [waiting("head-3", "sign", "2026-03-02T07:00:00Z")])).toBe(false);
    expect(moreWaits(first, [...first, waiting("head-3", "question")])).toBe(true);
    expect(moreWaits(first, [])).toBe(false);
  });
});
