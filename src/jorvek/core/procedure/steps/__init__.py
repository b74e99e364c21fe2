"""The kinds of step that a procedure may hold."""

from __future__ import annotations

from typing import Annotated, TypeAlias

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
    SETTLED_BY,
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
    InspectStep,
    LandStep,
    LiftStep,
    LubricateStep,
    MatchedPartStep,
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
    FullReleaseStep,
    LoosenAngleStep,
    NutsOffStep,
    RepeatStep,
    RunDownStep,
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
    | ParkStep
    | SealantStep
    | SenseStep
    | SortByLengthStep
    | StaggerStep
    | SupportStep
    | TrialFitStep
    | TwoPersonStep
    | ChoosePartStep
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
    | TorqueStep,
    Field(discriminator="kind"),
]

__all__ = [
    "SETTLED_BY",
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
    "DisturbStep",
    "DrawHomeStep",
    "FeelerStep",
    "FitStep",
    "FollowUpStep",
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
    "Settling",
    "SortByLengthStep",
    "Source",
    "StaggerStep",
    "Step",
    "StepBase",
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
