import type { Component } from "vue";
import type { StepKind } from "@/api/types";
import type { PicturedKind } from "./pictures";
import CheckCall from "./CheckCall.vue";
import CrankCall from "./CrankCall.vue";
import GateCall from "./GateCall.vue";
import LadderCall from "./LadderCall.vue";
import LengthCall from "./LengthCall.vue";
import PictureCall from "./PictureCall.vue";
import PullCall from "./PullCall.vue";
import SeatCall from "./SeatCall.vue";
import SenseCall from "./SenseCall.vue";
import StaggerCall from "./StaggerCall.vue";
import TurnCall from "./TurnCall.vue";

/** Kinds whose picture follows the work; null where the words are all there is. A kind that is nowhere does not compile. */
const DRAWN: Record<Exclude<StepKind, PicturedKind>, Component | null> = {
  angle: TurnCall,
  check_trip: CheckCall,
  confirm: null,
  crank_position: CrankCall,
  gate: GateCall,
  hold_point: null,
  loosen_pressure: LadderCall,
  seat_tool: SeatCall,
  sense: SenseCall,
  stagger: StaggerCall,
  stretch: LengthCall,
  stud_length: LengthCall,
  tool_issue: null,
  torque: PullCall,
};

/** Return what is drawn between the words of a call and its keys. */
export function drawingOf(kind: StepKind): Component | null {
  return kind in DRAWN ? DRAWN[kind as keyof typeof DRAWN] : PictureCall;
}
