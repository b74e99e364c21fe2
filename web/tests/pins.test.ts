import { mount, type VueWrapper } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";
import PinDialog from "@/bench/PinDialog.vue";
import { i18n } from "@/i18n";
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
