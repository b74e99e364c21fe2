import { mount, type VueWrapper } from "@vue/test-utils";
import { createPinia } from "pinia";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { nextTick, ref } from "vue";
import type { Call } from "@/api/types";
import { ACTIONS, type Dialog } from "@/bench/actions";
import CallPanel from "@/bench/CallPanel.vue";
import { i18n } from "@/i18n";
import { vuetify } from "@/theme";

beforeAll(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe(): void {
        // jsdom lays nothing out
      }
      unobserve(): void {
        // jsdom lays nothing out
      }
      disconnect(): void {
        // jsdom lays nothing out
      }
    },
  );
});

const base: Call = {
  cell: "first/raise",
  attempt: 1,
  step: "first",
  title: "First pressure",
  kind: "tension",
  item: "raise",
  ask: "value",
  fastener: null,
  text: null,
  cautions: [],
  deliberate: false,
  figure: { text: "600", unit: "bar" },
  lower: { text: "588", unit: "bar" },
  upper: { text: "612", unit: "bar" },
  stated: null,
  computed: null,
  fault: null,
  units: ["bar", "MPa"],
  tool: "PG-12",
  tool_class: null,
  sees: [],
  signed_by: null,
  not_before: null,
  why: null,
  worded: false,
  choices: [],
  owing: [],
  marked: false,
  movement: null,
  holds: null,
  bites: null,
  flat_deg: null,
  details: {},
  lines: {},
  noun: "stud",
  laddered: false,
  stillness: false,
  signed: false,
  as_stretch: false,
  own: null,
  confirmed_by: null,
  somebody_else: null,
  may_leave_out: false,
  for_engine: false,
  turns_crank: false,
  moves_crank: false,
  set_to: null,
  starts: {},
  also: {},
  photograph: false,
  photos: 0,
  done: 1,
  total: 8,
};

let shown: VueWrapper | null = null;
/** What left for the run, act by act. */
const said: Record<string, unknown[][] | undefined> = {};
const heard =
  (act: string) =>
  (...what: unknown[]): void => {
    (said[act] ??= []).push(what);
  };
const dialog = ref<Dialog | null>(null);
const actions = {
  dialog,
  standIn: ref(null),
  give: heard("give"),
  draw: heard("draw"),
  strikeLast: heard("strikeLast"),
  askSign: (): void => {
    dialog.value = { kind: "sign", cell: "" };
  },
};
afterEach(() => {
  shown?.unmount();
  shown = null;
});

function show(changes: Partial<Call>): VueWrapper {
  for (const act of Object.keys(said)) Reflect.deleteProperty(said, act);
  dialog.value = null;
  shown?.unmount();
  shown = mount(CallPanel, {
    props: { call: { ...base, ...changes }, clockOffsetMs: 0 },
    global: { plugins: [createPinia(), i18n, vuetify], provide: { [ACTIONS as symbol]: actions } },
    attachTo: document.body,
  });
  return shown;
}

async function keys(...names: string[]): Promise<void> {
  for (const key of names) {
    document.body.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
    await nextTick();
  }
}

describe("the call", () => {
  it("takes digits and either decimal mark from the keyboard, and Enter keeps the reading", async () => {
    show({});
    await keys("6", "0", ",", "3", "Backspace", "5", "Enter");
    expect(said.give).toEqual([[{ type: "value", text: "60,5", unit: "bar" }]]);
  });

  it("keeps nothing while nothing is typed, and an empty Backspace strikes the last reading", async () => {
    show({});
    await keys("Enter", " ", "Backspace");
    expect(said.give).toBeUndefined();
    expect(said.strikeLast).toHaveLength(1);
  });

  it("sends the unit that was chosen", async () => {
    const panel = show({});
    await panel.find(".unit").trigger("click");
    await keys("6", "0", "Enter");
    expect(said.give).toEqual([[{ type: "value", text: "60", unit: "MPa" }]]);
  });

  it("begins as a reading before began, by * or by touch, and only while nothing stands there", async () => {
    const panel = show({ units: ["mm"], starts: { mm: ["612.", "611."], in: ["24."] } });
    await keys("*", "0", "3", "4");
    expect(panel.find("output").text()).toBe("612.034");
    expect(panel.findAll(".start")).toHaveLength(0);
    await keys("*", "Enter");
    expect(said.give).toEqual([[{ type: "value", text: "612.034", unit: "mm" }]]);
  });

  it("gives a setting that stands where it should by one key, but never a deliberate one", async () => {
    const set_to = { text: "600", unit: "bar" };
    show({ set_to });
    await keys("=");
    expect(said.give).toEqual([[{ type: "value", ...set_to }]]);
    const panel = show({ set_to, deliberate: true });
    await keys("=");
    expect(said.give).toBeUndefined();
    await panel.find(".start.words").trigger("click");
    expect(said.give).toHaveLength(1);
  });

  it("says the author's words once more in the second language of the document", () => {
    const told = { "Clean the faces.": "Limpia las caras.", "Hot oil": "Aceite caliente" };
    const worded = { ask: "tick", worded: true, text: "Clean the faces.", cautions: ["Hot oil"] } as const;
    expect(show({ ...worded, cautions: ["Hot oil"], units: [] }).text()).not.toContain("caras");
    const panel = show({ ...worded, cautions: ["Hot oil"], units: [], also: told });
    for (const words of Object.entries(told).flat()) expect(panel.text()).toContain(words);
  });

  it("lets the pedal do a plain act", async () => {
    show({ ask: "tick", kind: "seat_tool", item: "seat", fastener: "3", units: [] });
    await keys(" ");
    expect(said.give).toEqual([[{ type: "tick" }]]);
  });

  it("never lets the pedal do a deliberate one, not even on its own focused button", async () => {
    const panel = show({ ask: "tick", item: "clear", deliberate: true, units: [] });
    await keys(" ", " ");
    const button = panel.find(".v-btn.main").element as HTMLButtonElement;
    button.focus();
    const press = new KeyboardEvent("keydown", { key: " ", bubbles: true, cancelable: true });
    button.dispatchEvent(press);
    expect(press.defaultPrevented).toBe(true);
    expect(said.give).toBeUndefined();
    await panel.find(".v-btn.main").trigger("click");
    expect(said.give).toHaveLength(1);
  });

  it("wipes the entry when the call changes, so that it never lands on another stud", async () => {
    const panel = show({ cell: "length-before/length/1", item: "length", fastener: "1" });
    await keys("6", "1");
    await panel.setProps({
      call: { ...base, cell: "length-before/length/2", item: "length", fastener: "2" },
    });
    await keys("Enter");
    expect(said.give).toBeUndefined();
    expect(panel.find("output").text()).toBe("");
  });

  it("asks the feeler in its own words", async () => {
    const panel = show({ ask: "feeler", item: "feeler", fastener: "2", text: "0.05 mm", units: [] });
    const buttons = panel.findAll(".pair .v-btn");
    await buttons[1]?.trigger("click");
    await buttons[0]?.trigger("click");
    expect(said.give).toEqual([[{ type: "feeler", enters: true }], [{ type: "feeler", enters: false }]]);
  });

  it("says how long a pressure must still orientation", () => {
    const soon = new Date(Date.now() + 12_400).toISOString();
    const panel = show({ ask: "tick", item: "hold", units: [], not_before: soon });
    expect(panel.find(".hold").text()).toMatch(/^1[23] s to go$/);
  });
});
