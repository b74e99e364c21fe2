import type { Component } from "vue";
import type { StepKind } from "@/api/types";
import AttitudeCall from "./AttitudeCall.vue";
import BackOffCall from "./BackOffCall.vue";
import BladeCall from "./BladeCall.vue";
import CeilingCall from "./CeilingCall.vue";
import CheckCall from "./CheckCall.vue";
import ChooseCall from "./ChooseCall.vue";
import ConfirmCall from "./ConfirmCall.vue";
import CountCall from "./CountCall.vue";
import CrankCall from "./CrankCall.vue";
import DrawHomeCall from "./DrawHomeCall.vue";
import FitCall from "./FitCall.vue";
import FollowUpCall from "./FollowUpCall.vue";
import FreedCall from "./FreedCall.vue";
import FreelyCall from "./FreelyCall.vue";
import GateCall from "./GateCall.vue";
import InchCall from "./InchCall.vue";
import InspectCall from "./InspectCall.vue";
import IsolationCall from "./IsolationCall.vue";
import LadderCall from "./LadderCall.vue";
import LandCall from "./LandCall.vue";
import LengthCall from "./LengthCall.vue";
import LiftCall from "./LiftCall.vue";
import LockCall from "./LockCall.vue";
import LubricateCall from "./LubricateCall.vue";
import MatchedCall from "./MatchedCall.vue";
import NoReturnCall from "./NoReturnCall.vue";
import OutCall from "./OutCall.vue";
import OwingCall from "./OwingCall.vue";
import ParkCall from "./ParkCall.vue";
import PressureCall from "./PressureCall.vue";
import PullCall from "./PullCall.vue";
import RunDownCall from "./RunDownCall.vue";
import SealantCall from "./SealantCall.vue";
import SeatCall from "./SeatCall.vue";
import SenseCall from "./SenseCall.vue";
import SettlingCall from "./SettlingCall.vue";
import SignCall from "./SignCall.vue";
import SlackenCall from "./SlackenCall.vue";
import StaggerCall from "./StaggerCall.vue";
import SupportCall from "./SupportCall.vue";
import TemperatureCall from "./TemperatureCall.vue";
import ThreadCall from "./ThreadCall.vue";
import TogetherCall from "./TogetherCall.vue";
import ToolCall from "./ToolCall.vue";
import ToolOffCall from "./ToolOffCall.vue";
import TrialCall from "./TrialCall.vue";
import TurnCall from "./TurnCall.vue";
import VentCall from "./VentCall.vue";
import WaitCall from "./WaitCall.vue";
import ZeroCall from "./ZeroCall.vue";

/** Every kind of step has its own picture of a call; a kind without one does not compile. */
export const CALLS: Record<StepKind, Component> = {
  ancillary_off: OwingCall,
  ancillary_on: SettlingCall,
  angle: TurnCall,
  attitude: AttitudeCall,
  back_off: BackOffCall,
  ceiling: CeilingCall,
  check_trip: CheckCall,
  choose_part: ChooseCall,
  close_item: SettlingCall,
  confirm: ConfirmCall,
  crank_position: CrankCall,
  disturb: OwingCall,
  draw_home: DrawHomeCall,
  feeler: BladeCall,
  fit: FitCall,
  follow_up: FollowUpCall,
  full_release: FreedCall,
  gate: GateCall,
  hold_point: SignCall,
  inch: InchCall,
  inspect: InspectCall,
  land: LandCall,
  lift: LiftCall,
  lock: LockCall,
  loosen_angle: SlackenCall,
  loosen_pressure: LadderCall,
  lubricate: LubricateCall,
  make_safe: IsolationCall,
  matched_part: MatchedCall,
  no_return: NoReturnCall,
  nuts_off: OutCall,
  open_item: OwingCall,
  park: ParkCall,
  put_right: SettlingCall,
  relieve: ZeroCall,
  remove_tool: ToolOffCall,
  repeat: FreedCall,
  restore: IsolationCall,
  run_down: RunDownCall,
  sealant: SealantCall,
  seat_tool: SeatCall,
  sense: SenseCall,
  sort_by_length: CountCall,
  stagger: StaggerCall,
  stretch: LengthCall,
  stud_length: LengthCall,
  support: SupportCall,
  temperature_gate: TemperatureCall,
  temporary_off: SettlingCall,
  temporary_on: OwingCall,
  tension: PressureCall,
  thread_above_nut: ThreadCall,
  tool_issue: ToolCall,
  torque: PullCall,
  trial_fit: TrialCall,
  turns_freely: FreelyCall,
  two_person: TogetherCall,
  vent: VentCall,
  wait: WaitCall,
};
