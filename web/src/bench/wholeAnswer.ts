import { answerOf, api } from "@/api/client";
import type { BenchAnswer, BenchSent, BenchView, Change } from "@/api/types";

/** What the server sent last of each run, with its version: it answers a touch with what has changed since. */
const known = new Map<string, { version: string; view: BenchView }>();
/** A tablet works on one run at a time, and goes back to the one before. */
const KEPT = 4;

/** The version of a run's view that this tablet has; null when it has none. */
export function versionOf(run: string): string | null {
  return known.get(run)?.version ?? null;
}

/** The Bench of a run as it stands. */
export function benchOf(run: string): Promise<BenchSent> {
  return answerOf(api.GET("/api/runs/{run_id}", { params: { path: { run_id: run } } }));
}

/** An answer with its whole view; asks once more where the view that it builds on is not here. */
export async function whole(
  run: string,
  sent: BenchSent,
  again: () => Promise<BenchSent>,
): Promise<BenchAnswer> {
  const before = known.get(run);
  const view =
    sent.view ??
    (before && sent.changes && before.version === sent.base ? changed(before.view, sent.changes) : null);
  if (view === null) {
    known.delete(run);
    const anew = await again();
    // Of what was done the answer knows more than a look afterwards; of the view the look knows all.
    return whole(run, { ...anew, ahead: anew.ahead ?? sent.ahead }, again);
  }
  known.delete(run);
  known.set(run, { version: sent.version, view });
  for (const oldest of [...known.keys()].slice(0, Math.max(0, known.size - KEPT))) known.delete(oldest);
  return { now: sent.now, ahead: sent.ahead, view };
}

function changed(view: BenchView, changes: readonly Change[]): BenchView {
  return changes.reduce<unknown>((made, change) => at(made, change.place, change), view) as BenchView;
}

/** A value with one place of it different; whatever does not lie on the way there stays the very same. */
function at(value: unknown, place: readonly (string | number)[], change: Change): unknown {
  const [key, ...rest] = place;
  if (key === undefined)
    return change.does === "cut" ? (value as unknown[]).slice(0, change.value as number) : change.value;
  if (Array.isArray(value)) {
    const list: unknown[] = value.slice();
    list[Number(key)] = at(list[Number(key)], rest, change);
    return list;
  }
  const entries = { ...(value as Record<string, unknown>) };
  if (rest.length === 0 && change.does === "drop")
    return Object.fromEntries(Object.entries(entries).filter(([name]) => name !== String(key)));
  entries[String(key)] = at(entries[String(key)], rest, change);
  return entries;
}
