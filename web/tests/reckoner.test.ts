import { flushPromises } from "@vue/test-utils";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { effectScope, nextTick, ref, type EffectScope } from "vue";
import type { AskedField, QuestionListed, QuestionName } from "@/api/types";
import { counting, useReckoner } from "@/reckoner/useReckoner";

const field = (name: string, rest: Partial<AskedField> = {}): AskedField => ({
  name,
  quantity: "torque",
  unit: "N.m",
  units: ["N.m", "lbf.ft"],
  default: "240",
  choices: [],
  group: "ask",
  shown_if: null,
  ...rest,
});

const QUESTIONS: QuestionListed[] = [
  {
    name: "torque",
    fields: [
      field("known", { choices: ["load", "book"], default: "load", unit: "" }),
      field("F_N", { shown_if: { field: "known", choice: "load" }, default: "64" }),
      field("T_book_Nm", { shown_if: { field: "known", choice: "book" } }),
    ],
  },
  { name: "extension", fields: [field("T_Nm")] },
];

interface Asked {
  url: string;
  typed: Record<string, { text: string }>;
  answer: (body: unknown, status?: number) => void;
}

let asked: Asked[] = [];
let scope: EffectScope | undefined;

function json(body: unknown, status: number): Response {
  const kind = status < 400 ? "application/json" : "application/problem+json";
  return new Response(JSON.stringify(body), { status, headers: { "content-type": kind } });
}

/** A server whose answers come when the test lets them. */
async function slowServer(request: Request): Promise<Response> {
  const { typed } = JSON.parse(await request.clone().text()) as Pick<Asked, "typed">;
  return new Promise((resolve) => {
    asked.push({
      url: request.url,
      typed,
      answer: (body, status = 200) => {
        resolve(json(body, status));
      },
    });
  });
}

const answerOf = (text: string): unknown => ({
  told: [{ name: "T_Nm", text }],
  notes: [],
  why: [],
  picture: {},
});

function open(name: QuestionName): ReturnType<typeof useReckoner> {
  scope = effectScope();
  const made = scope.run(() => useReckoner(QUESTIONS, ref(name)));
  if (made === undefined) throw new Error("no scope");
  return made;
}

/** Let the pause after typing pass and the question go out. */
async function settle(): Promise<void> {
  await nextTick();
  await vi.advanceTimersByTimeAsync(200);
  await flushPromises();
}

describe("the Reckoner", () => {
  beforeEach(() => {
    scope?.stop();
    localStorage.clear();
    asked = [];
    vi.useFakeTimers();
    vi.stubGlobal("fetch", slowServer);
  });

  it("asks only what counts with the choices made", async () => {
    const { entries } = open("torque");
    await settle();
    expect(Object.keys(asked[0]?.typed ?? {})).toEqual(["known", "F_N"]);
    const mine = entries.value["torque"];
    if (mine?.["known"]) mine["known"].text = "book";
    await settle();
    expect(Object.keys(asked.at(-1)?.typed ?? {})).toEqual(["known", "T_book_Nm"]);
    expect(counting(QUESTIONS[0]?.fields ?? [], mine ?? {}).map((f) => f.name)).toEqual([
      "known",
      "T_book_Nm",
    ]);
  });

  it("shows the answer to what was typed last, however late an earlier one comes", async () => {
    const reckoner = open("extension");
    await settle();
    const mine = reckoner.entries.value["extension"]?.["T_Nm"];
    if (mine) mine.text = "480";
    await settle();
    expect(asked).toHaveLength(2);
    asked[1]?.answer(answerOf("416.2"));
    await flushPromises();
    asked[0]?.answer(answerOf("208.1"));
    await flushPromises();
    expect(reckoner.answer.value?.told[0]?.text).toBe("416.2");
  });

  it("asks once for a number typed digit by digit", async () => {
    const reckoner = open("extension");
    await settle();
    const mine = reckoner.entries.value["extension"]?.["T_Nm"];
    for (const text of ["4", "48", "480"]) {
      if (mine) mine.text = text;
      await nextTick();
    }
    await settle();
    expect(asked.map((one) => one.typed["T_Nm"]?.text)).toEqual(["240", "480"]);
  });

  it("keeps the last answer beside a refusal, and what was typed after a reload", async () => {
    const reckoner = open("extension");
    await settle();
    asked[0]?.answer(answerOf("208.1"));
    await flushPromises();
    const mine = reckoner.entries.value["extension"]?.["T_Nm"];
    if (mine) mine.text = "-5";
    await settle();
    asked[1]?.answer({ code: "refusal.E_RANGE", detail: "no", params: { name: "T_Nm" } }, 422);
    await flushPromises();
    expect(reckoner.problem.value?.code).toBe("refusal.E_RANGE");
    expect(reckoner.answer.value?.told[0]?.text).toBe("208.1");
    scope?.stop();
    expect(open("extension").entries.value["extension"]?.["T_Nm"]?.text).toBe("-5");
  });

  it("takes a damaged memory for none", () => {
    localStorage.setItem("jorvek.reckoner", "{");
    expect(open("extension").entries.value["extension"]?.["T_Nm"]).toEqual({ text: "240", unit: "N.m" });
  });
});
