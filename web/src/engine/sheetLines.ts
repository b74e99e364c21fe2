import type { OverhaulCommand } from "@/api/types";
import { newId } from "@/api/client";
import type { Said } from "@/engine/engine";

/** Who wrote a line, and when, as it stands on the paper. */
export interface Written {
  by: string;
  at: string;
  until: string | null;
  why: string | null;
}

/** A line of a sheet that is being read: what it says as a command, and how it is shown until it is keyed in. */
export interface SheetLine {
  command: OverhaulCommand;
  paper: Written;
  words: string;
  by: string;
}

/** A line with an id of its own, so that the same sheet sent twice is keyed in once. */
export function lineOf(said: Said, paper: Written, words: string, by: string): SheetLine {
  const command = { ...said, id: newId(), tablet_at: new Date().toISOString() } as OverhaulCommand;
  return { command, paper, words, by };
}
