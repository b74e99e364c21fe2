import { flushPromises, mount, type VueWrapper } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import { createMemoryHistory, createRouter } from "vue-router";
import PinDialog from "@/bench/PinDialog.vue";
import { i18n } from "@/i18n";
import SignInView from "@/shared/SignInView.vue";
import TimeField from "@/shared/TimeField.vue";
import { vuetify } from "@/theme";

let shown: VueWrapper | null = null;
beforeEach(() => {
  const size = { width: 1280, height: 800, offsetLeft: 0, offsetTop: 0, scale: 1 };
  vi.stubGlobal("visualViewport", Object.assign(new EventTarget(), size));
});
afterEach(() => {
  shown?.unmount();
  shown = null;
});
const plugins = { plugins: [i18n, vuetify] };
const digits = (text: string): string[] => text.split("");

async function typed(...keys: string[]): Promise<KeyboardEvent[]> {
  const events = keys.map((key) => new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
  for (const event of events) {
    document.body.dispatchEvent(event);
    await nextTick();
  }
  return events;
}

describe("the PIN of a signature", () => {
  async function asked(): Promise<VueWrapper> {
    const dialog = mount(PinDialog, {
      props: { open: false, name: "Bram" },
      global: plugins,
      attachTo: document.body,
    });
    shown = dialog;
    await dialog.setProps({ open: true });
    return dialog;
  }
  const signed = (dialog: VueWrapper): unknown[] => (dialog.emitted("done") ?? []).map((one) => one[0]);

  it("is typed wherever the focus is, taken back, and given with Enter once it is whole", async () => {
    const dialog = await asked();
    await typed("3", "4", "0", "1", "7", "Enter");
    expect(signed(dialog)).toEqual([]);
    // A seventh digit is none of it.
    await typed("Backspace", "6", "0", "9", "Enter");
    expect(signed(dialog)).toEqual(["340160"]);
  });

  it("leaves nothing of its keys to what has the focus", async () => {
    await asked();
    const [digit, letter] = await typed("5", "x");
    expect([digit?.defaultPrevented, letter?.defaultPrevented]).toEqual([true, false]);
  });

  it("listens only while it is open, and forgets what was typed", async () => {
    const dialog = await asked();
    await typed("3", "4", "0");
    await dialog.setProps({ open: false });
    const [ignored] = await typed("1");
    expect(ignored?.defaultPrevented).toBe(false);
    await dialog.setProps({ open: true });
    await typed("1", "6", "0", "Enter");
    expect(signed(dialog)).toEqual([]);
  });
});

describe("the PIN at the door", () => {
  const people = [{ id: "bram", name: "Bram Okafor", role: "lead_hand" }];
  const wrong = { code: "refusal.pin_wrong", params: {}, detail: "", status: 403, kept: "" };
  const pins: string[] = [];
  let answer: ((status: number, body: unknown) => void) | null = null;

  async function standing(): Promise<VueWrapper> {
    setActivePinia(createPinia());
    pins.length = 0;
    vi.stubGlobal(
      "EventSource",
      class extends EventTarget {
        close(): void {}
      },
    );
    vi.stubGlobal("fetch", async (request: Request): Promise<Response> => {
      const said = (status: number, body: unknown): Response =>
        new Response(JSON.stringify(body), {
          status,
          headers: { "content-type": status < 400 ? "application/json" : "application/problem+json" },
        });
      if (request.url.endsWith("/api/people")) return said(200, people);
      pins.push(((await request.json()) as { pin: string }).pin);
      return new Promise<Response>((resolve) => {
        answer = (status, body): void => {
          resolve(said(status, body));
        };
      });
    });
    const routes = ["berth", "sign-in"].map((name) => ({
      path: `/${name}`,
      name,
      component: { template: "<p />" },
    }));
    const router = createRouter({ history: createMemoryHistory(), routes });
    const door = mount(SignInView, { global: { plugins: [i18n, vuetify, router] }, attachTo: document.body });
    shown = door;
    await flushPromises();
    await door.find("button.person").trigger("click");
    return door;
  }
  const full = (door: VueWrapper): number => door.findAll(".dots .full").length;

  it("keeps what is typed while one is looked at, for the next one, and tries none unseen", async () => {
    const door = await standing();
    await typed(...digits("000001"));
    await flushPromises();
    expect(pins).toEqual(["000001"]);
    expect(door.text()).toContain("Looking at the PIN");
    // In a hurry: the right one, all of it, and one digit taken back.
    await typed(...digits("34016"), "Backspace", ...digits("60"));
    expect(pins).toHaveLength(1);
    answer?.(403, wrong);
    await flushPromises();
    expect(full(door)).toBe(5);
    expect(pins).toHaveLength(1);
    await typed("0");
    await flushPromises();
    expect(pins).toEqual(["000001", "340160"]);
  });

  it("forgets it when the PIN before was right", async () => {
    const door = await standing();
    await typed(...digits("340160"), ...digits("12"));
    await flushPromises();
    answer?.(200, {
      id: "bram",
      name: "Bram Okafor",
      role: "lead_hand",
      rights: [],
      units: {},
      units_offered: {},
    });
    await flushPromises();
    expect(pins).toEqual(["340160"]);
    expect(door.text()).not.toContain("Looking at the PIN");
  });
});

describe("a time of day", () => {
  async function written(text: string): Promise<{ value: string; wrong: boolean; shown: string }> {
    let value = "";
    const field = mount(TimeField, {
      props: { label: "Until", modelValue: "", "onUpdate:modelValue": (now: string) => (value = now) },
      global: plugins,
    });
    shown = field;
    await field.find("input").setValue(text);
    const wrong = field.find(".v-input--error").exists();
    await field.find("input").trigger("blur");
    return { value, wrong, shown: field.find("input").element.value };
  }

  it.each([
    ["16:30", "16:30"],
    ["7", "07:00"],
    ["0730", "07:30"],
    ["730", "07:30"],
    ["7.05", "07:05"],
    ["7h05", "07:05"],
    [" 00:00 ", "00:00"],
    ["23:59", "23:59"],
  ])("is read from %s as %s on the 24-hour clock", async (text, clock) => {
    expect(await written(text)).toEqual({ value: clock, wrong: false, shown: clock });
  });

  it.each(["24:00", "12:60", "7:5", "half past", "12:30 pm", "-1", "99"])(
    "is not read from %s, and what was typed stays to be put right",
    async (text) => {
      const now = await written(text);
      expect([now.value, now.wrong, now.shown]).toEqual(["", true, text]);
    },
  );

  it("is none where nothing is typed, and nothing is wrong with that", async () => {
    expect(await written("")).toEqual({ value: "", wrong: false, shown: "" });
  });
});
