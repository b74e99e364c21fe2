import { defineStore } from "pinia";
import { computed, ref, shallowReactive, watch } from "vue";
import { onAnswer } from "@/api/client";
import { useSession } from "./session";

/** A run, or an engine's overhaul, has gone on. */
interface Advance {
  run_id?: string;
  overhaul_id?: string;
  seq: number;
}

/** The one place that knows whether the server is there: its live channel, and whether it answers what is asked. */
export const useLink = defineStore("link", () => {
  const session = useSession();
  /** The live channel stands. */
  const open = ref(false);
  /** It stood and broke off; what went on since, nobody has told. */
  const broken = ref(false);
  /** What went on last. */
  const newest = ref<Advance | null>(null);
  /** How far each run is known to be; unlike the newest word, this is still there for whoever could not look at once. */
  const reached = shallowReactive(new Map<string, number>());
  /** The server did not answer; this tablet goes by what it knows until all that waits on it is sent. */
  const lost = ref(false);
  /** How much waits on this tablet; while anything does, an answer to a question does not end the stretch. */
  const waiting = ref(0);
  /** A page asked for something that only the server has, and it did not answer. */
  const pageMissing = ref(false);
  const up = computed(() => open.value && !lost.value);
  let source: EventSource | null = null;

  function settle(): void {
    if (waiting.value === 0) lost.value = false;
  }

  onAnswer((heard) => {
    if (heard) settle();
    else lost.value = true;
  });

  function hear(advance: Advance): void {
    if (advance.run_id !== undefined) reached.set(advance.run_id, advance.seq);
    newest.value = advance;
  }

  function listen(): void {
    source = new EventSource("/api/live");
    source.onopen = (): void => {
      open.value = true;
      broken.value = false;
    };
    source.onerror = (): void => {
      broken.value ||= open.value;
      open.value = false;
    };
    const heard = (event: MessageEvent<string>): void => {
      hear(JSON.parse(event.data) as Advance);
    };
    source.addEventListener("run", heard);
    source.addEventListener("engine", heard);
  }

  function shut(): void {
    source?.close();
    source = null;
    open.value = false;
    broken.value = false;
    reached.clear();
  }

  watch(
    () => session.me?.id,
    (id) => {
      shut();
      if (id !== undefined) listen();
    },
    { immediate: true },
  );

  return { open, broken, newest, reached, hear, lost, waiting, pageMissing, up, settle };
});
