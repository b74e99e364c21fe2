import type { Component } from "vue";
import type { StepKind } from "@/api/types";
import type { PicturedKind } from "@/bench/calls/pictures";
import CheckCall from "@/bench/calls/CheckCall.vue";
import CrankCall from "@/bench/calls/CrankCall.vue";
import GateCall from "@/bench/calls/GateCall.vue";
import LadderCall from "@/bench/calls/LadderCall.vue";
import LengthCall from "@/bench/calls/LengthCall.vue";
import PictureCall from "@/bench/calls/PictureCall.vue";
import PullCall from "@/bench/calls/PullCall.vue";
import SeatCall from "@/bench/calls/SeatCall.vue";
import SenseCall from "@/bench/calls/SenseCall.vue";
import StaggerCall from "@/bench/calls/StaggerCall.vue";
import TurnCall from "@/bench/calls/TurnCall.vue";

/** Kinds whose picture follows the work; null where the words are all there is. A kind that is nowhere does not compile. */
const DRAWN: Record<Exclude<StepKind, PicturedKind>, Component | null> = {
  angle: TurnCall,
  check_trip: CheckCall,
  confirm: null,
  crank_position: CrankCall,
  gate: GateCall,
  hold_point: null,
  loosen_pressure: LadderCall,
  new_fasteners: null,
  seat_tool: SeatCall,
  settling_pass: PullCall,
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
