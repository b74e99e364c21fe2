import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { api } from "@/api/client";
import type { Seal } from "@/api/types";
import { useSession } from "@/shared/session";
import { useSiteSeal } from "@/shared/siteSeal";

const seal = (size: number): Seal => ({ size, root: size.toString(16).padStart(64, "0") });
const server = vi.spyOn(api, "POST");
const asked: unknown[] = [];

function answers(now: Seal, lost: boolean): void {
  server.mockImplementation(((_: string, sent: { body: unknown }) => {
    asked.push(sent.body);
    return Promise.resolve({ data: { now, lost }, response: new Response() });
  }) as never);
}

beforeEach(() => {
  vi.useFakeTimers();
  setActivePinia(createPinia());
  useSession().me = { id: "1", name: "Lio", role: "mechanic" } as never;
});
afterEach(() => {
  vi.useRealTimers();
  localStorage.clear();
  asked.length = 0;
});

it("remembers the newest seal over the page and over signing out", async () => {
  answers(seal(12), false);
  const first = useSiteSeal();
  first.again();
  await vi.advanceTimersByTimeAsync(1);
  expect(asked).toEqual([{ seal: null }]);
  setActivePinia(createPinia());
  useSession().me = { id: "2", name: "Tam", role: "trainee" } as never;
  answers(seal(14), false);
  const next = useSiteSeal();
  next.again();
  await vi.advanceTimersByTimeAsync(1);
  expect(asked[1]).toEqual({ seal: seal(12) });
  expect(next.seen).toEqual(seal(14));
});

it("keeps what it has seen while the server has less, and asks again until somebody knows why", async () => {
  answers(seal(12), false);
  const store = useSiteSeal();
  store.again();
  await vi.advanceTimersByTimeAsync(1);
  answers(seal(9), true);
  await vi.advanceTimersByTimeAsync(20_000);
  expect([store.lost, store.seen]).toEqual([true, seal(12)]);
  await vi.advanceTimersByTimeAsync(20_000);
  expect(asked.slice(1)).toEqual([{ seal: seal(12) }, { seal: seal(12) }]);
  store.known();
  expect([store.lost, store.seen]).toEqual([false, seal(9)]);
  expect(JSON.parse(localStorage.getItem("jorvek.seal") ?? "")).toEqual(seal(9));
});

it("says nothing of anybody's while nobody is signed in", async () => {
  useSession().me = null;
  answers(seal(12), false);
  useSiteSeal().again();
  await vi.advanceTimersByTimeAsync(60_000);
  expect(asked).toEqual([]);
});

it("works all the same when what it remembered was written over", async () => {
  localStorage.setItem("jorvek.seal", "{no seal");
  answers(seal(12), false);
  const store = useSiteSeal();
  store.again();
  await vi.advanceTimersByTimeAsync(1);
  expect(asked).toEqual([{ seal: null }]);
  expect(store.seen).toEqual(seal(12));
});
