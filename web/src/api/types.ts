import type { components } from "@/api/schema";

type S = components["schemas"];

export type Berth = S["Berth"];
/** The Bench as the server sends it: whole, or as what has changed. */
export type BenchSent = S["BenchAnswer"];
export type Change = S["Change"];
/** The Bench as the screen knows it. */
export type BenchAnswer = Pick<BenchSent, "now" | "ahead"> & { view: BenchView };
export type BenchView = S["BenchView"];
export type Call = S["Call"];
export type StepKind = Call["kind"];
export type Command = S["CommandEnvelope"]["command"];
export type Late = NonNullable<S["CommandEnvelope"]["late"]>;
export type Ahead = S["Ahead"];
export type AgeView = S["AgeView"];
export type Answer = Extract<Command, { kind: "record" }>["answer"];
export type EngineStrip = S["EngineStrip"];
export type EngineGates = S["EngineGates"];
export type Gates = S["Gates"];
export type EngineNamed = S["EngineNamed"];
export type Strips = S["Strips"];
export type RunsListed = S["RunsListed"];
export type GateSheet = S["GateSheet"];
export type StripSheet = S["StripSheet"];
export type Figure = S["Figure"];
export type HandOver = S["HandOver"];
export type Head = S["Head"];
export type JointCell = S["JointCell"];
export type Me = S["Me"];
export type OpenQuestion = S["OpenQuestion"];
export type Owed = S["Owed"];
export type PersonListed = S["PersonListed"];
export type PaperLine = S["PaperLine"];
export type WorkSheet = S["WorkSheet"];
export type PartSeen = S["PartSeen"];
export type PartView = S["PartView"];
export type Plan = S["Plan"];
export type Measuring = S["Measuring"];
export type Problem = S["Problem"];
export type Reason = S["Reason"];
export type RibbonCell = S["RibbonCell"];
export type RibbonRow = S["RibbonRow"];
export type Row = S["Row"];
export type RunListed = S["RunListed"];
export type RunRecord = S["RunRecord"];
export type SisterView = S["SisterView"];
export type StuckView = S["StuckView"];
export type MovementSheet = S["MovementSheet"];
export type StopCause = S["StopNow"]["cause"];
export type FoundView = S["FoundView"];
export type MovedAsExpected = S["MovedAsExpected"];
export type PhotoView = S["PhotoView"];
export type ClaimView = S["ClaimView"];
export type TroubleView = S["TroubleView"];
export type MyRun = S["MyRun"];
export type Waiting = S["Waiting"];
export type ToolNow = S["ToolNow"];
export type ToolForCall = S["ToolForCall"];
export type Right = S["Act"];
export type Hit = S["Hit"];
export type Wordings = Record<string, Record<string, string>>;
export type ProposalRead = S["ProposalRead"];
export type Touched = S["Touched"];
export type EnginePage = S["EnginePage"];
export type BackStep = S["BackStep"];
export type CloseOut = S["CloseOut"];
export type EngineView = S["EngineView"];
export type EngineGlance = S["EngineGlance"];
export type JointStands = S["JointStands"];
export type Offer = S["Offer"];
export type Barrier = S["Barrier"];
export type CrankView = S["CrankView"];
export type Sweep = S["Sweep"];
export type PlanShown = S["PlanShown"];
export type PlanAsked = S["PlanAsked"];
export type PlannedWork = S["PlannedWork"];
export type PlanInForce = S["PlanProgress"];
export type ForMe = S["ForMe"];
export type PointNow = S["PointNow"];
export type Seal = S["Seal"];
export type EngineEntry = S["LogLine"];
export type InsideNow = S["InsideNow"];
export type OverhaulCommand = S["OverhaulEnvelope"]["command"];
export type Condition = JointStands["ladder"][number];
export type AskedField = S["Field"];
export type QuestionListed = S["QuestionListed"];
export type Reckoned = S["Reckoned"];
export type ShownFigure = S["Shown"];
export type StudPreset = S["Preset"];
export type WhyLine = S["WhyLine"];
export type QuestionName =
  | "pressure"
  | "torque"
  | "angle"
  | "extension"
  | "stretch"
  | "back_off"
  | "units"
  | "strip"
  | "friction"
  | "working"
  | "hold";
export type Difference = S["Difference"];
export type FoundFinding = S["FoundFinding"];
export type ProcedureListed = S["ProcedureListed"];
export type ProcedureRead = S["ProcedureRead"];
export type Staircase = S["Staircase"];
export type StepRead = S["StepRead"];
