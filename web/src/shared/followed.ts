import { onBeforeUnmount, onMounted, shallowRef, watch, type Ref, type ShallowRef } from "vue";
import { LinkError } from "@/api/client";
import { useLink } from "@/shared/link";

/** Many tablets make much news: a list follows it at once, and then in steps. */
const STEP_MS = 1500;

/** What stands beside the work follows more slowly: it is on every tablet. */
export const BESIDE_MS = 6000;

/** Fetch when the screen opens, and again whenever a run has gone on. */
export function useFollowed(fetch: () => Promise<void>, stepMs = STEP_MS): void {
  const link = useLink();
  let fetchedAt = -Infinity;
  let next: ReturnType<typeof setTimeout> | null = null;

  function fetchAgain(): void {
    next = null;
    fetchedAt = performance.now();
    // What the server does not say now, the next news brings; the page's own troubles are shown elsewhere.
    void fetch().catch(() => undefined);
  }

  onMounted(fetch);
  const soon = (): void => {
    next ??= setTimeout(fetchAgain, Math.max(0, fetchedAt + stepMs - performance.now()));
  };
  watch(() => link.newest, soon);
  // Whatever went on while the server did not answer, or could not be heard, nobody has told.
  watch(
    () => link.lost || link.broken,
    (deaf) => {
      if (!deaf) soon();
    },
  );
  onBeforeUnmount(() => {
    if (next !== null) clearTimeout(next);
  });
}

/**
 * The same for an answer that hangs on what somebody chooses or types: asked again when that changes.
 *
 * An answer to what was chosen before never takes the place of a newer one.
 */
export function useFollowedAnswer<T>(
  question: () => Promise<T>,
  chosen: Ref<unknown>[],
): ShallowRef<T | null> {
  const answer = shallowRef<T | null>(null);
  let last = 0;
  async function fetch(): Promise<void> {
    const turn = ++last;
    const said = await question();
    if (turn === last) answer.value = said;
  }
  useFollowed(fetch);
  watch(chosen, () => void fetch().catch(() => undefined));
  return answer;
}

/**
 * The same for what stands beside the work: the page does without it while the server does not answer.
 *
 * Returns the way to fetch it once more, as quiet.
 */
export function useBeside(fetch: () => Promise<void>, stepMs = STEP_MS): () => Promise<void> {
  async function quietly(): Promise<void> {
    try {
      await fetch();
    } catch (error) {
      if (!(error instanceof LinkError)) throw error;
    }
  }
  useFollowed(quietly, stepMs);
  return quietly;
}
