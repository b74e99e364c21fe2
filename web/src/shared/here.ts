import { defineStore } from "pinia";
import { ref, watch } from "vue";
import { api } from "@/api/client";
import { useSession } from "@/shared/session";

/** Often enough that a tablet that has lost its link is missed before anybody bars a crank. */
const EVERY_MS = 20_000;

/**
 * Says again and again at which engine this tablet is in use, and by that, that it has a link.
 *
 * Whatever screen it shows: what counts is that somebody could go in with it. Silence says the rest.
 */
export const useHere = defineStore("here", () => {
  const session = useSession();
  const engine = ref<string | null>(null);

  function say(): void {
    if (engine.value === null || session.me === null) return;
    void api.POST("/api/here", { body: { engine_id: engine.value } }).catch(() => undefined);
  }
  setInterval(say, EVERY_MS);
  watch(engine, say);
  watch(
    () => session.me?.id,
    () => (engine.value = null),
  );

  /** It is at this engine from now on. */
  function at(id: string): void {
    engine.value = id;
  }
  return { at };
});
