import type { Ahead, BenchView, Call } from "@/api/types";
import type { Parcel } from "@/shared/tabletDisk";

/** A cell of the ribbon as it stands once everything that waits is counted in. */
interface Cell {
  filled: boolean;
  tries: number;
}

const OPEN = new Set(["todo", "now"]);

function cellsOf(view: BenchView): Map<string, Cell> {
  const cells = view.ribbon.flatMap((row) => row.cells);
  return new Map(
    cells.map((one) => [
      one.cell,
      { filled: !OPEN.has(one.state), tries: one.taken_back + (OPEN.has(one.state) ? 0 : 1) },
    ]),
  );
}

/** Return the calls that may be answered without a link, in working order; none when the server has to decide first. */
export function offlineCalls(view: BenchView, ahead: Ahead | null, waiting: readonly Parcel[]): Call[] {
  const cells = cellsOf(view);
  const known = new Set((ahead?.calls ?? []).map((one) => one.call.cell));
  for (const { command } of waiting) {
    if (command.kind === "note" || command.kind === "picture") continue;
    if (command.kind !== "record" && command.kind !== "strike") return [];
    const cell = cells.get(command.cell);
    if (!known.has(command.cell) || cell === undefined) return [];
    cells.set(
      command.cell,
      command.kind === "record" ? { filled: true, tries: cell.tries + 1 } : { ...cell, filled: false },
    );
  }
  const filled = (key: string): boolean => cells.get(key)?.filled ?? false;
  return (ahead?.calls ?? [])
    .filter((one) => !filled(one.call.cell) && one.needs.every(filled))
    .map((one) => ({ ...one.call, attempt: (cells.get(one.call.cell)?.tries ?? 0) + 1 }));
}

/** Return the looks that owe a photograph, by what the server said and by what waits here. */
export function photosOwed(
  view: BenchView,
  ahead: Ahead | null,
  waiting: readonly Parcel[],
): { cell: string; title: string }[] {
  const looks = (ahead?.calls ?? []).map((one) => one.call).filter((one) => one.photograph);
  const stepOf = new Map(looks.map((one) => [one.cell, one.step]));
  const cellsThatWait = (kind: "record" | "picture"): string[] =>
    waiting.flatMap(({ command }) => (command.kind === kind ? [command.cell] : []));
  const pictured = new Set(cellsThatWait("picture").map((cell) => stepOf.get(cell) ?? cell));
  const looked = new Set(cellsThatWait("record"));
  const unpictured = (cell: string): boolean => !pictured.has(stepOf.get(cell) ?? cell);
  return [
    ...view.owed.filter((one) => one.debt === "photo" && unpictured(one.cell)),
    ...looks.filter((one) => one.photos === 0 && looked.has(one.cell) && unpictured(one.cell)),
  ];
}

/** Return the newest reading that waits and has not been struck again. */
export function lastWaiting(
  waiting: readonly Parcel[],
): Extract<Parcel["command"], { kind: "record" }> | null {
  const struck = new Set(
    waiting.flatMap(({ command }) =>
      command.kind === "strike" ? [`${command.cell}/${command.attempt}`] : [],
    ),
  );
  for (const { command } of [...waiting].reverse()) {
    if (command.kind === "record" && !struck.has(`${command.cell}/${command.attempt}`)) return command;
  }
  return null;
}
