import "fake-indexeddb/auto";
import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { answerOf, api, LinkError, ProblemError } from "@/api/client";
import type { BenchAnswer, Command, Me, Problem } from "@/api/types";
import { useBench } from "@/bench/store";
import { useActing, useAsking } from "@/shared/acting";
import { useLink } from "@/shared/link";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";
import { allParcels, keep, kept } from "@/shared/tabletDisk";

const RUN = "6f2c1f4e-0000-4000-8000-000000000004";
type Reply = { status: number; body: unknown } | "dead link";
const replies: Reply[] = [];

async function fakeFetch(): Promise<Response> {
  const reply = replies.shift() ?? "dead link";
  if (reply === "dead link") return Promise.reject(new TypeError("no network"));
  const kind = reply.status < 400 ? "application/json" : "application/problem+json";
  const body = reply.status === 204 ? null : JSON.stringify(reply.body);
  return Promise.resolve(new Response(body, { status: reply.status, headers: { "content-type": kind } }));
}

const problem = (status: number, code = "refusal.no"): Problem => ({
  type: "urn",
  title: "no",
  status,
  detail: "no",
  code,
  params: {},
  kept: "",
  findings: [],
  asks: false,
});
const no = (status: number, code?: string): Reply => ({ status, body: problem(status, code) });
const answer = (now = new Date()): BenchAnswer =>
  ({
    now: now.toISOString(),
    view: { run_id: RUN, seq: 5, calls: [], ribbon: [], owed: [] },
    ahead: null,
  }) as unknown as BenchAnswer;
const tick = (id: string): Command =>
  ({ kind: "record", id, cell: "a/b/1", attempt: 1, answer: { type: "tick" } }) as unknown as Command;

beforeEach(async () => {
  setActivePinia(createPinia());
  vi.stubGlobal("fetch", fakeFetch);
  vi.stubGlobal(
    "EventSource",
    class extends EventTarget {
      close(): void {}
    },
  );
  replies.length = 0;
  for (const parcel of await allParcels()) {
    const { forgetParcel } = await import("@/shared/tabletDisk");
    await forgetParcel(parcel);
  }
});

function here(): void {
  useSession().me = { id: "bram", name: "Bram" } as unknown as Me;
}

describe("the link", () => {
  it("is lost when a question gets no answer, and back with the next one", async () => {
    const link = useLink();
    await expect(answerOf(api.GET("/api/people"))).rejects.toBeInstanceOf(LinkError);
    expect(link.lost).toBe(true);
    replies.push({ status: 200, body: [] });
    await answerOf(api.GET("/api/people"));
    expect(link.lost).toBe(false);
  });

  it("stays lost while something waits to be sent, whatever else is answered", async () => {
    here();
    const link = useLink();
    const outbox = useOutbox();
    replies.push("dead link");
    await outbox.put(RUN, tick("1"), 0);
    await outbox.flush();
    replies.push({ status: 200, body: [] });
    await answerOf(api.GET("/api/people"));
    expect(link.lost).toBe(true);
    replies.push({ status: 200, body: answer() });
    await outbox.flush();
    expect([link.lost, outbox.mine.length]).toEqual([false, 0]);
  });

  it("counts a server in trouble as none, and a refusal as an answer", async () => {
    const link = useLink();
    replies.push(no(503));
    await expect(answerOf(api.GET("/api/people"))).rejects.toBeInstanceOf(ProblemError);
    expect(link.lost).toBe(true);
    replies.push(no(409));
    await expect(answerOf(api.GET("/api/people"))).rejects.toBeInstanceOf(ProblemError);
    expect(link.lost).toBe(false);
  });
});

describe("what waits on the tablet", () => {
  it.each([429, 401, 500, 503])("keeps a press that the server answers with %i", async (status) => {
    here();
    const outbox = useOutbox();
    replies.push(no(status));
    await outbox.put(RUN, tick("1"), 0);
    await outbox.flush();
    expect(outbox.mine).toHaveLength(1);
    expect(outbox.trouble?.status).toBe(status);
    expect(await allParcels()).toHaveLength(1);
  });

  it.each([403, 404, 409, 413, 422])(
    "gives a press that is refused with %i back to a person",
    async (status) => {
      here();
      const outbox = useOutbox();
      replies.push(no(status));
      await outbox.put(RUN, tick("1"), 0);
      await outbox.flush();
      expect(outbox.mine).toHaveLength(0);
      expect(outbox.outcome).toMatchObject({ run: RUN, problem: { status } });
      expect(await allParcels()).toHaveLength(0);
    },
  );

  it("writes to the disk which stretch without a link each press belongs to", async () => {
    here();
    const outbox = useOutbox();
    await outbox.put(RUN, tick("1"), 0);
    expect((await allParcels())[0]?.batch).toBeNull();
    await outbox.flush();
    await outbox.put(RUN, tick("2"), 0);
    const stretches = (await allParcels()).map((one) => one.batch);
    expect(stretches).toHaveLength(2);
    expect(stretches[0]).not.toBeNull();
    expect(stretches[1]).toBe(stretches[0]);
  });

  it("sends only what belongs to whoever is here", async () => {
    here();
    const outbox = useOutbox();
    await outbox.put(RUN, tick("1"), 0);
    await outbox.flush();
    useSession().me = { id: "lio", name: "Lio" } as unknown as Me;
    replies.push({ status: 200, body: answer() });
    await outbox.flush();
    expect([outbox.mine.length, outbox.others.length]).toEqual([0, 1]);
    expect(replies).toHaveLength(1);
  });
});

describe("the tablet's clock", () => {
  it("is set against the server's: ahead of it, the offset is negative", async () => {
    here();
    const bench = useBench();
    replies.push({ status: 200, body: answer(new Date(Date.now() - 90_000)) });
    await bench.open(RUN);
    expect(bench.clockOffsetMs).toBeGreaterThan(-91_000);
    expect(bench.clockOffsetMs).toBeLessThan(-89_000);
  });
});

describe("leaving the tablet", () => {
  it("forgets what was shown, and keeps what waits", async () => {
    here();
    await keep("berth", { value: 1, at: "now" });
    const outbox = useOutbox();
    await outbox.put(RUN, tick("1"), 0);
    replies.push({ status: 204, body: null });
    await useSession().signOut();
    expect(useSession().me).toBeNull();
    expect(await kept("berth")).toBeUndefined();
    expect(await allParcels()).toHaveLength(1);
  });

  it("needs the server: without it one stays signed in, and nothing is forgotten", async () => {
    here();
    await keep("berth", { value: 1, at: "now" });
    await expect(useSession().signOut()).rejects.toBeInstanceOf(LinkError);
    expect(useSession().me).not.toBeNull();
    expect(await kept("berth")).toBeDefined();
  });
});

describe("doing and asking", () => {
  it("does one thing at a time, says why not, and is free again whatever happened", async () => {
    const { busy, problem: why, unsent, act } = useActing();
    let finish = (): void => undefined;
    const first = act(() => new Promise((resolve) => (finish = resolve)));
    expect(busy.value).toBe(true);
    expect(await act(() => Promise.resolve())).toBe(false);
    finish();
    expect(await first).toBe(true);
    expect(await act(() => Promise.reject(new ProblemError(problem(409))))).toBe(false);
    expect([busy.value, why.value?.status]).toEqual([false, 409]);
    expect(await act(() => Promise.reject(new LinkError("no")))).toBe(false);
    expect([unsent.value, why.value]).toEqual([true, null]);
    await expect(act(() => Promise.reject(new RangeError("a fault")))).rejects.toBeInstanceOf(RangeError);
    expect(busy.value).toBe(false);
  });

  it("shows the answer to the last question, whichever comes last", async () => {
    const { answer: said, problem: why, ask, forget } = useAsking<string>();
    let late: (value: string) => void = () => undefined;
    const slow = ask(() => new Promise<string>((resolve) => (late = resolve)));
    await ask(() => Promise.resolve("new"));
    late("old");
    await slow;
    expect(said.value).toBe("new");
    let fail: (error: Error) => void = () => undefined;
    const failing = ask(() => new Promise<string>((_, reject) => (fail = reject)));
    forget();
    fail(new ProblemError(problem(404)));
    await failing;
    expect([said.value, why.value]).toEqual([null, null]);
  });
});
