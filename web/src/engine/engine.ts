import {
  computed,
  ref,
  watch,
  type ComputedRef,
  type InjectionKey,
  type Ref,
  inject,
  onScopeDispose,
  provide,
} from "vue";
import { answerOf, api, newId } from "@/api/client";
import type { EnginePage, EngineView, OverhaulCommand } from "@/api/types";
import { note, useActing, type Acting } from "@/shared/acting";
import { useFollowed } from "@/shared/followed";
import { orLastAnswer } from "@/shared/lastAnswer";
import { useLink } from "@/shared/link";
import { useOutbox } from "@/shared/outbox";
import type { Parcel } from "@/shared/tabletDisk";

/** A command without what every command carries; a line of a list says who wrote it, and when. */
export type Said = OverhaulCommand extends infer C
  ? C extends { id: string; paper: infer P }
    ? Omit<C, "id" | "tablet_at" | "paper"> & { paper?: P }
    : C extends { id: string }
      ? Omit<C, "id" | "tablet_at">
      : never
  : never;

/** An engine's page, and the one way to act on its overhaul. */
export interface Engine {
  page: Ref<EnginePage | null>;
  overhaul: ComputedRef<EngineView | null>;
  acting: Acting;
  /** What was pressed on this tablet and nobody else knows of yet, oldest first. */
  waiting: ComputedRef<Parcel[]>;
  /** Ask for the page once more. */
  again: () => Promise<void>;
  /** Send a command; true when the server has stored it. */
  send: (said: Said, pins?: { pin?: string; other_pin?: string }) => Promise<boolean>;
  /** Key in the lines of a sheet of paper as one act; true when the server has stored all of them. */
  keyIn: (lines: readonly OverhaulCommand[]) => Promise<boolean>;
  open: (title: string, scope: string[], asItRan: boolean) => Promise<boolean>;
}

/** Fetch the page again when the next permit runs out: nobody presses anything then, and the board has to say so. */
function useRunsOut(overhaul: ComputedRef<EngineView | null>, again: () => Promise<void>): void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  watch(overhaul, (now) => {
    clearTimeout(timer);
    const holding = [...(now?.inside ?? []), ...(now?.hot_work ?? [])].filter((one) => !one.run_out);
    const ends = holding.flatMap((one) => (one.until_at === null ? [] : [Date.parse(one.until_at)]));
    if (ends.length === 0) return;
    // Not before the server's clock says so, too, and not over and over where the tablet's is ahead of it.
    timer = setTimeout(
      () => void again().catch(() => undefined),
      Math.max(5_000, Math.min(...ends) - Date.now() + 1_000),
    );
  });
  onScopeDispose(() => {
    clearTimeout(timer);
  });
}

/** What is done whether the server knows of it or not. */
const MAY_WAIT = new Set(["enter", "leave", "hang_lock", "take_lock_off", "move_door"]);
const KEY: InjectionKey<Engine> = Symbol("engine");

/** Whether a page shows an overhaul as it was before another one shows it. */
export function isOlder(page: EnginePage, than: EnginePage | null): boolean {
  const [now, known] = [page.overhaul, than?.overhaul ?? null];
  return now !== null && known !== null && now.overhaul_id === known.overhaul_id && now.seq < known.seq;
}

export function provideEngine(id: () => string): Engine {
  const page = ref<EnginePage | null>(null);
  const acting = useActing();
  const link = useLink();
  const outbox = useOutbox();
  const overhaul = computed(() => page.value?.overhaul ?? null);

  async function fetchPage(): Promise<void> {
    const params = { path: { engine_id: id() } };
    const ask = (): Promise<EnginePage> => answerOf(api.GET("/api/engines/{engine_id}", { params }));
    const { value, fresh } = await orLastAnswer(`engine:${id()}`, ask);
    if (!fresh) link.lost = true;
    // What was kept, or was long on its way, does not take back what is known already.
    if (!isOlder(value, page.value)) page.value = value;
  }

  /** What cannot be shown says why in its place; what is shown already stays. */
  async function again(): Promise<void> {
    try {
      if (page.value === null) acting.clear();
      await fetchPage();
    } catch (error) {
      if (page.value !== null) throw error;
      note(error, acting.problem, acting.unsent);
    }
  }
  useFollowed(again);
  useRunsOut(overhaul, fetchPage);
  void outbox.ready();
  const waiting = computed(() =>
    outbox.all.filter((one) => one.overhaul !== undefined && one.overhaul === overhaul.value?.overhaul_id),
  );
  watch(
    () => outbox.outcome,
    (outcome) => {
      if (outcome?.overhaul === undefined || outcome.overhaul !== overhaul.value?.overhaul_id) return;
      if ("problem" in outcome) acting.problem.value = outcome.problem;
      if ("page" in outcome) page.value = outcome.page;
    },
    { flush: "sync" },
  );

  async function send(said: Said, pins: { pin?: string; other_pin?: string } = {}): Promise<boolean> {
    const overhaulId = overhaul.value?.overhaul_id;
    if (overhaulId === undefined) return false;
    const command = { ...said, id: newId(), tablet_at: new Date().toISOString() } as OverhaulCommand;
    // What a list says is keyed in, not pressed: it waits for the link.
    const listed = "paper" in said && said.paper !== null;
    // Whoever signs with a PIN needs the server's word: a PIN is kept nowhere.
    if (MAY_WAIT.has(said.kind) && !listed && pins.pin === undefined) return sendOrKeep(overhaulId, command);
    return acting.act(async () => {
      const params = { path: { overhaul_id: overhaulId } };
      const body = { command, pin: pins.pin ?? null, other_pin: pins.other_pin ?? null, kept_s: null };
      page.value = await answerOf(api.POST("/api/overhauls/{overhaul_id}/commands", { params, body }));
    });
  }

  async function keyIn(lines: readonly OverhaulCommand[]): Promise<boolean> {
    const overhaulId = overhaul.value?.overhaul_id;
    if (overhaulId === undefined) return false;
    return acting.act(async () => {
      const params = { path: { overhaul_id: overhaulId } };
      const body = { lines: [...lines] };
      page.value = await answerOf(api.POST("/api/overhauls/{overhaul_id}/paper", { params, body }));
    });
  }

  /** Who goes in or out does so with or without a link: it is kept here, and told as soon as there is one. */
  async function sendOrKeep(overhaulId: string, command: OverhaulCommand): Promise<boolean> {
    acting.clear();
    await outbox.putForEngine(overhaulId, command);
    await outbox.flush();
    return outbox.stored(command.id);
  }

  async function open(title: string, scope: string[], asItRan: boolean): Promise<boolean> {
    return acting.act(async () => {
      const body = { id: newId(), overhaul_id: newId(), engine_id: id(), title, scope, as_it_ran: asItRan };
      page.value = await answerOf(api.POST("/api/overhauls", { body }));
    });
  }

  const engine = { page, overhaul, acting, waiting, again, send, keyIn, open };
  provide(KEY, engine);
  return engine;
}

export function useEngine(): Engine {
  const engine = inject(KEY);
  if (engine === undefined) throw new Error("no engine is provided here");
  return engine;
}
