import { describe, expect, it } from "vitest";
import type { BenchSent, BenchView, Change } from "@/api/types";
import { versionOf, whole } from "@/bench/wholeAnswer";

const view = (parts: object): BenchView => parts as BenchView;
const sent = (parts: Partial<BenchSent>): BenchSent => ({
  now: "2026-11-23T08:00:00Z",
  version: "1",
  view: null,
  base: null,
  changes: null,
  ahead: null,
  ...parts,
});
const never = (): Promise<BenchSent> => Promise.reject(new Error("asked again"));
const change = (does: Change["does"], place: Change["place"], value: unknown = null): Change => ({
  does,
  place,
  value,
});

describe("an answer with what has changed", () => {
  it("is made whole from what was sent before, and what has not changed is the very same", async () => {
    const first = view({
      seq: 1,
      plan: { spots: [{ n: "1" }, { n: "2" }] },
      rows: ["a", "b", "c"],
      note: "x",
    });
    await whole("run", sent({ version: "1", view: first }), never);
    expect(versionOf("run")).toBe("1");
    const changes = [
      change("set", ["seq"], 2),
      change("set", ["plan", "spots", 1, "n"], "2b"),
      change("cut", ["rows"], 1),
      change("set", ["rows", 1], "d"),
      change("drop", ["note"]),
    ];
    const now = await whole("run", sent({ version: "2", base: "1", changes }), never);
    expect(now.view).toEqual({ seq: 2, plan: { spots: [{ n: "1" }, { n: "2b" }] }, rows: ["a", "d"] });
    const plan = (one: BenchView): { spots: object[] } =>
      (one as unknown as { plan: { spots: object[] } }).plan;
    expect(plan(now.view).spots[0]).toBe(plan(first).spots[0]);
    expect(first).toEqual({
      seq: 1,
      plan: { spots: [{ n: "1" }, { n: "2" }] },
      rows: ["a", "b", "c"],
      note: "x",
    });
    expect(versionOf("run")).toBe("2");
  });

  it("is asked for once more where it builds on a view that is not here", async () => {
    const fresh = sent({ version: "9", view: view({ seq: 9 }) });
    const answer = await whole("other", sent({ version: "8", base: "7", changes: [] }), () =>
      Promise.resolve(fresh),
    );
    expect(answer.view).toEqual({ seq: 9 });
    expect(versionOf("other")).toBe("9");
  });

  it("is kept for the runs that were worked on last", async () => {
    for (const run of ["a", "b", "c", "d", "e"]) {
      await whole(run, sent({ version: run, view: view({ seq: 1 }) }), never);
    }
    expect(versionOf("a")).toBeNull();
    expect(versionOf("e")).toBe("e");
  });
});
