import { describe, expect, it } from "vitest";
import type { Ahead, BenchView } from "@/api/types";
import { offlineCalls, lastWaiting, photosOwed } from "@/bench/offlineCalls";
import type { Parcel } from "@/shared/tabletDisk";

const LOOKS = ["look/decision/1", "look/decision/2"];
type Press = Record<string, unknown> & { kind: string };

/** A stage of two looks that want a photograph, and a reading that comes after the first. */
function stage(owed: string[] = []): { view: BenchView; ahead: Ahead } {
  const cells = [...LOOKS, "look/note/1"];
  const view = {
    ribbon: [{ cells: cells.map((cell) => ({ cell, state: "todo", taken_back: 0 })) }],
    owed: owed.map((cell) => ({ debt: "photo", cell, title: "Studs" })),
  };
  const call = (cell: string): unknown => ({
    cell,
    step: "look",
    title: "Studs",
    attempt: 1,
    photograph: LOOKS.includes(cell),
    photos: 0,
  });
  const calls = cells.map((cell) => ({
    call: call(cell),
    needs: cell === "look/note/1" ? [LOOKS[0]] : [],
  }));
  return { view: view as unknown as BenchView, ahead: { seq: 4, step: "look", calls } as unknown as Ahead };
}

function waiting(...presses: Press[]): Parcel[] {
  return presses.map((command, n) => ({ n, command }) as unknown as Parcel);
}

const record = (cell: string, attempt = 1): Press => ({ kind: "record", cell, attempt, answer: {} });
const strike = (cell: string, attempt = 1): Press => ({ kind: "strike", cell, attempt });
const picture = (cell: string): Press => ({ kind: "picture", id: "p", cell });

describe("a tablet that goes on alone", () => {
  const { view, ahead } = stage();
  const open = (...presses: Press[]): string[] =>
    offlineCalls(view, ahead, waiting(...presses)).map((call) => `${call.cell} ${call.attempt}`);

  it("walks the stage by what waits, and never calls what waits for another call", () => {
    expect(open()).toEqual(["look/decision/1 1", "look/decision/2 1"]);
    expect(open(record("look/decision/1"))).toEqual(["look/decision/2 1", "look/note/1 1"]);
    expect(open(record("look/decision/2"))).toEqual(["look/decision/1 1"]);
    expect(open(...LOOKS.map((cell) => record(cell)), record("look/note/1"))).toEqual([]);
  });

  it("calls a struck one again as its next attempt, and shuts what needs it", () => {
    const presses = [record("look/decision/1"), strike("look/decision/1")];
    expect(open(...presses)).toEqual(["look/decision/1 2", "look/decision/2 1"]);
    expect(lastWaiting(waiting(...presses))).toBeNull();
    expect(lastWaiting(waiting(...presses, record("look/decision/2")))).toMatchObject({
      cell: "look/decision/2",
    });
  });

  it("calls nothing any more when something waits that the server has to decide on first", () => {
    expect(open({ kind: "redo", cell: "look/decision/1" })).toEqual([]);
    expect(open(record("second/peak/1"))).toEqual([]);
    expect(open({ kind: "note", text: "Grease" }, picture("look/decision/1"))).toHaveLength(2);
  });

  it("owes a picture for a look that waits without one, and none for a step that has one", () => {
    const owes = (owed: string[], ...presses: Press[]): string[] => {
      const now = stage(owed);
      return photosOwed(now.view, now.ahead, waiting(...presses)).map((one) => one.cell);
    };
    expect(owes([])).toEqual([]);
    expect(owes([], record("look/decision/1"))).toEqual(["look/decision/1"]);
    expect(owes([], record("look/decision/1"), picture("look/decision/2"))).toEqual([]);
    expect(owes(["look/decision/1"])).toEqual(["look/decision/1"]);
    expect(owes(["look/decision/1"], picture("look/decision/1"))).toEqual([]);
    expect(owes(["faces/head"], picture("look/decision/1"))).toEqual(["faces/head"]);
  });
});
