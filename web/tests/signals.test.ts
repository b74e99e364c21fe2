import { mount } from "@vue/test-utils";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { i18n } from "@/i18n";
import SignalRows from "@/shared/SignalRows.vue";
import { vuetify } from "@/theme";

const trembled = vi.fn<(pattern: number[]) => boolean>(() => true);
const tones: number[] = [];

class Silent {
  currentTime = 0;
  destination = {};
  createOscillator(): object {
    const frequency = { value: 0 };
    const connect = (next: object): object => next;
    const start = (): number => tones.push(frequency.value);
    const stop = (): void => undefined;
    return { frequency, connect, start, stop };
  }
  createGain(): object {
    const nothing = (): void => undefined;
    return { gain: { setValueAtTime: nothing, linearRampToValueAtTime: nothing }, connect: nothing };
  }
}

async function fresh(): Promise<typeof import("@/shared/signals")> {
  vi.resetModules();
  return import("@/shared/signals");
}

describe("what is felt and heard of a press", () => {
  beforeEach(() => {
    localStorage.clear();
    trembled.mockClear();
    tones.length = 0;
    vi.stubGlobal("navigator", { vibrate: trembled });
    vi.stubGlobal("AudioContext", Silent);
  });

  it("is a tremble for what is taken, and a tone besides for what is not", async () => {
    const { signal } = await fresh();
    signal("taken");
    expect([trembled.mock.calls.length, tones]).toEqual([1, []]);
    signal("out_of_band");
    signal("refused");
    expect(trembled).toHaveBeenCalledTimes(3);
    expect(tones).toEqual([520, 390, 180]);
    const patterns = trembled.mock.calls.map(([pattern]) => JSON.stringify(pattern));
    expect(new Set(patterns).size).toBe(3);
  });

  it("is switched one by one, and stays so on this tablet", async () => {
    const before = await fresh();
    before.chooseSignal("refused", "sound", false);
    before.chooseSignal("taken", "vibration", false);
    const { signal, wantedSignals } = await fresh();
    expect(wantedSignals.value.refused).toEqual({ vibration: true, sound: false });
    signal("taken");
    expect(trembled).not.toHaveBeenCalled();
    signal("refused");
    expect([trembled.mock.calls.length, tones]).toEqual([1, []]);
  });

  it.each(["no json", "[]", "null", '{"taken": 7}', '{"taken": {"sound": "loud"}}'])(
    "begins anew where %s was kept",
    async (kept) => {
      localStorage.setItem("jorvek.signals", kept);
      const { wantedSignals } = await fresh();
      expect(wantedSignals.value.taken).toEqual({ vibration: true, sound: false });
      expect(wantedSignals.value.out_of_band).toEqual({ vibration: true, sound: true });
    },
  );

  it("is nothing on a tablet that can neither tremble nor sound", async () => {
    vi.stubGlobal("navigator", {});
    vi.stubGlobal("AudioContext", undefined);
    const { signal } = await fresh();
    expect(() => {
      signal("refused");
    }).not.toThrow();
  });

  it("is tried in the moment it is switched on, and not when it is switched off", async () => {
    const rows = mount(SignalRows, { global: { plugins: [i18n, vuetify] } });
    const silent = rows.findAll("button").find((one) => one.text() === "Silent");
    await silent?.trigger("click");
    expect(tones).toEqual([880]);
    tones.length = 0;
    const sounds = rows.findAll("button").find((one) => one.text() === "Sounds");
    await sounds?.trigger("click");
    expect(tones).toEqual([]);
    expect(sounds?.attributes("aria-pressed")).toBe("false");
  });
});
