import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import type { BenchAnswer, Call, Me, Problem } from "@/api/types";
import { useBench } from "@/bench/store";
import { useLink } from "@/shared/link";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";

const ALL = ["seat/seat/1", "seat/seat/2", "seat/seat/3"];
const RUN = "6f2c1f4e-0000-4000-8000-000000000004";

function call(cell: string, attempt = 1): Call {
  return { cell, attempt, ask: "tick", fastener: cell.split("/")[2] ?? null } as unknown as Call;
}

function answer(seq: number, calls: Call[]): BenchAnswer {
  const ribbon = [{ cells: ALL.map((cell) => ({ cell, state: "todo", taken_back: 0 })) }];
  const ahead = { seq, step: "seat", calls: calls.map((one) => ({ call: one, needs: [] })) };
  return {
    now: new Date().toISOString(),
    view: { run_id: RUN, seq, calls, ribbon },
    ahead,
  } as unknown as BenchAnswer;
}

const problem = (status: number, code: string): Problem => ({
  type: "urn",
  title: "Refused",
  status,
  detail: "no",
  code,
  params: {},
  kept: "kept",
  findings: [],
  asks: false,
});

type Reply = { status: number; body: unknown } | "dead link";
const replies: Reply[] = [];
const sent: { method: string; url: string; body: Record<string, unknown> | null }[] = [];

async function fakeFetch(request: Request): Promise<Response> {
  const text = await request.clone().text();
  sent.push({
    method: request.method,
    url: request.url,
    body: text === "" ? null : (JSON.parse(text) as Record<string, unknown>),
  });
  const reply = replies.shift();
  if (reply === undefined || reply === "dead link") throw new TypeError("no network");
  const kind = reply.status < 400 ? "application/json" : "application/problem+json";
  return new Response(JSON.stringify(reply.body), {
    status: reply.status,
    headers: { "content-type": kind },
  });
}

const ok = (body: unknown): Reply => ({ status: 200, body });
const commandId = (index: number): unknown => (sent[index]?.body?.command as { id: string } | undefined)?.id;

describe("one run on the bench", () => {
  beforeEach(() => {
    setActivePinia(createPinia());
    vi.stubGlobal("fetch", fakeFetch);
    vi.stubGlobal(
      "EventSource",
      class extends EventTarget {
        close(): void {}
      },
    );
    replies.length = 0;
    sent.length = 0;
  });

  async function opened(): Promise<ReturnType<typeof useBench>> {
    useSession().me = { id: "bram", name: "Bram" } as unknown as Me;
    const bench = useBench();
    replies.push(ok(answer(5, [call("seat/seat/1"), call("seat/seat/2")])));
    await bench.open(RUN);
    return bench;
  }

  it("calls the first open cell until the mechanic picks another, and goes back when that is filled", async () => {
    const bench = await opened();
    expect(bench.call?.cell).toBe("seat/seat/1");
    bench.chosen = "seat/seat/2";
    expect(bench.call?.cell).toBe("seat/seat/2");
    replies.push(ok(answer(6, [call("seat/seat/1")])));
    expect(await bench.record({ type: "tick" })).toBe(true);
    expect(bench.call?.cell).toBe("seat/seat/1");
    expect(bench.storedAt).not.toBeNull();
  });

  it.each([
    [0, false],
    [249, false],
    [250, true],
    [300, true],
  ])("takes a press %i ms after the last one as a press for the next call: %s", async (ms, taken) => {
    const bench = await opened();
    const clock = vi.spyOn(performance, "now").mockReturnValue(10_000);
    replies.push(ok(answer(6, [call("seat/seat/2")])), ok(answer(7, [call("seat/seat/3")])));
    expect(await bench.record({ type: "tick" })).toBe(true);
    clock.mockReturnValue(10_000 + ms);
    expect(await bench.record({ type: "tick" })).toBe(taken);
    expect(sent.filter((one) => one.method === "POST")).toHaveLength(taken ? 2 : 1);
    expect(bench.hint).toBe(
      taken ? null : "Not taken: the press before it was still being stored. Press again.",
    );
    clock.mockRestore();
  });

  it.each([
    [699, false],
    [700, true],
  ])("takes a second press on the same call after %i ms: %s", async (ms, taken) => {
    const bench = await opened();
    const clock = vi.spyOn(performance, "now").mockReturnValue(10_000);
    // The call is asked again at once: its second attempt.
    replies.push(ok(answer(6, [call("seat/seat/1", 2)])), ok(answer(7, [call("seat/seat/2")])));
    await bench.record({ type: "tick" });
    clock.mockReturnValue(10_000 + ms);
    expect(await bench.record({ type: "tick" })).toBe(taken);
    clock.mockRestore();
  });

  it("lets a press that comes while another is on its way be felt and heard, and keeps nothing of it", async () => {
    const bench = await opened();
    const trembled = vi.fn(() => true);
    vi.stubGlobal("navigator", { vibrate: trembled });
    const clock = vi.spyOn(performance, "now").mockReturnValue(10_000);
    replies.push(ok(answer(6, [call("seat/seat/2")])));
    const first = bench.record({ type: "tick" });
    clock.mockReturnValue(11_000);
    expect(await bench.record({ type: "tick" }, null, "seat/seat/2")).toBe(false);
    expect(trembled).toHaveBeenCalledWith([240]);
    expect(await first).toBe(true);
    expect(trembled).toHaveBeenLastCalledWith([40]);
    expect(sent.filter((one) => one.method === "POST")).toHaveLength(1);
    clock.mockRestore();
    vi.unstubAllGlobals();
  });

  it("does what is asked while another act is on its way after it, and the same asked twice once", async () => {
    const bench = await opened();
    replies.push(ok(answer(6, [call("seat/seat/1")])), ok(answer(7, [])));
    const noted = bench.send({ kind: "note", text: "Stroke mark at 7 mm" });
    const paused = bench.send({ kind: "pause" });
    const again = bench.send({ kind: "pause" });
    expect(await Promise.all([noted, paused, again])).toEqual([true, true, false]);
    const posts = sent.filter((one) => one.method === "POST");
    expect(posts.map((one) => (one.body?.command as { kind: string }).kind)).toEqual(["note", "pause"]);
    expect(bench.view?.seq).toBe(7);
    expect(bench.busy).toBe(false);
  });

  it("does not let an act that waited for its turn wipe what was said of the one before", async () => {
    const bench = await opened();
    replies.push({ status: 422, body: problem(422, "refusal.too_long") }, ok(answer(7, [])));
    const noted = bench.send({ kind: "note", text: "Stroke mark at 7 mm" });
    const paused = bench.send({ kind: "pause" });
    expect(await Promise.all([noted, paused])).toEqual([false, true]);
    expect(bench.problem?.code).toBe("refusal.too_long");
    replies.push(ok(answer(8, [])));
    await bench.send({ kind: "take_over" });
    expect(bench.problem).toBeNull();
  });

  it("says that a paper with a PIN has to wait while earlier presses are still going out", async () => {
    const bench = await opened();
    replies.push({ status: 503, body: problem(503, "problem.database_away") });
    await bench.record({ type: "tick" });
    expect(bench.waiting).toHaveLength(1);
    expect(await bench.send({ kind: "close" }, { pin: "271828" })).toBe(false);
    expect(bench.mustWait).toBe(true);
    expect(sent.filter((one) => JSON.stringify(one.body).includes("271828"))).toHaveLength(0);
  });

  it("keeps what a dead link swallowed and sends it again under the same id", async () => {
    const bench = await opened();
    replies.push("dead link");
    expect(await bench.record({ type: "tick" })).toBe(false);
    expect(bench.waiting).toHaveLength(1);
    expect(bench.storedAt).toBeNull();
    replies.push(ok(answer(6, [call("seat/seat/2")])));
    await bench.sendWaiting();
    expect(bench.waiting).toHaveLength(0);
    expect(commandId(1)).toBe(commandId(2));
    expect(bench.view?.seq).toBe(6);
  });

  it("goes on alone through the stage, takes a press back, and sends all of it in order as one stretch", async () => {
    const bench = await opened();
    vi.spyOn(performance, "now").mockReturnValueOnce(1000);
    replies.push("dead link");
    await bench.record({ type: "tick" });
    expect(bench.call?.cell).toBe("seat/seat/2");
    await bench.send({ kind: "strike", cell: "seat/seat/1", attempt: 1 });
    expect([bench.call?.cell, bench.call?.attempt]).toEqual(["seat/seat/1", 2]);
    expect(await bench.send({ kind: "pause" })).toBe(false);
    expect(bench.mustWait).toBe(true);
    await bench.send({ kind: "raise_trouble", what: "dirt", cell: "seat/seat/2" });
    expect(bench.waiting.map((one) => one.command.kind)).toEqual(["record", "strike"]);
    sent.length = 0;
    replies.push(ok(answer(6, [])), ok(answer(7, [call("seat/seat/1", 2)])));
    await vi.waitFor(async () => {
      await bench.sendWaiting();
      expect(bench.waiting).toHaveLength(0);
    });
    const posts = sent.filter((one) => one.method === "POST").slice(-2);
    expect(posts.map((one) => (one.body?.command as { kind: string }).kind)).toEqual(["record", "strike"]);
    const batches = posts.map((one) => (one.body?.late as { batch: string } | null)?.batch);
    expect(batches[0]).toBeTruthy();
    expect(batches[0]).toBe(batches[1]);
    expect(bench.offline).toBe(false);
  });

  it("stops alone at the end of the stage, and where the server has to speak first", async () => {
    const bench = await opened();
    replies.push("dead link");
    await bench.send({ kind: "raise_trouble", what: "dirt", cell: "seat/seat/1" });
    expect(bench.offline).toBe(true);
    expect(bench.call).toBeNull();
  });

  it("keeps a pick that was made while an answer was on its way", async () => {
    const bench = await opened();
    replies.push(ok(answer(6, [call("size/size/1"), call("size/size/2")])));
    const sending = bench.record({ type: "tick" });
    bench.pick(call("seat/seat/2"));
    await sending;
    expect(bench.call?.cell).toBe("size/size/2");
  });

  it("keeps it too when the database is away, because nobody knows whether it was stored", async () => {
    const bench = await opened();
    replies.push({ status: 503, body: problem(503, "problem.database_away") });
    await bench.record({ type: "tick" });
    expect(useOutbox().trouble?.code).toBe("problem.database_away");
    expect(bench.waiting).toHaveLength(1);
  });

  it("shows a refusal and keeps nothing to send", async () => {
    const bench = await opened();
    replies.push({ status: 422, body: problem(422, "refusal.out_of_physical_range") });
    await bench.record({ type: "value", text: "61", unit: "mm" });
    expect(bench.problem?.code).toBe("refusal.out_of_physical_range");
    expect(bench.waiting).toHaveLength(0);
  });

  it("looks again when somebody else was first", async () => {
    const bench = await opened();
    replies.push({ status: 409, body: problem(409, "refusal.cell_taken") });
    replies.push(ok(answer(7, [call("seat/seat/2")])));
    await bench.record({ type: "tick" });
    expect(bench.problem?.code).toBe("refusal.cell_taken");
    await vi.waitFor(() => {
      expect(bench.call?.cell).toBe("seat/seat/2");
    });
  });

  it("never goes back to an older state that arrives late", async () => {
    const bench = await opened();
    replies.push(ok(answer(9, [])));
    await bench.open(RUN);
    replies.push(ok(answer(8, [call("seat/seat/1")])));
    await bench.open(RUN);
    await nextTick();
    expect(bench.view?.seq).toBe(9);
  });

  it("fetches what others did while a press was on its way, whatever else was told after it", async () => {
    const bench = await opened();
    const link = useLink();
    replies.push(ok(answer(6, [call("seat/seat/2")])), ok(answer(7, [call("seat/seat/3")])));
    const sending = bench.record({ type: "tick" });
    link.hear({ run_id: RUN, seq: 7 });
    link.hear({ overhaul_id: "engine", seq: 40 });
    await sending;
    await vi.waitFor(() => {
      expect(bench.view?.seq).toBe(7);
    });
  });

  it("fetches what it could not fetch when it was told, once the server answers again", async () => {
    const bench = await opened();
    const link = useLink();
    replies.push("dead link");
    link.hear({ run_id: RUN, seq: 8 });
    await vi.waitFor(() => {
      expect(link.lost).toBe(true);
    });
    replies.push(ok(answer(8, [])));
    // Another question on this tablet was answered.
    link.settle();
    await vi.waitFor(() => {
      expect(bench.view?.seq).toBe(8);
    });
  });
});
