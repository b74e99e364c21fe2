import { defineStore } from "pinia";
import { ref, watch } from "vue";
import { api } from "@/api/client";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";

/** Often enough that a tablet that has lost its link is missed before anybody bars a crank. */
const EVERY_MS = 20_000;

interface Place {
  engine_id: string;
  /** The run that it shows; null at the board. */
  run_id: string | null;
}

/**
 * Says again and again at which engine somebody works with this tablet, and by that, that it has a link.
 *
 * Whatever screen it shows afterwards: what counts is that somebody could be in there with it. Silence says the rest.
 */
export const useHere = defineStore("here", () => {
  const session = useSession();
  const outbox = useOutbox();
  const place = ref<Place | null>(null);

  function say(): void {
    if (place.value === null || session.me === null) return;
    void api.POST("/api/here", { body: place.value }).catch(() => undefined);
  }
  setInterval(say, EVERY_MS);
  watch(place, say);
  watch(
    () => session.me?.id,
    () => (place.value = null),
  );

  /** A page that is closed with nothing unsent on it leaves; what its person has open there the server knows. */
  addEventListener("pagehide", () => {
    if (place.value === null || session.me === null || outbox.mine.length > 0) return;
    void fetch("/api/here", { method: "DELETE", keepalive: true }).catch(() => undefined);
  });
  // A page that comes back as it was says that it is here.
  addEventListener("pageshow", say);

  /** Somebody works here from now on, or goes in. */
  function at(engine: string, run: string | null = null): void {
    if (place.value?.engine_id === engine && place.value.run_id === run) return;
    place.value = { engine_id: engine, run_id: run };
  }
  return { at };
});
