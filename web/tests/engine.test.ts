import { expect, it } from "vitest";
import type { EnginePage } from "@/api/types";
import { isOlder } from "@/engine/engine";

function page(seq: number | null, overhaul_id = "a"): EnginePage {
  return { overhaul: seq === null ? null : { overhaul_id, seq } } as unknown as EnginePage;
}

it.each([
  ["an earlier state of the same overhaul", page(4), page(5), true],
  ["the same state, with runs gone on", page(5), page(5), false],
  ["a later one", page(6), page(5), false],
  ["another overhaul", page(1, "b"), page(5), false],
  ["an engine that has none any more", page(null), page(5), false],
  ["the first that is known", page(1), page(null), false],
])("%s", (_, now, known, older) => {
  expect(isOlder(now, known)).toBe(older);
  expect(isOlder(now, null)).toBe(false);
});
