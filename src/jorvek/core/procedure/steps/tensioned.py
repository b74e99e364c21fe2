"""Steps with hydraulic tensioners, and the lengths that prove them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Angle, Duration, Length, Pressure, Ratio, Torque
from jorvek.core.procedure.parts import Item, Part, PressureBand, Text
from jorvek.core.procedure.steps.base import RoundStep, StepBase
from jorvek.core.rights import Role


class SettingStandard(Part):
    """What a gauge that shows differences is set to, read before a set of lengths and after it.

    Attributes:
        shows: what the gauge shows on its bar, or at zero.
        within: how far off it may be; more after the set, and the gauge has moved among the lengths.
    """

    shows: Length
    within: Length


class StudLengthStep(RoundStep):
    """Length and metal temperature of each stud while it carries nothing.

    Attributes:
        instrument: role of the length gauge.
        setting_bar: what that gauge is set to, before and after.
        thermometer: role of the thermometer.
        one_temperature: studs, gauge and bar have lain together for hours: one temperature is taken for all.
        growth_limit: how much longer than new the free stud may be.
    """

    kind: Literal["stud_length"]
    instrument: Slug
    setting_bar: SettingStandard | None = None
    one_temperature: bool = False
    thermometer: Slug
    growth_limit: Length


class ThreadAboveStep(RoundStep):
    """Thread standing above each nut, for the puller.

    Attributes:
        instrument: role of the instrument.
        at_least: what the tool's sheet asks for.
    """

    kind: Literal["thread_above_nut"]
    instrument: Slug
    at_least: Length


class SeatToolStep(RoundStep):
    """Tools seated on the studs. The direction of the job decides about backing off.

    Attributes:
        direction: ``tighten``: pistons pressed home, tools not backed off. ``loosen``: pistons
            pressed home, then each tool backed off, so that the stud can shorten.
        tools: role of the tensioners.
        back_off: turns each tool is backed off, for loosening only.
    """

    kind: Literal["seat_tool"]
    direction: Literal["tighten", "loosen"]
    tools: Slug
    back_off: Angle | None = None


class CeilingStep(StepBase):
    """The highest pressure, set on the pump and proved on a shut line.

    Attributes:
        ceiling: never to be passed.
        gauge: role of the gauge.
        within: how far below the ceiling the pump may be set.
        tools: role of the tensioners it holds for; all, when none is named.
    """

    kind: Literal["ceiling"]
    ceiling: Pressure
    gauge: Slug
    within: Ratio
    tools: Slug | None = None


class VentStep(StepBase):
    """Air let out until oil runs without bubbles."""

    kind: Literal["vent"]
    points: tuple[Item, ...] = Field(min_length=1)


class Feeler(Part):
    """Proof at pressure that the nut seats: the blade must not enter."""

    blade: Length
    at: Text


class TensionStep(RoundStep):
    """One pressure stage: raise, hold, run every nut down, prove, before anything is released.

    All fasteners of the order are pulled at once; fewer tools than studs means one step a group.

    Attributes:
        pressure: stage pressure on the corrected oil gauge.
        band: tolerance to each side, or two limits.
        hold: time at pressure before the nuts are touched.
        gauge: role of the oil gauge.
        tools: role of the tensioners.
        nut_bar: effort on the nut bar for the run-down.
        feeler: proof before release; None when the stage goes straight on to a higher one.
        afterwards: ``raise`` to the next stage or ``release``.
    """

    kind: Literal["tension"]
    pressure: Pressure
    band: PressureBand
    hold: Duration
    gauge: Slug
    tools: Slug
    nut_bar: Torque
    feeler: Feeler | None = None
    afterwards: Literal["raise", "release"]


class RelieveStep(StepBase):
    """Pressure let off, and zero proved on the gauge.

    Attributes:
        gauge: role of the oil gauge.
        zero_below: highest reading that counts as zero.
        nuts_free: order of nuts that are tried again without pressure and must be free.
    """

    kind: Literal["relieve"]
    gauge: Slug
    zero_below: Pressure
    nuts_free: Slug | None = None


class RemoveToolStep(RoundStep):
    """Tools taken off the studs."""

    kind: Literal["remove_tool"]


class StretchStep(RoundStep):
    """Length and metal temperature again; the difference is the stretch.

    Attributes:
        before: the ``stud_length`` step that holds the first readings.
        instrument: role of the length gauge.
        setting_bar: what that gauge is set to, before and after: whenever it is taken up again.
        thermometer: role of the thermometer.
        one_temperature: studs, gauge and bar have lain together for hours: one temperature is taken for all.
        temperature_age: how old the temperature of a stud may be.
        datum: what the length is measured between: the two ends, the upper end and the joint's
            face, or at the tool while it pulls. The same load gives three different figures.
        target: stretch aimed for.
        lower: smallest stretch allowed.
        upper: largest stretch allowed.
        spread_at_most: largest difference among the fasteners.
        joint_at: where the joint's own temperature is taken, once, where the difference matters: a stud that is warmer
            than its joint holds less until they are alike.
    """

    kind: Literal["stretch"]
    before: Slug
    instrument: Slug
    setting_bar: SettingStandard | None = None
    one_temperature: bool = False
    thermometer: Slug
    temperature_age: Duration | None = None
    datum: Literal["end_to_end", "end_to_face", "at_tool_under_pressure"]
    target: Length
    lower: Length
    upper: Length
    spread_at_most: Length
    joint_at: Text | None = None


class WillNotMove(Part):
    """What is done about a nut that does not move at the expected pressure.

    Attributes:
        blade: feeler tried under the nut.
        gap: what a gap means, and what to do.
        no_gap: what no gap means, and what to do.
        authority: lowest role that decides on going on.
    """

    blade: Length
    gap: Text
    no_gap: Text
    authority: Literal[Role.LEAD_HAND, Role.CHIEF]


class LoosenPressureStep(RoundStep):
    """Pressure raised slowly; for each nut the pressure at which it came free.

    Attributes:
        expected: where healthy nuts come free; None where the pressure is raised slowly until they move.
        step: how far the pressure rises between tries.
        gauge: role of the oil gauge.
        tools: role of the tensioners.
        turn_back: how far each freed nut is turned back.
        room: room above the nut inside the tool.
        check_at: low pressure at which all nuts must stay free; None where it is not done.
        will_not_move: what to do about one that stays tight.
    """

    kind: Literal["loosen_pressure"]
    expected: Pressure | None = None
    step: Pressure
    gauge: Slug
    tools: Slug
    turn_back: Angle
    room: Length
    check_at: Pressure | None = None
    will_not_move: WillNotMove


class FeelerStep(RoundStep):
    """A blade tried at each fastener outside a pressure stage."""

    kind: Literal["feeler"]
    blade: Length
    at: Text
    enters: bool = False
