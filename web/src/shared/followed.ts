import { onBeforeUnmount, onMounted, watch } from "vue";
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
  watch(
    () => link.newest,
    () => {
      next ??= setTimeout(fetchAgain, Math.max(0, fetchedAt + stepMs - performance.now()));
    },
  );
  onBeforeUnmount(() => {
    if (next !== null) clearTimeout(next);
  });
}
