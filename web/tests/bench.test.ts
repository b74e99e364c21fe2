import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import type { BenchAnswer, Call, Problem } from "../src/api/types";
import { useBench } from "../src/stores/bench";

const RUN = "6f2c1f4e-0000-4000-8000-000000000004";

function call(cell: string, attempt = 1): Call {
  return { cell, attempt, ask: "tick", fastener: cell.split("/")[2] ?? null } as unknown as Call;
}

function answer(seq: number, calls: Call[]): BenchAnswer {
  return { now: new Date().toISOString(), view: { run_id: RUN, seq, calls } } as unknown as BenchAnswer;
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
    vi.stubGlobal("EventSource", vi.fn());
    replies.length = 0;
    sent.length = 0;
  });

  async function opened(): Promise<ReturnType<typeof useBench>> {
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

  it("takes a second press within 700 ms for the same press", async () => {
    const bench = await opened();
    replies.push(ok(answer(6, [call("seat/seat/2")])));
    expect(await bench.record({ type: "tick" })).toBe(true);
    expect(await bench.record({ type: "tick" })).toBe(false);
    expect(sent.filter((one) => one.method === "POST")).toHaveLength(1);
  });

  it("keeps what a dead link swallowed and sends it again under the same id", async () => {
    const bench = await opened();
    replies.push("dead link");
    expect(await bench.record({ type: "tick" })).toBe(false);
    expect(bench.unsent).not.toBeNull();
    expect(bench.storedAt).toBeNull();
    replies.push(ok(answer(6, [call("seat/seat/2")])));
    await bench.sendAgain();
    expect(bench.unsent).toBeNull();
    expect(commandId(1)).toBe(commandId(2));
    expect(bench.view?.seq).toBe(6);
  });

  it("keeps it too when the database is away, because nobody knows whether it was stored", async () => {
    const bench = await opened();
    replies.push({ status: 503, body: problem(503, "problem.database_away") });
    await bench.record({ type: "tick" });
    expect(bench.problem?.code).toBe("problem.database_away");
    expect(bench.unsent).not.toBeNull();
  });

  it("shows a refusal and keeps nothing to send", async () => {
    const bench = await opened();
    replies.push({ status: 422, body: problem(422, "refusal.out_of_physical_range") });
    await bench.record({ type: "value", text: "61", unit: "mm" });
    expect(bench.problem?.code).toBe("refusal.out_of_physical_range");
    expect(bench.unsent).toBeNull();
  });

  it("looks again when somebody else was first", async () => {
    const bench = await opened();
    replies.push({ status: 409, body: problem(409, "refusal.cell_taken") });
    replies.push(ok(answer(7, [call("seat/seat/2")])));
    await bench.record({ type: "tick" });
    expect(bench.problem?.code).toBe("refusal.cell_taken");
    expect(bench.call?.cell).toBe("seat/seat/2");
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
});
