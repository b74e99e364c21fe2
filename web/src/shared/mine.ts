import { shallowRef } from "vue";
import type { Waiting } from "@/api/types";

/** What waits for whoever is signed in, on whatever engine: every screen knows it. */
export const waitingForMe = shallowRef<readonly Waiting[]>([]);

const keyOf = (one: Waiting): string => [one.run_id, one.what, one.title].join(" ");

/** Tell whether anything waits now that did not wait before. */
export function moreWaits(before: readonly Waiting[], now: readonly Waiting[]): boolean {
  const known = new Set(before.map(keyOf));
  return now.some((one) => !known.has(keyOf(one)));
}
