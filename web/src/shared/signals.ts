import { ref } from "vue";

/** What a press came to, or that something waits: felt and heard by whoever looks at the joint and not at the tablet. */
export type Signal = "taken" | "out_of_band" | "refused" | "waiting";
export type SignalWay = "vibration" | "sound";

export const SIGNALS: readonly Signal[] = ["taken", "out_of_band", "refused", "waiting"];
export const SIGNAL_WAYS: readonly SignalWay[] = ["vibration", "sound"];
const STORED = "jorvek.signals";
type Wanted = Record<Signal, Record<SignalWay, boolean>>;

/** A reading that is taken is felt alone; what is not is heard, too. What waits is quiet unless wanted. */
const USUAL: Wanted = {
  taken: { vibration: true, sound: false },
  out_of_band: { vibration: true, sound: true },
  refused: { vibration: true, sound: true },
  waiting: { vibration: false, sound: false },
};

/** Milliseconds of trembling and of rest, in turns. */
const TREMBLES: Record<Signal, number[]> = {
  taken: [40],
  out_of_band: [80, 80, 80],
  refused: [240],
  waiting: [40, 120, 40],
};

/** Tones one after the other, in Hz, each so many seconds long. */
const TONES: Record<Signal, { hz: number[]; each_s: number; loud: number }> = {
  taken: { hz: [880], each_s: 0.06, loud: 0.12 },
  out_of_band: { hz: [520, 390], each_s: 0.14, loud: 0.12 },
  refused: { hz: [180], each_s: 0.25, loud: 0.12 },
  waiting: { hz: [587, 740], each_s: 0.18, loud: 0.05 },
};

function kept(): Wanted {
  const wanted = structuredClone(USUAL);
  try {
    const said = JSON.parse(localStorage.getItem(STORED) ?? "{}") as Partial<Record<Signal, unknown>>;
    for (const signal of SIGNALS) {
      const one = said[signal];
      if (typeof one !== "object" || one === null) continue;
      for (const way of SIGNAL_WAYS) {
        const on = (one as Record<string, unknown>)[way];
        if (typeof on === "boolean") wanted[signal][way] = on;
      }
    }
  } catch {
    // Whatever stands there is no choice of anybody's.
  }
  return wanted;
}

/** What is felt and heard on this tablet; each tablet remembers it. */
export const wantedSignals = ref<Wanted>(kept());

export function chooseSignal(signal: Signal, way: SignalWay, on: boolean): void {
  const now = wantedSignals.value;
  wantedSignals.value = { ...now, [signal]: { ...now[signal], [way]: on } };
  localStorage.setItem(STORED, JSON.stringify(wantedSignals.value));
}

let audio: AudioContext | null = null;

function sound(signal: Signal): void {
  if (typeof AudioContext === "undefined") return;
  audio ??= new AudioContext();
  const { hz, each_s, loud } = TONES[signal];
  hz.forEach((pitch, k) => {
    if (audio === null) return;
    const begins = audio.currentTime + k * each_s;
    const tone = audio.createOscillator();
    const volume = audio.createGain();
    tone.frequency.value = pitch;
    volume.gain.setValueAtTime(loud, begins);
    volume.gain.linearRampToValueAtTime(0, begins + each_s);
    tone.connect(volume).connect(audio.destination);
    tone.start(begins);
    tone.stop(begins + each_s);
  });
}

/** Let a press be felt and heard, as this tablet wants it. A tablet that cannot is silent. */
export function signal(what: Signal): void {
  const wanted = wantedSignals.value[what];
  if (wanted.vibration && typeof navigator.vibrate === "function") navigator.vibrate(TREMBLES[what]);
  if (wanted.sound) sound(what);
}
