import { computed, ref, type ComputedRef, type InjectionKey, type Ref, inject, provide } from "vue";
import { answerOf, api, newId } from "@/api/client";
import type { EnginePage, EngineView, OverhaulCommand } from "@/api/types";
import { useActing, type Acting } from "@/shared/acting";
import { useFollowed } from "@/shared/followed";

/** A command without what every command carries. */
type Said = OverhaulCommand extends infer C
  ? C extends { id: string }
    ? Omit<C, "id" | "tablet_at">
    : never
  : never;

/** An engine's page, and the one way to act on its overhaul. */
export interface Engine {
  page: Ref<EnginePage | null>;
  overhaul: ComputedRef<EngineView | null>;
  acting: Acting;
  /** Send a command; true when the server has stored it. */
  send: (said: Said, pins?: { pin?: string; other_pin?: string }) => Promise<boolean>;
  open: (title: string, scope: string[], asItRan: boolean) => Promise<boolean>;
}

const KEY: InjectionKey<Engine> = Symbol("engine");

export function provideEngine(id: () => string): Engine {
  const page = ref<EnginePage | null>(null);
  const acting = useActing();
  const overhaul = computed(() => page.value?.overhaul ?? null);

  async function fetchPage(): Promise<void> {
    page.value = await answerOf(
      api.GET("/api/engines/{engine_id}", { params: { path: { engine_id: id() } } }),
    );
  }
  useFollowed(fetchPage);

  async function send(said: Said, pins: { pin?: string; other_pin?: string } = {}): Promise<boolean> {
    const overhaulId = overhaul.value?.overhaul_id;
    if (overhaulId === undefined) return false;
    const command = { ...said, id: newId() } as OverhaulCommand;
    return acting.act(async () => {
      const params = { path: { overhaul_id: overhaulId } };
      const body = { command, pin: pins.pin ?? null, other_pin: pins.other_pin ?? null };
      page.value = await answerOf(api.POST("/api/overhauls/{overhaul_id}/commands", { params, body }));
    });
  }

  async function open(title: string, scope: string[], asItRan: boolean): Promise<boolean> {
    return acting.act(async () => {
      const body = { id: newId(), overhaul_id: newId(), engine_id: id(), title, scope, as_it_ran: asItRan };
      page.value = await answerOf(api.POST("/api/overhauls", { body }));
    });
  }

  const engine = { page, overhaul, acting, send, open };
  provide(KEY, engine);
  return engine;
}

export function useEngine(): Engine {
  const engine = inject(KEY);
  if (engine === undefined) throw new Error("no engine is provided here");
  return engine;
}
