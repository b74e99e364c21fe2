import { mount, type VueWrapper } from "@vue/test-utils";
import { createPinia } from "pinia";
import { afterEach, describe, expect, it, vi } from "vitest";
import { nextTick, ref } from "vue";
import type { Answer, BenchView, Call, Plan } from "@/api/types";
import { ACTIONS, type Actions, type Dialog } from "@/bench/actions";
import AnswerFoot from "@/bench/AnswerFoot.vue";
import ChoiceFoot from "@/bench/ChoiceFoot.vue";
import LadderCall from "@/bench/calls/LadderCall.vue";
import { useJoint } from "@/bench/joint";
import { useBench } from "@/bench/store";
import { i18n } from "@/i18n";
import { vuetify } from "@/theme";

/** What a press means: one answer, or none. */
const base = {
  cell: "stage/pull/9",
  attempt: 1,
  step: "stage",
  title: "Second torque",
  kind: "torque",
  item: "pull",
  ask: "pull",
  fastener: "9",
  text: null,
  cautions: [],
  deliberate: false,
  figure: null,
  lower: null,
  upper: null,
  stated: null,
  computed: null,
  fault: null,
  units: ["deg", "flats"],
  choices: [],
  owing: [],
  marked: false,
  flat_deg: 60,
  laddered: false,
  stillness: false,
  not_before: null,
  bites: null,
  tool_class: null,
  details: {},
} as unknown as Call;

let shown: VueWrapper | null = null;
afterEach(() => {
  shown?.unmount();
  shown = null;
});

const call = (changes: Partial<Call>): Call => ({ ...base, ...changes });
const plugins = { plugins: [createPinia(), i18n, vuetify] };

function foot(changes: Partial<Call>): { gave: () => Answer[]; foot: VueWrapper } {
  const made = mount(AnswerFoot, {
    props: { call: call(changes), clockOffsetMs: 0 },
    global: plugins,
    attachTo: document.body,
  });
  shown = made;
  return { gave: () => (made.emitted("give") ?? []).map((one) => one[0] as Answer), foot: shown };
}

async function press(key: string, more: KeyboardEventInit = {}): Promise<void> {
  const init = { key, bubbles: true, cancelable: true, ...more };
  document.body.dispatchEvent(new KeyboardEvent("keydown", init));
  await nextTick();
}

async function touch(on: VueWrapper, words: string): Promise<void> {
  const found = on.findAll("button").filter((one) => one.text().includes(words));
  expect(found, words).not.toHaveLength(0);
  await found[0]?.trigger("click");
}

describe("the space bar and a pedal", () => {
  it("gives one answer however long it is held", async () => {
    const { gave } = foot({ ask: "tick", item: "seat" });
    await press(" ");
    for (let k = 0; k < 20; k += 1) await press(" ", { repeat: true });
    expect(gave()).toEqual([{ type: "tick" }]);
  });

  it("strikes with a press of Backspace on an empty entry, and never with one that is held", async () => {
    const { foot: made } = foot({ ask: "value", item: "read", units: ["bar"] });
    for (const key of ["4", "1"]) await press(key);
    await press("Backspace");
    for (let k = 0; k < 30; k += 1) await press("Backspace", { repeat: true });
    expect(made.emitted("strikeLast")).toBeUndefined();
    await press("Backspace");
    expect(made.emitted("strikeLast")).toHaveLength(1);
  });

  it("does nothing with a key of the system, or inside a field", async () => {
    const free = foot({ ask: "tick", item: "seat" });
    for (const held of ["ctrlKey", "altKey", "metaKey"]) await press(" ", { [held]: true });
    const field = document.createElement("input");
    document.body.append(field);
    field.dispatchEvent(new KeyboardEvent("keydown", { key: " ", bubbles: true }));
    field.remove();
    expect(free.gave()).toEqual([]);
  });

  it("says moved for a pull, and still where standing still is what is hoped for", async () => {
    const pull = foot({});
    await press(" ");
    expect(pull.gave()).toEqual([{ type: "pull", outcome: "moved", moved: null, unit: "deg" }]);
    shown?.unmount();
    const check = foot({ kind: "check_trip", stillness: true });
    await press(" ");
    expect(check.gave()).toEqual([{ type: "pull", outcome: "still", moved: null, unit: "deg" }]);
  });

  it("gives neither answer of a blade, whichever proves the nut; plus and minus do", async () => {
    for (const choices of [[], ["enters"]]) {
      const blade = foot({ ask: "feeler", item: "feeler", choices, units: [] });
      const words = blade.foot.findAll("button").map((one) => one.text());
      expect(words.map((one) => one.replace(/[+−]$/, ""))).toEqual(["Does not enter", "It enters"]);
      expect(blade.foot.findAll("button.main")).toHaveLength(0);
      await press(" ");
      expect(blade.gave()).toEqual([]);
      await press("-");
      await press("+");
      expect(blade.gave()).toEqual([
        { type: "feeler", enters: false },
        { type: "feeler", enters: true },
      ]);
      shown?.unmount();
    }
  });

  it("begins anew with the next digit after a refusal, and knows a sign", async () => {
    const { gave, foot: made } = foot({ ask: "value", item: "aft", units: ["mm"], signed: true });
    for (const key of ["1", "0", "5", "0"]) await press(key);
    await made.setProps({ refused: true });
    await press("5");
    await press("-");
    await press("Enter");
    expect(gave()).toEqual([{ type: "value", text: "-5", unit: "mm" }]);
  });

  it("never signs, draws or chooses", async () => {
    for (const ask of ["tool", "choice"] as const) {
      const { gave } = foot({ ask, choices: ["reuse"], units: [] });
      await press(" ");
      expect(gave()).toEqual([]);
      shown?.unmount();
    }
  });
});

describe("angles", () => {
  const angle: Partial<Call> = {
    ask: "turn",
    item: "turn",
    kind: "angle",
    figure: { text: "105", unit: "°" },
    bites: 3,
  };

  it("goes to the mark in one touch", async () => {
    const { gave } = foot(angle);
    await press(" ");
    expect(gave()).toEqual([{ type: "turn", bites: [], unit: "deg", to_mark: true }]);
  });

  it("adds bites up in degrees by what one flat is on this fastener, and sends them as they were read", async () => {
    const { gave, foot: on } = foot({ ...angle, flat_deg: 30, units: ["flats", "deg"] });
    await touch(on, i18n.global.t("bench.other_angle"));
    await press("2");
    await touch(on, i18n.global.t("bench.add_bite"));
    await press("1");
    await press(".");
    await press("5");
    expect(on.find(".sum").text()).toContain("105");
    await press("Enter");
    expect(gave()).toEqual([{ type: "turn", bites: ["2", "1.5"], unit: "flats", to_mark: false }]);
  });
});

describe("typed readings", () => {
  const value: Partial<Call> = { ask: "value", item: "length", units: ["mm", "in"] };

  it("sends nothing while nothing is typed, and the text as it stands otherwise", async () => {
    const { gave, foot: on } = foot(value);
    await touch(on, "Enter");
    expect(gave()).toEqual([]);
    for (const key of "612,034") await press(key);
    await press("Enter");
    expect(gave()).toEqual([{ type: "value", text: "612,034", unit: "mm" }]);
  });

  it("takes a minus and no more than twelve signs", async () => {
    const { gave } = foot(value);
    for (const key of "-1234567890123456") await press(key);
    await press("Enter");
    expect(gave()).toEqual([{ type: "value", text: "-12345678901", unit: "mm" }]);
  });

  it("wipes what was typed when the call changes under it", async () => {
    const { gave, foot: on } = foot(value);
    await press("6");
    await on.setProps({ call: call({ ...value, cell: "stage/length/2" }) });
    await press("Enter");
    expect(gave()).toEqual([]);
  });

  it("counts whole pieces only", async () => {
    const { gave } = foot({ ask: "count", units: [] });
    for (const key of "2.5") await press(key);
    await press("Enter");
    for (let k = 0; k < 3; k += 1) await press("Backspace");
    for (const key of "24") await press(key);
    await press("Enter");
    expect(gave()).toEqual([{ type: "count", count: 24 }]);
  });
});

describe("a hold", () => {
  it("counts down by the server's clock, not the tablet's", async () => {
    // The server is ten minutes ahead: by its clock eight seconds are left.
    const offset = 600_000;
    const made = mount(AnswerFoot, {
      props: {
        call: call({
          ask: "tick",
          item: "hold",
          not_before: new Date(Date.now() + offset + 8000).toISOString(),
        }),
        clockOffsetMs: offset,
      },
      global: plugins,
    });
    shown = made;
    await nextTick();
    expect(made.find("[role=timer]").text()).toMatch(/\b8\b/);
  });
});

describe("choices", () => {
  function choices(changes: Partial<Call>): { gave: () => Answer[]; on: VueWrapper } {
    const made = mount(ChoiceFoot, {
      props: { call: call({ ask: "choice", ...changes }) },
      global: plugins,
      attachTo: document.body,
    });
    shown = made;
    return { gave: () => (made.emitted("give") ?? []).map((one) => one[0] as Answer), on: shown };
  }

  it("takes a good piece in one touch", async () => {
    const { gave, on } = choices({ choices: ["reuse", "replace"], owing: ["replace"], marked: true });
    await touch(on, i18n.global.t("choice.reuse"));
    expect(gave()).toEqual([{ type: "choice", choice: "reuse", piece: null }]);
  });

  it("asks why, and which, before a piece goes out", async () => {
    const { gave, on } = choices({ choices: ["reuse", "replace"], owing: ["replace"], marked: true });
    await touch(on, i18n.global.t("choice.replace"));
    expect(gave()).toEqual([]);
    const [mark, note] = on.findAll("input");
    await note?.setValue("Grown by 0.11");
    await on.find("form").trigger("submit");
    expect(gave(), "a mark is still owed").toEqual([]);
    await mark?.setValue("A-17");
    await on.find("form").trigger("submit");
    expect(gave()).toEqual([{ type: "choice", choice: "replace", note: "Grown by 0.11", piece: "A-17" }]);
  });
});

describe("the ladder of pressures", () => {
  const rung = (fastener: string): Call =>
    call({
      cell: `free/free/${fastener}`,
      item: "free",
      fastener,
      laddered: true,
      units: ["bar"],
      details: { blade: "0.05 mm" },
    });
  const bar = (text: string): { text: string; unit: string } => ({ text, unit: "bar" });
  const tried = vi.fn(() => Promise.resolve());
  const dialog = ref<Dialog | null>(null);

  function ladder(up: string | null = "780"): { gave: () => unknown[][]; on: VueWrapper } {
    const calls = [rung("2"), rung("4")];
    const actions = { dialog, tryPressure: tried } as unknown as Actions;
    const global = { ...plugins, provide: { [ACTIONS as symbol]: actions } };
    const made = mount(LadderCall, { props: { call: calls[0] as Call, beside: calls }, global });
    useBench().view = {
      stuck: [],
      ladder: {
        step: "free",
        unit: "bar",
        now: bar("760"),
        number: "760",
        up: up === null ? null : bar(up),
        up_number: up,
        down_number: null,
        by: bar("20"),
        healthy: bar("962"),
        ceiling: bar("1100"),
        share: 0.6,
        healthy_share: 0.76,
      },
    } as unknown as BenchView;
    shown = made;
    return { gave: () => made.emitted("give") ?? [], on: shown };
  }

  it("asks the server for the next pressure and notes the nut that was touched at the one it said", async () => {
    const { gave, on } = ladder();
    await nextTick();
    expect(on.find(".gauge b").text()).toBe("760 bar");
    await touch(on, "+20");
    expect(tried).toHaveBeenLastCalledWith("780");
    await on.findAll(".nut")[1]?.trigger("click");
    expect(gave()).toEqual([[{ type: "value", text: "760", unit: "bar" }, "free/free/4"]]);
  });

  it("never offers a pressure above the ceiling", async () => {
    const { on } = ladder(null);
    await nextTick();
    expect(on.findAll(".raise button")[0]?.attributes("disabled")).toBeDefined();
    expect(on.find(".hint").text()).toContain("1100");
  });

  it("asks for the blade under a nut that will not move, and notes no pressure for it", async () => {
    const { gave, on } = ladder();
    await nextTick();
    await touch(on, i18n.global.t("stuck.will_not"));
    await on.findAll(".nut")[0]?.trigger("click");
    expect(dialog.value).toEqual({ kind: "stuck", cell: "free/free/2", fastener: "2", blade: "0.05 mm" });
    expect(gave()).toEqual([]);
  });
});

describe("the plan", () => {
  const plan = {
    outline: [],
    hoses: [],
    heads: [
      { name: "1", x: -100, y: 100, across: 40, tool_on: false, strokes: [], clamp: null },
      { name: "2", x: 100, y: 100, across: 40, tool_on: false, strokes: [], clamp: null },
    ],
    x_minus: "",
    x_plus: "",
    y_minus: "",
    y_plus: "",
  } as unknown as Plan;
  const joint = useJoint(
    () => plan,
    () => ({ quarterTurns: 0, mirrored: false }),
  );

  it("means the nearest head, within reach of it and not from anywhere", () => {
    expect(joint.nearest({ x: -96, y: -104 })).toBe("1");
    expect(joint.nearest({ x: 60, y: -100 })).toBe("2");
    expect(joint.nearest({ x: 100 - 40 * 1.59, y: -100 })).toBe("2");
    expect(joint.nearest({ x: 100 - 40 * 1.61, y: -100 })).toBeNull();
    expect(joint.nearest({ x: 0, y: 900 })).toBeNull();
  });
});
