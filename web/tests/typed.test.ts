import { describe, expect, it } from "vitest";
import { figureOf, nextAt } from "@/shared/typed";

describe("a time of day that a permit runs to", () => {
  const noon = new Date(2026, 10, 23, 12, 0, 0);
  const at = (clock: string): Date => new Date(nextAt(clock, noon) ?? 0);

  it("is the first such moment after the entry, on the day after where it has gone by", () => {
    expect(at("12:01")).toEqual(new Date(2026, 10, 23, 12, 1, 0));
    expect(at("11:59")).toEqual(new Date(2026, 10, 24, 11, 59, 0));
    expect(at("12:00")).toEqual(new Date(2026, 10, 24, 12, 0, 0));
    expect(at("00:00")).toEqual(new Date(2026, 10, 24, 0, 0, 0));
  });

  it("is none where nobody has said one", () => {
    for (const clock of ["", "12", "1:30", "noon", "12:00:00"]) expect(nextAt(clock, noon)).toBeNull();
  });

  it("leaves the moment it counts from as it was", () => {
    nextAt("14:30", noon);
    expect(noon).toEqual(new Date(2026, 10, 23, 12, 0, 0));
  });
});

describe("a figure as somebody types it", () => {
  it.each([
    ["20,9", 20.9],
    [" −3 ", -3],
    ["0", 0],
    ["1e3", 1000],
  ])("%s is %d", (text, figure) => {
    expect(figureOf(text)).toBe(figure);
  });

  it.each(["", " ", "about 3", "1,2,3", "Infinity"])("“%s” is none", (text) => {
    expect(figureOf(text)).toBeNull();
  });
});
