import type { StepKind } from "@/api/types";

/** A small drawing on a field of 120 × 60 and the facts of the step that stand beside it. */
export interface Picture {
  /** What is there, as the data of a path. */
  lines?: string;
  /** What is asked for, in the colour of now. */
  now?: string;
  /** What is wiped away, dashed. */
  wiped?: string;
  /** Centre and radius of each circle. */
  circles?: readonly (readonly [number, number, number])[];
  /** Fields of the step. */
  facts: readonly string[];
}

/** Everything slack again, and its marks wiped on bolt and casting. */
const FREED: Picture = {
  lines: "M60 6 L82 18 V42 L60 54 L38 42 V18 Z",
  wiped: "M60 30 L86 14",
  facts: ["sign", "wipe"],
};
/** A point of the isolation, each by a named person: a lock on it. */
const ISOLATION: Picture = {
  lines: "M40 26 h40 v28 h-40 z M48 26 V18 a12 12 0 0 1 24 0 V26 M60 36 V46",
  facts: ["by", "carried_to"],
};
/** Leaves something owed: the tag stays on the run until a later step takes it off. */
const OWING: Picture = {
  lines: "M30 30 L46 14 H96 V46 H46 Z",
  now: "M58 24 h28 M58 36 h20",
  circles: [[44, 30, 4]],
  facts: ["puts_right", "blocks", "carried_to"],
};
/** Takes off the tag that an earlier step put on. */
const SETTLING: Picture = { now: "M52 30 l10 10 l22 -22", wiped: "M30 30 L46 14 H96 V46 H46 Z", facts: [] };

/** Kinds of step whose picture never changes while they are done. */
const PICTURES = {
  ancillary_off: OWING,
  ancillary_on: SETTLING,
  // How the whole engine lies now.
  attitude: { facts: ["attitude"] },
  // A part of a turn back, and why.
  back_off: { now: "M88 30 a28 28 0 1 0 -8 20 m-8 -1 l8 2 l3 -9", circles: [[60, 30, 20]], facts: ["turns"] },
  // The highest pressure, set on the pump and proved on a shut line.
  ceiling: { lines: "M24 14 h72 M24 54 h72", now: "M60 50 V20 m-7 8 l7 -9 l7 9", facts: [] },
  // The table from which the measurement chooses.
  choose_part: { facts: ["statistic", "table"] },
  close_item: SETTLING,
  disturb: OWING,
  // A part drawn home evenly; the effort that means stop.
  draw_home: {
    lines: "M28 52 V20 h12 v32 M80 52 V20 h12 v32 M44 8 h32 v30 h-32 z",
    now: "M60 40 v12 m-6 -6 l6 7 l6 -7",
    facts: ["last", "stop_at"],
  },
  // A blade tried where it must not, or must, go in.
  feeler: { lines: "M14 46 h92 M30 40 h60 v-20 h-60 z", now: "M4 43 h26", facts: ["blade"] },
  // The one way in which the part goes.
  fit: {
    lines: "M26 46 a34 34 0 0 1 68 0 M36 46 a24 24 0 0 1 48 0",
    now: "M60 4 V18 m-6 -6 l6 7 l6 -7",
    facts: ["rule"],
  },
  // What is due later, from which state, by which method.
  follow_up: {
    lines: "M34 10 h52 v42 h-52 z M34 22 h52 M46 6 v8 M74 6 v8",
    now: "M48 38 l8 8 l18 -16",
    facts: ["after", "latest", "after_running", "latest_running", "state", "method"],
  },
  full_release: FREED,
  // The crank moved by hand control only, and the sign that means stop.
  inch: {
    lines: "M84 20 a26 26 0 0 1 2 22 m-6 -6 l5 7 l8 -4",
    now: "M60 32 L76 18",
    circles: [[60, 32, 22]],
    facts: ["stop_at"],
  },
  // What to look for, and what is good.
  inspect: { facts: ["look_for", "accept", "reject"] },
  // A load landed: what guides it, and how the last stretch is done.
  land: {
    lines: "M60 2 V8 M60 8 L40 22 M60 8 L80 22 M34 22 h52 v16 h-52 z M20 52 h80",
    now: "M100 12 V42 m-6 -8 l6 8 l6 -8",
    facts: ["load", "points"],
  },
  // A load on the hook: weight, points, clearance.
  lift: {
    lines: "M60 2 V14 M60 14 L40 32 M60 14 L80 32 M34 32 h52 v18 h-52 z",
    now: "M100 44 V16 m-6 8 l6 -8 l6 8",
    facts: ["load", "points", "by"],
  },
  // The lock on each nut, and whether it is a new one.
  lock: { lines: "M60 8 L80 20 V40 L60 52 L40 40 V20 Z", now: "M40 40 L28 52 h26 Z", facts: ["device"] },
  // A small angle all round; nobody takes one bolt to the end.
  loosen_angle: {
    lines: "M60 6 L82 18 V42 L60 54 L38 42 V18 Z",
    now: "M92 20 a30 30 0 0 1 -4 26 m8 -4 l-9 6 l-4 -10",
    facts: ["angle", "rounds"],
  },
  // Which product, on which faces, and which stay dry.
  lubricate: {
    lines: "M60 8 q14 20 14 28 a14 14 0 0 1 -28 0 q0 -8 14 -28",
    facts: ["product", "faces", "dry", "max_age"],
  },
  make_safe: ISOLATION,
  // Parts that belong together: their mark is read and written down.
  matched_part: {
    lines: "M16 34 h38 v-16 h-38 z M66 34 h38 v-16 h-38 z M35 34 q25 22 50 0",
    now: "M24 26 h22 M74 26 h22",
    facts: ["identity"],
  },
  // What cannot be undone, and what must have passed before it.
  no_return: { lines: "M20 30 H92 m-14 -14 l15 14 l-15 14", now: "M104 8 V52", facts: ["passed"] },
  // Out and parked; the last one only with the support in place.
  nuts_off: {
    lines: "M60 54 V20 M50 20 h20 v-12 h-20 z",
    now: "M88 44 V12 m-6 8 l6 -8 l6 8",
    facts: ["park"],
  },
  open_item: OWING,
  // Where the parts lie, and their tag.
  park: { facts: ["place", "tag"] },
  put_right: SETTLING,
  // Pressure off, and zero seen on the gauge.
  relieve: { lines: "M34 50 a28 28 0 1 1 52 0", now: "M60 42 L38 46", facts: [] },
  // Tool and spacer off the stud, and counted.
  remove_tool: {
    lines: "M52 54 V26 h16 v28 M40 10 h40 v14 h-40 z",
    now: "M96 40 V12 m-6 8 l6 -8 l6 8",
    facts: [],
  },
  repeat: FREED,
  restore: ISOLATION,
  // Run down to contact: by what, and the sign that ends it.
  run_down: {
    lines: "M20 50 h80 M60 50 V8 M46 20 h28 v14 h-28 z",
    now: "M84 20 a14 10 0 0 1 -4 18 m-2 -7 l1 8 l8 0",
    facts: ["at_most"],
  },
  // The bead, where it never goes, and the time there is.
  sealant: {
    lines: "M18 36 h84 v12 h-84 z",
    now: "M24 32 q8 -8 16 0 t16 0 t16 0 t16 0 t12 0",
    facts: ["product", "bead", "not_at", "close_within", "cure"],
  },
  // Fasteners of one length are counted before any goes in.
  sort_by_length: {
    lines: "M30 8 v38 M26 8 h8 M60 8 v26 M56 8 h8 M90 8 v16 M86 8 h8",
    now: "M24 50 h72",
    facts: ["tally"],
  },
  // What carries the part from here on, port by port.
  support: {
    lines: "M30 6 h60 v14 h-60 z M40 54 h40 M48 54 v-8 h24 v8",
    now: "M60 46 V22 m-6 7 l6 -8 l6 8",
    facts: ["carries", "ports"],
  },
  // A temperature is a value; nobody feels it.
  temperature_gate: {
    lines: "M54 8 a6 6 0 0 1 12 0 V36 a11 11 0 1 1 -12 0 Z M74 14 h10 M74 24 h10 M74 34 h10",
    now: "M60 20 V42",
    facts: ["at", "sensed", "at_most", "at_least", "max_age"],
  },
  temporary_off: SETTLING,
  temporary_on: OWING,
  // A pressure stage: peak, hold, nuts, lowest, feeler before release.
  tension: { facts: ["pressure", "hold", "nut_bar", "afterwards"] },
  // Thread standing above the nut, for the puller to hold by.
  thread_above_nut: {
    lines: "M40 50 h40 v-16 h-40 z M52 34 V8 h16 v26",
    now: "M92 8 V34 m-5 0 h10 m-10 -26 h10",
    facts: [],
  },
  // The dial between two webs, opposite the pin.
  deflection: {
    lines: "M44 8 v40 h-8 v-40 z M84 8 v40 h-8 v-40 z M44 14 h32 M44 22 h32",
    now: "M44 42 h10 m12 0 h10",
    circles: [[60, 42, 6]],
    facts: ["throw", "closes_within"],
  },
  // A dry fit, and what it proves.
  trial_fit: { facts: ["proves", "text"] },
  // The crank turned through: free, or a tight spot and where.
  turns_freely: {
    now: "M90 18 a32 32 0 1 1 -14 -14 m-8 -2 l9 2 l-2 9",
    circles: [
      [60, 30, 22],
      [60, 14, 5],
    ],
    facts: ["turns", "standard"],
  },
  // Two people: who does what, the call and the answer.
  two_person: {
    lines: "M20 52 a14 22 0 0 1 28 0 M72 52 a14 22 0 0 1 28 0",
    now: "M50 20 h20 m-5 -5 l6 5 l-6 5",
    circles: [
      [34, 16, 9],
      [86, 16, 9],
    ],
    facts: ["first", "second", "call", "answer"],
  },
  // Air out, until oil runs without bubbles.
  vent: {
    lines: "M20 44 H70 M70 44 v-16 h12",
    circles: [
      [90, 22, 3],
      [98, 14, 4],
      [104, 26, 2.5],
    ],
    facts: [],
  },
  // Time, temperature or hours that must pass.
  wait: {
    now: "M60 32 V18 M60 32 L70 38",
    circles: [[60, 32, 22]],
    facts: ["time", "running_hours", "cooled_to"],
  },
} as const satisfies Partial<Record<StepKind, Picture>>;

/** Kinds that the table above holds. */
export type PicturedKind = keyof typeof PICTURES;

/** Return the picture of a kind, if it has one that stays. */
export function pictureOf(kind: StepKind): Picture | undefined {
  return (PICTURES as Partial<Record<StepKind, Picture>>)[kind];
}
