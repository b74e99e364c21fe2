"""The kinds of step that a procedure may hold."""

from __future__ import annotations

from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from jorvek.core.procedure.parts import Item, Part, Source, Text
from jorvek.core.procedure.steps.base import (
    ItemStep,
    RoundStep,
    StepBase,
)
from jorvek.core.procedure.steps.closing import (
    FollowUpStep,
    HoldPointStep,
    LockStep,
    NoReturnStep,
    WaitStep,
)
from jorvek.core.procedure.steps.debts import (
    AncillaryOffStep,
    AncillaryOnStep,
    CloseItemStep,
    DisturbStep,
    OpenItemStep,
    Owing,
    PutRightStep,
    Settling,
    TemporaryOffStep,
    TemporaryOnStep,
)
from jorvek.core.procedure.steps.fitting import (
    DrawHomeStep,
    FitStep,
    FrictionTest,
    InspectStep,
    LandStep,
    LiftStep,
    LubricateStep,
    MatchedPartStep,
    NewFastenersStep,
    ParkStep,
    SealantStep,
    SenseStep,
    SortByLengthStep,
    StaggerStep,
    SupportStep,
    TrialFitStep,
    TwoPersonStep,
)
from jorvek.core.procedure.steps.measuring import (
    ChoosePartStep,
    DeflectionStep,
    GateStep,
    TurnsFreelyStep,
)
from jorvek.core.procedure.steps.safety import (
    AttitudeStep,
    ConfirmStep,
    CrankPositionStep,
    InchStep,
    MakeSafeStep,
    RestoreStep,
    TemperatureGateStep,
    ToolIssueStep,
    WantedTool,
)
from jorvek.core.procedure.steps.tensioned import (
    CeilingStep,
    FeelerStep,
    LoosenPressureStep,
    RelieveStep,
    RemoveToolStep,
    SeatToolStep,
    SettingStandard,
    StretchStep,
    StudLengthStep,
    TensionStep,
    ThreadAboveStep,
    VentStep,
)
from jorvek.core.procedure.steps.turned import (
    AngleStep,
    BackOffStep,
    CheckTripStep,
    EndTorque,
    EqualStage,
    FullReleaseStep,
    LoosenAngleStep,
    NutsOffStep,
    RepeatStep,
    RunDownStep,
    SettlingPassStep,
    TorqueStep,
)

Step: TypeAlias = Annotated[
    FollowUpStep
    | HoldPointStep
    | LockStep
    | NoReturnStep
    | WaitStep
    | AncillaryOffStep
    | AncillaryOnStep
    | CloseItemStep
    | DisturbStep
    | OpenItemStep
    | PutRightStep
    | TemporaryOffStep
    | TemporaryOnStep
    | DrawHomeStep
    | FitStep
    | InspectStep
    | LandStep
    | LiftStep
    | LubricateStep
    | MatchedPartStep
    | NewFastenersStep
    | ParkStep
    | SealantStep
    | SenseStep
    | SortByLengthStep
    | StaggerStep
    | SupportStep
    | TrialFitStep
    | TwoPersonStep
    | ChoosePartStep
    | DeflectionStep
    | GateStep
    | TurnsFreelyStep
    | AttitudeStep
    | ConfirmStep
    | CrankPositionStep
    | InchStep
    | MakeSafeStep
    | RestoreStep
    | TemperatureGateStep
    | ToolIssueStep
    | CeilingStep
    | FeelerStep
    | LoosenPressureStep
    | RelieveStep
    | RemoveToolStep
    | SeatToolStep
    | StretchStep
    | StudLengthStep
    | TensionStep
    | ThreadAboveStep
    | VentStep
    | AngleStep
    | BackOffStep
    | CheckTripStep
    | FullReleaseStep
    | LoosenAngleStep
    | NutsOffStep
    | RepeatStep
    | RunDownStep
    | SettlingPassStep
    | TorqueStep,
    Field(discriminator="kind"),
]

StepKind: TypeAlias = Literal[
    "ancillary_off",
    "ancillary_on",
    "angle",
    "attitude",
    "back_off",
    "ceiling",
    "check_trip",
    "choose_part",
    "close_item",
    "confirm",
    "crank_position",
    "deflection",
    "disturb",
    "draw_home",
    "feeler",
    "fit",
    "follow_up",
    "full_release",
    "gate",
    "hold_point",
    "inch",
    "inspect",
    "land",
    "lift",
    "lock",
    "loosen_angle",
    "loosen_pressure",
    "lubricate",
    "make_safe",
    "matched_part",
    "new_fasteners",
    "no_return",
    "nuts_off",
    "open_item",
    "park",
    "put_right",
    "relieve",
    "remove_tool",
    "repeat",
    "restore",
    "run_down",
    "sealant",
    "seat_tool",
    "sense",
    "settling_pass",
    "sort_by_length",
    "stagger",
    "stretch",
    "stud_length",
    "support",
    "temperature_gate",
    "temporary_off",
    "temporary_on",
    "tension",
    "thread_above_nut",
    "tool_issue",
    "torque",
    "trial_fit",
    "turns_freely",
    "two_person",
    "vent",
    "wait",
]
"""Names of all kinds of step."""

__all__ = [
    "AncillaryOffStep",
    "AncillaryOnStep",
    "AngleStep",
    "AttitudeStep",
    "BackOffStep",
    "CeilingStep",
    "CheckTripStep",
    "ChoosePartStep",
    "CloseItemStep",
    "ConfirmStep",
    "CrankPositionStep",
    "DeflectionStep",
    "DisturbStep",
    "DrawHomeStep",
    "EndTorque",
    "EqualStage",
    "FeelerStep",
    "FitStep",
    "FollowUpStep",
    "FrictionTest",
    "FullReleaseStep",
    "GateStep",
    "HoldPointStep",
    "InchStep",
    "InspectStep",
    "Item",
    "ItemStep",
    "LandStep",
    "LiftStep",
    "LockStep",
    "LoosenAngleStep",
    "LoosenPressureStep",
    "LubricateStep",
    "MakeSafeStep",
    "MatchedPartStep",
    "NewFastenersStep",
    "NoReturnStep",
    "NutsOffStep",
    "OpenItemStep",
    "Owing",
    "ParkStep",
    "Part",
    "PutRightStep",
    "RelieveStep",
    "RemoveToolStep",
    "RepeatStep",
    "RestoreStep",
    "RoundStep",
    "RunDownStep",
    "SealantStep",
    "SeatToolStep",
    "SenseStep",
    "SettingStandard",
    "Settling",
    "SettlingPassStep",
    "SortByLengthStep",
    "Source",
    "StaggerStep",
    "Step",
    "StepBase",
    "StepKind",
    "StretchStep",
    "StudLengthStep",
    "SupportStep",
    "TemperatureGateStep",
    "TemporaryOffStep",
    "TemporaryOnStep",
    "TensionStep",
    "Text",
    "ThreadAboveStep",
    "ToolIssueStep",
    "TorqueStep",
    "TrialFitStep",
    "TurnsFreelyStep",
    "TwoPersonStep",
    "VentStep",
    "WaitStep",
    "WantedTool",
]
