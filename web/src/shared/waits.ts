import type { MyRun } from "@/api/types";

/** A wait of one's own that has ended: on which run, and whether it was a signature that was waited for. */
export interface WaitOver {
  run: string;
  joint: string;
  signed: boolean;
}

/** What has stopped waiting between two looks; a run that one has handed over is no concern any more. */
export function waitsOver(before: readonly MyRun[], now: readonly MyRun[]): WaitOver[] {
  const held = new Map(before.map((one) => [one.run_id, one.waits]));
  return now.flatMap((one) => {
    const waited = held.get(one.run_id) ?? null;
    if (waited === null || one.waits !== null) return [];
    return [{ run: one.run_id, joint: one.joint, signed: waited === "sign" }];
  });
}
