import type { components } from "./schema";

type S = components["schemas"];

export type Berth = S["Berth"];
export type BenchAnswer = S["BenchAnswer"];
export type BenchView = S["BenchView"];
export type Call = S["Call"];
export type Command = S["CommandEnvelope"]["command"];
export type Answer = Extract<Command, { kind: "record" }>["answer"];
export type EngineStrip = S["EngineStrip"];
export type Figure = S["Figure"];
export type Head = S["Head"];
export type JointCell = S["JointCell"];
export type Me = S["Me"];
export type OpenQuestion = S["OpenQuestion"];
export type Owed = S["Owed"];
export type PersonListed = S["PersonListed"];
export type Plan = S["Plan"];
export type Problem = S["Problem"];
export type Reason = S["Reason"];
export type RibbonCell = S["RibbonCell"];
export type RibbonRow = S["RibbonRow"];
export type Row = S["Row"];
export type RunListed = S["RunListed"];
export type RunRecord = S["RunRecord"];
export type ToolListed = S["ToolListed"];
export type AskedField = S["Field"];
export type QuestionListed = S["QuestionListed"];
export type Reckoned = S["Reckoned"];
export type ShownFigure = S["Shown"];
export type StudPreset = S["Preset"];
export type WhyLine = S["WhyLine"];
export type QuestionName =
  "pressure" | "torque" | "angle" | "extension" | "stretch" | "back_off" | "units" | "strip";
