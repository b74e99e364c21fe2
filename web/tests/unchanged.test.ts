import { describe, expect, it } from "vitest";
import { withUnchangedParts } from "@/bench/unchanged";

const view = (): { seq: number; ribbon: { step: string; cells: { cell: string; state: string }[] }[] } => ({
  seq: 5,
  ribbon: ["snug", "turn"].map((step) => ({
    step,
    cells: ["1", "2"].map((name) => ({ cell: `${step}/${name}`, state: "todo" })),
  })),
});

describe("what the server says anew", () => {
  it("is made of the same parts wherever nothing changed, and says what it said", () => {
    const before = view();
    const now = view();
    const [snug] = now.ribbon;
    if (snug?.cells[1]) snug.cells[1].state = "in_band";
    now.seq = 6;
    const plain = JSON.stringify(now);
    const shared = withUnchangedParts(before, now);
    expect(JSON.stringify(shared)).toBe(plain);
    expect(shared.ribbon[1]).toBe(before.ribbon[1]);
    expect(shared.ribbon[0]).not.toBe(before.ribbon[0]);
    expect(shared.ribbon[0]?.cells[0]).toBe(before.ribbon[0]?.cells[0]);
    expect(before).toEqual(view());
  });

  it("is the very same when nothing changed at all", () => {
    const before = view();
    expect(withUnchangedParts(before, view())).toBe(before);
  });

  it.each([
    [[1, 2], [1]],
    [[1], [1, 2]],
    [{ a: 1 }, { a: 1, b: undefined }],
    [{ a: 1, b: 2 }, { a: 1 }],
    [{ b: undefined }, { c: undefined }],
    [[], {}],
    [null, { a: null }],
    [{ a: {} }, { a: null }],
    [{ a: "1" }, { a: 1 }],
  ])("never takes %j for %j", (before, now) => {
    const said = JSON.stringify(now);
    const keys = Object.keys(now);
    const shared = withUnchangedParts<unknown>(before, now);
    expect(shared).not.toBe(before);
    expect(JSON.stringify(shared)).toBe(said);
    expect(Object.keys(shared as object)).toEqual(keys);
  });
});
