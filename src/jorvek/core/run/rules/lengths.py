"""The verdict on lengths: how much a stud has grown, how far it stretched, how far stretches lie apart."""

from __future__ import annotations

import math

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.procedure.clamp import stretch_between
from jorvek.core.procedure.steps import StretchStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.blocked_reason import blocked_reason
from jorvek.core.run.rules.choices import used_up
from jorvek.core.run.rules.guard_band_verdict import APART, corrected_of, guarded, reason_of
from jorvek.core.run.rules.studs import AT_C, first_length


def expected_length(state: RunState, cell: Cell) -> tuple[float | None, float | None, float | None]:
    """Return (target, lower, upper) of a length call in mm, from the readings it rests on.

    None where a reading is still missing or there is no such limit.
    """
    base = length_at_rest(state, cell)
    if base is None:
        return None, None, None
    if cell.rule is Rule.GROWTH:
        return base, None, base + (cell.upper or 0.0)
    target, lower, upper = (None if x is None else base + x for x in (cell.target, cell.lower, cell.upper))
    return target, lower, upper


def length_at_rest(state: RunState, cell: Cell) -> float | None:
    """Return the length in mm at which a stud would show no growth, or no stretch, at the temperature it has now.

    None where a reading that this rests on is still missing.
    """
    if any(state.live(key) is None for key in cell.uses):
        return None
    now_C = corrected_of(state, cell.uses[0])
    if cell.rule is Rule.GROWTH:
        return _new_length(state, cell, now_C)
    first_C, first_mm = corrected_of(state, cell.uses[1]), corrected_of(state, cell.uses[2])
    return first_mm * (1.0 + STEEL_EXPANSION_PER_K * (now_C - first_C))


def _new_length(state: RunState, cell: Cell, temperature_C: float) -> float:
    """Return the length that growth counts from: the stud's own first one, the document's for a new stud."""
    assert cell.fastener is not None
    own = first_length(state, cell.fastener)
    new = state.definition.groups[cell.fastener].free_length.value if own is None else own
    return new * (1.0 + STEEL_EXPANSION_PER_K * (temperature_C - AT_C))


def judge_growth(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    """Judge a free length by how much the stud has grown since it was new, or since it was first measured."""
    assert cell.fastener is not None
    grown = (base.corrected or 0.0) - _new_length(state, cell, corrected_of(state, cell.uses[0]))
    judgement = guarded(cell, base, grown, None, cell.upper, None)
    own = first_length(state, cell.fastener) is not None
    # The difference of two readings is less certain than one of them.
    doubt = (base.uncertainty or 0.0) * (APART if own else 1.0)
    if grown < -doubt:
        reason = reason_of(cell, "shorter_than_first" if own else "shorter_than_new", by=-grown)
        return judgement.model_copy(update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (reason,)})
    # Where a joint is undone, the decision on the fastener says so.
    spent = None if state.definition.procedure.applies_to.purpose == "loosen" else used_up(state, cell)
    if spent is None:
        return judgement
    update = {"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (*judgement.reasons, spent)}
    return judgement.model_copy(update=update)


def judge_stretch(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    """Judge a length under load by the stretch since the free length, both at their own temperatures."""
    now_C, first_C, first_mm = (corrected_of(state, key) for key in cell.uses)
    stretch = stretch_between((first_mm, first_C), (base.corrected or 0.0, now_C))
    assert cell.fastener is not None
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, StretchStep)
    # A stud that has become shorter carries nothing that its length could tell.
    model = state.definition.model_of(cell.fastener)
    clamp = None if stretch < 0.0 else model.load_from_stretch_N(stretch, step.datum) / 1000.0
    # A stretch is a difference: what both readings are in doubt by, each by its own gauge, adds up in squares.
    first = state.live(cell.uses[2])
    of_first = first.judgement.uncertainty if first is not None else None
    doubt = math.hypot(base.uncertainty or 0.0, of_first or 0.0)
    return guarded(cell, base.model_copy(update={"uncertainty": doubt}), stretch, cell.lower, cell.upper, clamp)


def spread_judgement(state: RunState, cell: Cell) -> ev.Judgement:
    """Judge how far the stretches of one joint lie apart.

    Raises:
        Refusal: ``not_yet`` while a length is missing.
    """
    stretches, doubts = list[float](), list[float]()
    for key in cell.uses:
        attempt = state.live(key)
        if attempt is None or attempt.judgement.judged is None:
            raise blocked_reason(state, cell.key, key)
        stretches.append(attempt.judgement.judged)
        doubts.append(attempt.judgement.uncertainty or 0.0)
    spread = max(stretches) - min(stretches)
    # What one gauge is off by is in every stretch of the set alike: it takes no part in how far they lie apart.
    base = ev.Judgement(verdict=ev.Verdict.NOTED, uncertainty=max(doubts))
    return guarded(cell, base, spread, None, cell.upper, None)
