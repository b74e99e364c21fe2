import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import type { Command, OverhaulCommand } from "@/api/types";

/** A photograph on its way; the picture itself lies beside it, under its id. */
export interface PictureToSend {
  kind: "picture";
  id: string;
  tablet_at: string;
  cell: string;
}

/** A command on its way, kept on this tablet until the server has answered it; `n` is its place in the queue. */
export interface Parcel {
  n: number;
  /** The run that it is for; empty where it is for an engine's overhaul. */
  run: string;
  /** The overhaul that it is for; what an older program left here has none. */
  overhaul?: string | undefined;
  person: string;
  personName: string;
  command: Command | OverhaulCommand | PictureToSend;
  /** Event of the run that the tablet had seen last. */
  saw: number;
  /** The stretch without a link that it waited in; null before it has waited. */
  batch: string | null;
  /** When it was pressed, by the page's own unstoppable count, and in which life of the page. */
  life: string;
  pressedMs: number;
}

interface Shelf extends DBSchema {
  parcels: { key: number; value: Parcel };
  pictures: { key: string; value: ArrayBuffer };
  kept: { key: string; value: unknown };
}

let shelf: Promise<IDBPDatabase<Shelf>> | null = null;

function opened(): Promise<IDBPDatabase<Shelf>> {
  shelf ??= openDB<Shelf>("jorvek", 3, {
    // A newer program adds what it needs; what an older one left waiting stays.
    upgrade: (database, before) => {
      if (before < 2) {
        database.createObjectStore("parcels", { keyPath: "n", autoIncrement: true });
        database.createObjectStore("kept");
      }
      if (before < 3) database.createObjectStore("pictures");
    },
    terminated: () => {
      shelf = null;
    },
  });
  return shelf;
}

/** What the disk holds in one piece; proxies of the screen cannot be written. */
const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** Write a new parcel, and its picture, and return the place that the disk gives it; both are there when this returns. */
export async function addParcel(parcel: Parcel, picture: ArrayBuffer | null): Promise<number> {
  const rest: Partial<Parcel> = plain(parcel);
  delete rest.n;
  const work = (await opened()).transaction(["parcels", "pictures"], "readwrite", { durability: "strict" });
  if (picture !== null) void work.objectStore("pictures").put(picture, parcel.command.id);
  const [n] = await Promise.all([work.objectStore("parcels").add(rest as Parcel), work.done]);
  return n;
}

/** Return the picture of a parcel. */
export async function pictureOf(parcel: Parcel): Promise<ArrayBuffer | undefined> {
  return (await opened()).get("pictures", parcel.command.id);
}

/** Write parcels anew under their places. */
export async function keepParcels(parcels: readonly Parcel[]): Promise<void> {
  const work = (await opened()).transaction("parcels", "readwrite", { durability: "strict" });
  await Promise.all([...parcels.map((parcel) => work.store.put(plain(parcel))), work.done]);
}

/** Forget a parcel that the server has answered. */
export async function forgetParcel(parcel: Parcel): Promise<void> {
  const work = (await opened()).transaction(["parcels", "pictures"], "readwrite");
  void work.objectStore("pictures").delete(parcel.command.id);
  await Promise.all([work.objectStore("parcels").delete(parcel.n), work.done]);
}

/** Return everything that waits, in the order in which it was pressed. */
export async function allParcels(): Promise<Parcel[]> {
  return (await opened()).getAll("parcels");
}

/** Keep what the server said last, to be shown when it does not answer. */
export async function keep(name: string, value: unknown): Promise<void> {
  await (await opened()).put("kept", plain(value), name);
}

/** Return what was kept under a name, if anything was. */
export async function kept<T>(name: string): Promise<T | undefined> {
  return (await (await opened()).get("kept", name)) as T | undefined;
}

/** Forget everything kept for whoever was here; what waits to be sent stays. */
export async function forgetKept(): Promise<void> {
  await (await opened()).clear("kept");
}
