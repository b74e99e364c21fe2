import "fake-indexeddb/auto";
import { IDBFactory } from "fake-indexeddb";
import { openDB } from "idb";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Parcel } from "@/shared/tabletDisk";

type Box = typeof import("@/shared/tabletDisk");

/** The page is loaded anew: the module begins again, the disk stays. */
async function reloaded(): Promise<Box> {
  vi.resetModules();
  return import("@/shared/tabletDisk");
}

function parcel(id: string, kind: "note" | "picture" = "note"): Parcel {
  const command = { kind, id, tablet_at: "2026-11-23T08:00:00Z", cell: "look/decision/1", text: "Grease" };
  return {
    n: 0,
    run: "run",
    person: "lio",
    personName: "Lio Sandvik",
    command,
    saw: 4,
    batch: null,
    life: "first",
    pressedMs: 12,
  };
}

const picture = (...bytes: number[]): ArrayBuffer => new Uint8Array(bytes).buffer;
const seen = (found: ArrayBuffer | undefined): number[] => Array.from(new Uint8Array(found ?? picture()));

describe("what waits on the disk of a tablet", () => {
  beforeEach(() => {
    globalThis.indexedDB = new IDBFactory();
  });

  it("comes back in the order it was pressed, whatever the page does, and leaves when it is answered", async () => {
    const first = await reloaded();
    for (const id of ["a", "b", "c"]) await first.addParcel(parcel(id), null);
    const second = await reloaded();
    const waiting = await second.allParcels();
    expect(waiting.map((one) => one.command.id)).toEqual(["a", "b", "c"]);
    expect(waiting.map((one) => one.n)).toEqual([1, 2, 3]);
    const [oldest, middle] = waiting;
    if (!oldest || !middle) throw new Error("nothing there");
    await second.forgetParcel(oldest);
    await second.keepParcels([{ ...middle, batch: "stretch" }]);
    const third = await reloaded();
    expect((await third.allParcels()).map((one) => [one.command.id, one.batch])).toEqual([
      ["b", "stretch"],
      ["c", null],
    ]);
    // A place is never given twice, so that a late answer cannot take another press away.
    expect(await third.addParcel(parcel("d"), null)).toBe(4);
  });

  it("keeps a picture beside its parcel and lets both go together", async () => {
    const box = await reloaded();
    await box.addParcel(parcel("p", "picture"), picture(1, 2, 3));
    await box.addParcel(parcel("q", "picture"), picture(9));
    const again = await reloaded();
    const [p, q] = await again.allParcels();
    if (!p || !q) throw new Error("nothing there");
    expect(seen(await again.pictureOf(p))).toEqual([1, 2, 3]);
    await again.forgetParcel(p);
    expect(await again.pictureOf(p)).toBeUndefined();
    expect(seen(await again.pictureOf(q))).toEqual([9]);
  });

  it("stays when a newer program opens the disk of an older one", async () => {
    const older = await openDB("jorvek", 2, {
      upgrade: (database) => {
        database.createObjectStore("parcels", { keyPath: "n", autoIncrement: true });
        database.createObjectStore("kept");
      },
    });
    const left: Partial<Parcel> = parcel("left behind");
    delete left.n;
    await older.add("parcels", left);
    older.close();
    const box = await reloaded();
    expect((await box.allParcels()).map((one) => one.command.id)).toEqual(["left behind"]);
    await box.addParcel(parcel("p", "picture"), picture(7));
    expect(await box.allParcels()).toHaveLength(2);
  });

  it("forgets what was shown to whoever was here, and nothing that waits", async () => {
    const box = await reloaded();
    await box.addParcel(parcel("a"), null);
    await box.keep("berth", { engines: 3 });
    expect(await box.kept("berth")).toEqual({ engines: 3 });
    await box.forgetKept();
    expect(await box.kept("berth")).toBeUndefined();
    expect(await box.allParcels()).toHaveLength(1);
  });
});
