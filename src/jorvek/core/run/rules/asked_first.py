"""A reading that is possible but unlikely is asked about once, before it is stored; looked at again, it stands.

Source of the limits: model; practice asks to read again what no healthy joint of this kind shows.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median, stdev
from typing import Final, Literal

from jorvek.core.figures import figure
from jorvek.core.procedure.steps import AngleStep, LoosenPressureStep, StretchStep
from jorvek.core.refusal import Refusal, RefusalCode
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.lengths import length_at_rest
from jorvek.core.run.rules.slips import meant
from jorvek.core.run.rules.torque_angle_verdict import expected_movement_deg
from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert, symbol

ASKED: Final = "asked_and_stands"
"""Reason on a reading that was asked about, looked at again, and given once more."""
SLACKENED: Final = "slackened_first"
"""Reason on the first pull of a fastener that had been turned by angle, once somebody says that it was slackened."""
_FELLOWS_K: Final = 3.0
_BEFORE_K: Final = 10.0
_HALL_C: Final = (5.0, 45.0)
"""Where nothing else was read yet: metal that has stood in an engine room."""
_SPREADS: Final = 6.0
_LEAST_SPREAD: Final = 0.02
"""Scatter that healthy stretches of one joint are granted at least, as a share."""
_GROWN_APART_MM: Final = 0.05
"""Scatter that free lengths of one joint are granted at least."""
_FACTOR: Final = 4.0
"""Sizes of one set never lie further apart than by this factor without somebody looking again."""
_TURNED: Final = 1.5
_MOVED: Final = 2.5
_MOVED_MORE_DEG: Final = 30.0
_SLIP_DEG: Final = 180.0


Question = Literal[
    "angle_asked",
    "growth_asked",
    "length_asked",
    "movement_asked",
    "rung_asked",
    "size_asked",
    "slack_asked",
    "temperature_asked",
]
OFFERED: Final[dict[Question, RefusalCode]] = {
    "growth_asked": "growth_asked_meant",
    "length_asked": "length_asked_meant",
    "rung_asked": "rung_asked_meant",
    "size_asked": "size_asked_meant",
    "temperature_asked": "temperature_asked_meant",
}
"""The same question where one slip of the hand explains the figure."""


@dataclass(frozen=True)
class Expected:
    """What a healthy joint would show.

    Attributes:
        low: least that is taken without a question, in the glossary unit.
        high: most.
        about: what is usual.
        code: how the question is put.
        of: what the figure is turned into before it is held against that: added to the reading.
    """

    low: float
    high: float
    about: float
    code: Question
    of: float = 0.0


def as_sure(answer: ev.Answer) -> ev.Answer:
    """Return an answer as one that was looked at again, and stands."""
    if isinstance(answer, ev.ValueAnswer | ev.PullAnswer | ev.TurnAnswer):
        return answer.model_copy(update={"sure": True})
    return answer


def question(state: RunState, cell: Cell, answer: ev.Answer, judgement: ev.Judgement) -> Refusal | None:
    """Return the question to ask about a reading before it is stored; None where it is as expected.

    Args:
        state: the run as it stands.
        cell: the open cell.
        answer: what was given.
        judgement: what would be stored with it.
    """
    if isinstance(answer, ev.PullAnswer) and cell.fastener is not None and still_turned(state, cell.fastener):
        return Refusal("slack_asked", name=cell.fastener)
    match answer:
        case ev.ValueAnswer():
            read = judgement.corrected
        case ev.PullAnswer() | ev.TurnAnswer():
            read = judgement.value
        case _:
            return None
    if read is None or (cell.quantity is None and isinstance(answer, ev.ValueAnswer)):
        return None
    for one in _expected(state, cell, answer):
        value = read + one.of
        if not one.low <= value <= one.high:
            return _asked(cell, answer, one, value, value - (judgement.value or 0.0))
    return None


def reason_for(asked: Refusal) -> str:
    """Return the reason that a reading carries after a question was answered."""
    return SLACKENED if asked.code == "slack_asked" else ASKED


def still_turned(state: RunState, fastener: str) -> bool:
    """Tell whether a fastener was turned by an angle that does not count any more, and nobody has slackened it since.

    Source: mechanics. It holds more than the torque before the angle: a wrench at that torque clicks at once, and an
    angle from there would come on top of the first one.
    """
    tries = [a for c in state.definition.cells_of.get(fastener, ()) for a in state.tries(c.key)]
    by_key = state.definition.by_key
    turns = [a for a in tries if by_key[a.cell].ask is InputType.TURN and not a.left_out]
    last = max(turns, key=lambda a: a.seq, default=None)
    if last is None or last.live:
        return False
    if any(a.rejected is not None and a.rejected.seq > last.seq for a in tries):
        return False
    since = (a for a in tries if a.seq > last.seq and not a.left_out)
    return not any(by_key[a.cell].traits.load == "takes" or isinstance(a.answer, ev.PullAnswer) for a in since)


def _asked(cell: Cell, answer: ev.Answer, one: Expected, value: float, shift: float) -> Refusal:
    """Put the question in the unit that was typed; what was probably meant is offered beside what was typed."""
    quantity = cell.quantity or Quantity.ANGLE
    assert isinstance(answer, ev.ValueAnswer | ev.PullAnswer | ev.TurnAnswer)
    unit = answer.unit
    typed = answer.text if isinstance(answer, ev.ValueAnswer) else _angle_text(answer)
    told = {
        "got": typed,
        "unit": symbol(unit),
        "means": figure(value, quantity, _shown_in(unit)).text,
        "about": figure(one.about, quantity, _shown_in(unit)).text,
    }
    if not isinstance(answer, ev.ValueAnswer) or one.code not in OFFERED:
        return Refusal(one.code, **told)
    low, high = (convert(x - shift, quantity, GLOSSARY_UNIT[quantity], unit) for x in (one.low, one.high))
    offered = meant(answer.text, min(low, high), max(low, high))
    return Refusal(one.code, **told) if offered is None else Refusal(OFFERED[one.code], **told, meant=offered)


def _shown_in(unit: str) -> str:
    return "deg" if unit == "flats" else unit


def _angle_text(answer: ev.PullAnswer | ev.TurnAnswer) -> str:
    return " + ".join(answer.bites) if isinstance(answer, ev.TurnAnswer) else answer.moved or ""


def _expected(state: RunState, cell: Cell, answer: ev.Answer) -> Iterator[Expected]:
    """Yield everything that a reading is held against, the surest first."""
    if isinstance(answer, ev.TurnAnswer):
        yield from _turned(state, cell)
    elif isinstance(answer, ev.PullAnswer):
        yield from _moved(state, cell)
    elif cell.quantity is Quantity.TEMPERATURE:
        yield from _temperature(state, cell)
    elif cell.rule in (Rule.GROWTH, Rule.STRETCH):
        yield from _length(state, cell)
    elif cell.rule is Rule.RELEASE:
        yield from _rung(state, cell)
    elif cell.quantity is Quantity.LENGTH and cell.plausible is not None and cell.plausible[0] >= 0.0:
        yield from _size(state, cell)


# ---- temperatures ------------------------------------------------------------------------------------------------


def _temperature(state: RunState, cell: Cell) -> Iterator[Expected]:
    """A joint that has stood is of one temperature; nothing says so of a gate that asks whether it has cooled."""
    if cell.lower is not None or cell.upper is not None:
        return
    fellows = _fellows(state, cell)
    earlier = [] if fellows else _earlier_temperatures(state, cell)
    if fellows or earlier:
        about, by = median(fellows or earlier), _FELLOWS_K if fellows else _BEFORE_K
        yield Expected(about - by, about + by, about, "temperature_asked")
    else:
        yield Expected(*_HALL_C, 20.0, "temperature_asked")


def _earlier_temperatures(state: RunState, cell: Cell) -> list[float]:
    metal = [c for c in state.definition.cells if c.quantity is Quantity.TEMPERATURE and c.kind == cell.kind]
    wider = [c for c in state.definition.cells if c.quantity is Quantity.TEMPERATURE and c.upper is None]
    return _read_in(state, metal, cell) or _read_in(state, wider, cell)


def _fellows(state: RunState, cell: Cell) -> list[float]:
    """Return what was read of the same thing in the same step, on other fasteners or places of this joint."""
    mine = [c for c in state.definition.by_step[cell.step] if c.quantity is cell.quantity and _alike(c, cell)]
    return _read_in(state, mine, cell)


def _alike(one: Cell, other: Cell) -> bool:
    return one.item_word == other.item_word or Quantity.TEMPERATURE is one.quantity is other.quantity


def _read_in(state: RunState, cells: list[Cell], but: Cell) -> list[float]:
    live = (state.live(c.key) for c in cells if c.key != but.key)
    return [a.judgement.corrected for a in live if a is not None and a.judgement.corrected is not None]


# ---- lengths and sizes -------------------------------------------------------------------------------------------


def _length(state: RunState, cell: Cell) -> Iterator[Expected]:
    """A length by the stretch or growth that it means: not below zero, not beyond yield, not far from its fellows."""
    rest = length_at_rest(state, cell)
    if rest is None or cell.fastener is None:
        return
    zero = -rest
    tool = state.tool(cell.tool_role)
    doubt = 3.0 * (tool.expanded_uncertainty() if tool is not None else 0.0)
    if cell.rule is Rule.STRETCH:
        step = state.definition.steps_by_id[cell.step_id]
        assert isinstance(step, StretchStep)
        model = state.definition.model_of(cell.fastener)
        yields_at = model.yield_N() * model.datum_resilience(step.datum)
        usual = cell.target if cell.target is not None else yields_at / 2.0
        yield Expected(-doubt, yields_at, usual, "length_asked", zero)
        least = _LEAST_SPREAD * usual
    else:
        limit = cell.upper or 0.0
        yield Expected(-doubt - _GROWN_APART_MM, 1.5 * limit, 0.0, "growth_asked", zero)
        least = _GROWN_APART_MM
    code: Question = "length_asked" if cell.rule is Rule.STRETCH else "growth_asked"
    fellows = _judged_fellows(state, cell)
    if len(fellows) >= 3:
        about, spread = median(fellows), max(stdev(fellows), least, doubt / 3.0)
        yield Expected(about - _SPREADS * spread, about + _SPREADS * spread, about, code, zero)


def _judged_fellows(state: RunState, cell: Cell) -> list[float]:
    group = state.definition.groups
    mine = [
        c
        for c in state.definition.by_step[cell.step]
        if c.rule is cell.rule and c.key != cell.key and c.fastener and group[c.fastener] is group[cell.fastener or ""]
    ]
    live = (state.live(c.key) for c in mine)
    return [a.judgement.judged for a in live if a is not None and a.judgement.judged is not None]


def _size(state: RunState, cell: Cell) -> Iterator[Expected]:
    """Sizes of one set: threads above nuts, blades, clearances."""
    fellows = _fellows(state, cell)
    if len(fellows) >= 2 and median(fellows) > 0.0:
        about = median(fellows)
        yield Expected(about / _FACTOR, about * _FACTOR, about, "size_asked")


# ---- pressures and angles ----------------------------------------------------------------------------------------


def _rung(state: RunState, cell: Cell) -> Iterator[Expected]:
    """A nut comes free at the pressure that stands on the ladder, not at another."""
    tried = tries(state, cell.step)
    step = state.definition.steps_by_id[cell.step_id]
    if tried and isinstance(step, LoosenPressureStep):
        stands, by = tried[-1].true_bar, step.step.value
        yield Expected(stands - by, stands + by, stands, "rung_asked")


def _turned(state: RunState, cell: Cell) -> Iterator[Expected]:
    step = state.definition.steps_by_id[cell.step_id]
    if isinstance(step, AngleStep) and cell.target:
        yield Expected(0.0, _TURNED * cell.target, cell.target, "angle_asked")


def _moved(state: RunState, cell: Cell) -> Iterator[Expected]:
    if cell.rule is Rule.STAYED and cell.upper is not None:
        yield Expected(0.0, cell.upper + _MOVED_MORE_DEG, cell.upper, "movement_asked")
    usual = expected_movement_deg(state, cell) if cell.rule is Rule.MOVED else None
    if usual is not None:
        yield Expected(0.0, max(_MOVED * usual, usual + _MOVED_MORE_DEG), usual, "movement_asked")


def demand_no_slip(state: RunState, cell: Cell, judgement: ev.Judgement) -> None:
    """Refuse an angle that nobody turns by accident: half a turn more than was to be turned is a slip of the pen.

    Raises:
        Refusal: ``angle_slip``.
    """
    usual = cell.target if cell.rule is Rule.ANGLE else None
    if cell.rule is Rule.MOVED:
        usual = expected_movement_deg(state, cell)
    if usual is not None and judgement.value is not None and judgement.value > usual + _SLIP_DEG:
        most = round(usual + _SLIP_DEG)
        raise Refusal("angle_slip", got=f"{judgement.value:g}", about=f"{usual:.0f}", high=most)
