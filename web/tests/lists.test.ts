import { flushPromises, mount, type VueWrapper } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { createMemoryHistory, createRouter } from "vue-router";
import type { Problem, RunListed, RunsListed, Strips } from "@/api/types";
import RecordsView from "@/record/RecordsView.vue";
import EngineField from "@/shared/EngineField.vue";
import NotHere from "@/shared/NotHere.vue";
import StripsView from "@/surveys/StripsView.vue";
import { i18n } from "@/i18n";
import { vuetify } from "@/theme";

/** Lists that hand out a part: what is asked of the server, and what of its answers counts. */
const asked: URL[] = [];
const answers: ((body: unknown) => void)[] = [];
let shown: VueWrapper | null = null;

beforeEach(() => {
  setActivePinia(createPinia());
  asked.length = 0;
  answers.length = 0;
  vi.stubGlobal(
    "EventSource",
    class extends EventTarget {
      close(): void {}
    },
  );
  vi.stubGlobal("fetch", (request: Request) => {
    asked.push(new URL(request.url));
    return new Promise<Response>((resolve) => {
      answers.push((body) => {
        resolve(new Response(JSON.stringify(body), { headers: { "content-type": "application/json" } }));
      });
    });
  });
});

afterEach(() => {
  shown?.unmount();
  shown = null;
  vi.unstubAllGlobals();
});

const page = { template: "<p />" };
const router = createRouter({
  history: createMemoryHistory(),
  routes: ["berth", "bench", "record", "records", "strips"].map((name) => ({
    path: name === "berth" ? "/" : `/${name}/:run?`,
    name,
    component: page,
  })),
});
const plugins = { plugins: [i18n, vuetify, router] };
const query = (k: number): Record<string, string> => Object.fromEntries(asked[k]?.searchParams ?? []);

const run = (joint: string): RunListed =>
  ({
    run_id: joint,
    engine: "Unit 2",
    joint,
    people: [],
    readings: 1,
    exceptions: 0,
    status: "closed",
    started_at: "2026-11-29T08:00:00Z",
  }) as unknown as RunListed;
const listed = (found: number, ...joints: string[]): RunsListed => ({
  engines: [
    { id: "unit-2", name: "Unit 2" },
    { id: "unit-4", name: "Unit 4" },
  ],
  found,
  runs: joints.map(run),
});

describe("the records", () => {
  async function opened(first: RunsListed): Promise<VueWrapper> {
    shown = mount(RecordsView, { global: plugins });
    await flushPromises();
    answers[0]?.(first);
    await flushPromises();
    return shown;
  }

  it("are asked of the server by what was typed, and the answer to the words that stand there counts", async () => {
    const view = await opened(listed(2, "Head 1", "Head 2"));
    const field = view.find("input[type=search]");
    await field.setValue("head");
    await field.setValue("head 3");
    expect([query(1).words, query(2).words]).toEqual(["head", "head 3"]);
    answers[2]?.(listed(1, "Head 3"));
    await flushPromises();
    // The slower answer to what was typed before comes last, and is too late.
    answers[1]?.(listed(2, "Head 1", "Head 2"));
    await flushPromises();
    expect(view.text()).toContain("Head 3");
    expect(view.text()).not.toContain("Head 1");
  });

  it("say how many there are beyond those that are shown", async () => {
    const view = await opened(listed(1234, "Head 1", "Head 2"));
    expect(view.find(".more").text()).toContain("1232");
    await view.find("input[type=search]").setValue("head 1");
    answers[1]?.(listed(1, "Head 1"));
    await flushPromises();
    expect(view.find(".more").exists()).toBe(false);
  });

  it("can be searched on when nothing was found, and not where nothing was ever recorded", async () => {
    const view = await opened(listed(0));
    expect(view.find("[role=status]").exists()).toBe(true);
    expect(view.find("input[type=search]").exists()).toBe(true);
    shown?.unmount();
    asked.length = answers.length = 0;
    const empty = await opened({ engines: [], found: 0, runs: [] });
    expect(empty.find("input[type=search]").exists()).toBe(false);
  });
});

describe("the strip sheets", () => {
  const strips = (engine: string | null, ...ids: string[]): Strips => ({
    engines: ids.map((id) => ({ id, name: id })),
    engine,
    sheets: [],
    older: false,
  });

  it("are those of the engine that the server says, until another is chosen, and stay so", async () => {
    shown = mount(StripsView, { global: plugins });
    await flushPromises();
    expect(query(0)).toEqual({ most: "24" });
    answers[0]?.(strips("unit-2", "unit-2", "unit-4"));
    await flushPromises();
    const choice = shown.findComponent(EngineField);
    expect(choice.props("modelValue")).toBe("unit-2");
    await choice.setValue("unit-4");
    await flushPromises();
    expect(query(1)).toEqual({ engine: "unit-4", most: "24" });
    await choice.setValue("unit-2");
    expect(query(2)).toEqual({ engine: "unit-2", most: "24" });
    answers[2]?.(strips("unit-2", "unit-2", "unit-4"));
    await flushPromises();
    // What was asked of the other engine comes last, and is too late.
    answers[1]?.(strips("unit-4", "unit-2", "unit-4"));
    await flushPromises();
    expect(choice.props("modelValue")).toBe("unit-2");
  });

  it("come in parts: older ones are fetched once somebody asks for them", async () => {
    asked.length = answers.length = 0;
    shown = mount(StripsView, { global: plugins });
    await flushPromises();
    answers[0]?.({ ...strips("unit-2", "unit-2"), older: true });
    await flushPromises();
    await shown.findAll("button").at(-1)?.trigger("click");
    await flushPromises();
    expect(query(1)).toEqual({ most: "48" });
    answers[1]?.(strips("unit-2", "unit-2"));
    await flushPromises();
    expect(shown.findAll("button")).toHaveLength(0);
    shown.unmount();
  });

  it("offer no choice where there is one engine, and none where nothing was worked on", async () => {
    for (const said of [strips("unit-2", "unit-2"), strips(null)]) {
      asked.length = answers.length = 0;
      shown = mount(StripsView, { global: plugins });
      await flushPromises();
      answers[0]?.(said);
      await flushPromises();
      expect(shown.find(".v-select").exists()).toBe(false);
      shown.unmount();
    }
  });
});

describe("a page that is not there", () => {
  const problem = { code: "refusal.no_such_run", params: {}, detail: "", status: 404 } as unknown as Problem;

  it("says why and leads back, and is none while nothing is known", () => {
    const none = mount(NotHere, { props: { problem: null, unsent: false }, global: plugins });
    expect(none.find("main").exists()).toBe(false);
    const gone = mount(NotHere, { props: { problem, unsent: false }, global: plugins });
    expect(gone.text()).toContain("There is no such run");
    expect(gone.text()).not.toContain("Not stored");
    expect(gone.find("a").attributes("href")).toBe("/");
  });

  it("offers to ask again where the server did not answer", async () => {
    const away = mount(NotHere, { props: { problem: null, unsent: true }, global: plugins });
    await away.find(".again").trigger("click");
    expect(away.emitted("again")).toHaveLength(1);
  });
});
