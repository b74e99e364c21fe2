import { defineStore } from "pinia";
import { ref, watch } from "vue";
import { useSession } from "@/shared/session";

interface Advance {
  run_id: string;
  seq: number;
}

/** The live channel: which run went on, and whether the link stands. */
export const useLive = defineStore("live", () => {
  const session = useSession();
  const linked = ref(false);
  const newest = ref<Advance | null>(null);
  /** A page asked for something that only the server has, and it did not answer. */
  const unheard = ref(false);
  let source: EventSource | null = null;

  function open(): void {
    source = new EventSource("/api/live");
    source.onopen = (): void => {
      linked.value = true;
    };
    source.onerror = (): void => {
      linked.value = false;
    };
    source.addEventListener("run", (event: MessageEvent<string>) => {
      newest.value = JSON.parse(event.data) as Advance;
    });
  }

  function shut(): void {
    source?.close();
    source = null;
    linked.value = false;
  }

  watch(
    () => session.me?.id,
    (id) => {
      shut();
      if (id !== undefined) open();
    },
    { immediate: true },
  );

  return { linked, newest, unheard };
});
