import { defineStore } from "pinia";
import { ref } from "vue";
import { answerOf, api } from "@/api/client";
import type { Seal } from "@/api/types";
import { useSession } from "@/shared/session";

const EVERY_MS = 20_000;
/** It belongs to the tablet and to nobody on it: signing out leaves it. */
const PLACE = "jorvek.seal";

function remembered(): Seal | null {
  try {
    return JSON.parse(localStorage.getItem(PLACE) ?? "null") as Seal | null;
  } catch {
    // What somebody has written over is no seal; the tablet works all the same.
    return null;
  }
}

/**
 * Remembers the last seal of the site log that this tablet has seen, and has the server hold it against its own.
 *
 * A server whose tables were taken back, or changed, cannot know what a tablet has seen: so the tablet speaks up, and
 * goes on saying so until somebody has said that it is known.
 */
export const useSiteSeal = defineStore("siteSeal", () => {
  const session = useSession();
  const seen = ref<Seal | null>(remembered());
  const now = ref<Seal | null>(null);
  const lost = ref(false);
  /** The server's clock was set back by so many seconds, and stands still. */
  const clockBehind = ref<number | null>(null);
  /** It was set forward by so many seconds during the last day. */
  const clockForward = ref<number | null>(null);

  async function ask(): Promise<void> {
    if (session.me === null) return;
    const answer = await answerOf(api.POST("/api/seal", { body: { seal: seen.value } }));
    now.value = answer.now;
    lost.value = answer.lost;
    clockBehind.value = answer.clock_behind_s;
    clockForward.value = answer.clock_forward_s;
    if (!answer.lost && answer.now !== null) remember(answer.now);
  }

  function remember(seal: Seal): void {
    seen.value = seal;
    localStorage.setItem(PLACE, JSON.stringify(seal));
  }

  /** Somebody knows why: from here on what the server has now counts. */
  function known(): void {
    lost.value = false;
    if (now.value !== null) remember(now.value);
  }

  const again = (): void => void ask().catch(() => undefined);
  setInterval(again, EVERY_MS);
  return { seen, now, lost, clockBehind, clockForward, known, again };
});
