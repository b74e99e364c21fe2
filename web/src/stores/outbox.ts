import type { Command } from "@/api/types";

/** A command on its way, kept on this tablet until the server has answered it. */
export interface Parcel {
  run: string;
  command: Command;
}

const NAME = "jorvek";
const BOX = "outbox";

function opened(): Promise<IDBDatabase> {
  return new Promise((done, failed) => {
    const asked = indexedDB.open(NAME, 1);
    asked.onupgradeneeded = (): void => {
      asked.result.createObjectStore(BOX, { keyPath: "command.id" });
    };
    asked.onsuccess = (): void => {
      done(asked.result);
    };
    asked.onerror = (): void => {
      failed(asked.error ?? new Error("no database"));
    };
  });
}

/** Run one act on the box; what is written is on the disk when this returns. */
async function within<T>(mode: IDBTransactionMode, act: (box: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const database = await opened();
  try {
    return await new Promise<T>((done, failed) => {
      const work = database.transaction(BOX, mode, { durability: "strict" });
      const asked = act(work.objectStore(BOX));
      work.oncomplete = (): void => {
        done(asked.result);
      };
      work.onabort = (): void => {
        failed(work.error ?? new Error("not kept"));
      };
    });
  } finally {
    database.close();
  }
}

/** A browser without a box still works; then a parcel lives only as long as the page. */
async function orElse<T>(work: () => Promise<T>, otherwise: T): Promise<T> {
  try {
    return await work();
  } catch {
    return otherwise;
  }
}

/** Keep a parcel before it is sent. */
export async function keepParcel(parcel: Parcel): Promise<void> {
  const plain = JSON.parse(JSON.stringify(parcel)) as Parcel;
  await orElse<unknown>(() => within("readwrite", (box) => box.put(plain)), null);
}

/** Forget a parcel that the server has answered, whatever it said. */
export async function forgetParcel(id: string): Promise<void> {
  await orElse<unknown>(() => within("readwrite", (box) => box.delete(id)), null);
}

/** Return what still waits for a run, oldest first. */
export async function waitingParcels(run: string): Promise<Parcel[]> {
  const read = (): Promise<Parcel[]> =>
    within<Parcel[]>("readonly", (box) => box.getAll() as IDBRequest<Parcel[]>);
  const all = await orElse(read, []);
  const mine = all.filter((parcel) => parcel.run === run);
  return mine.sort((a, b) => (a.command.tablet_at ?? "").localeCompare(b.command.tablet_at ?? ""));
}
