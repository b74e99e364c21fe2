"""What pulls and turns of one fastener say: movement, angle, and the load behind them."""

from __future__ import annotations

from dataclasses import dataclass

from jorvek.core.figures import figure
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import AngleStep, TorqueStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.friction import model_in, torque_Nm
from jorvek.core.run.rules.studs import is_slack, used, used_up_reason
from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert, read_number, symbol

FLATS = "flats"
"""Unit name for angles counted in flats or points of the turned form."""
_LITTLE = 1.0 / 3.0
_CAN_BE_TOLD_DEG = 5.0


def flat_deg(state: RunState, cell: Cell) -> float | None:
    """Return the degrees in one flat or point of the turned form; None for a call about no fastener."""
    return 360.0 / state.definition.groups[cell.fastener].points() if cell.fastener else None


def read_angle(state: RunState, cell: Cell, text: str, unit: str) -> float:
    """Return an angle in degrees; flats are those of the fastener's own form.

    Raises:
        Refusal: ``E_TYPE``, ``E_UNIT``, ``E_DIM``; ``out_of_physical_range`` outside what can be turned.
    """
    number, flat = read_number(text, Quantity.ANGLE), flat_deg(state, cell)
    if unit == FLATS and flat is not None:
        value = number * flat
    else:
        value = convert(number, Quantity.ANGLE, unit, GLOSSARY_UNIT[Quantity.ANGLE])
    low, high = cell.plausible or (0.0, 3600.0)
    if not low <= value <= high:
        per_unit = flat if unit == FLATS and flat is not None else convert(1.0, Quantity.ANGLE, unit, "deg")
        shown, ends = symbol(unit), {"low": round(low / per_unit, 3), "high": round(high / per_unit, 3)}
        raise Refusal("out_of_physical_range", got=text, unit=shown, base=shown, **ends)
    return value


@dataclass(frozen=True)
class Before:
    """A fastener before a call.

    Attributes:
        load_N: load that its stages so far stand for, 0 when slack; None when nothing tells.
        torque_Nm: torque of its last pull in this cycle, 0 when none.
    """

    load_N: float | None
    torque_Nm: float


def before(state: RunState, cell: Cell) -> Before:
    """Return what a fastener holds before a call, by its standing pulls and turns in the same cycle."""
    assert cell.fastener is not None
    model = model_in(state, cell.fastener)
    load, torque = 0.0, 0.0
    for earlier in state.definition.cells_of[cell.fastener]:
        if earlier is cell:
            break
        if earlier.traits.wipes_paint:
            load, torque = 0.0, 0.0
        done = state.live(earlier.key)
        if done is None or done.left_out:
            continue
        step = state.definition.steps_by_id[earlier.step_id]
        if isinstance(step, TorqueStep) and earlier.what is CellItem.PULL:
            torque = torque_Nm(state, earlier, step.torque.value)
            load = 0.0 if model.friction is None else model.torque_load_N(torque, model.friction[1])
        elif isinstance(step, AngleStep) and earlier.what is CellItem.TURN:
            load = load if done.judgement.clamp_kN is None else 1000.0 * done.judgement.clamp_kN
    return Before(load if model.friction is not None else None, torque)


def expected_movement_deg(state: RunState, cell: Cell) -> float | None:
    """Return about how far a fastener turns in a rising stage before the click; None when nothing tells.

    Source: derived here, dF (delta_S + delta_P) 360 / P with usual friction.
    """
    step = state.definition.steps_by_id[cell.step_id]
    if not isinstance(step, TorqueStep) or cell.fastener is None:
        return None
    model, held = model_in(state, cell.fastener), before(state, cell)
    if model.friction is None or held.load_N is None:
        return None
    rise = model.torque_load_N(torque_Nm(state, cell, step.torque.value), model.friction[1]) - held.load_N
    return max(0.0, rise * (model.delta_S + model.dP) * 360.0 / model.thread.P_mm)


def judge_pull(state: RunState, cell: Cell, answer: ev.PullAnswer) -> ev.Judgement:
    """Judge a pull: in a stage the fastener must move, in a check trip it must hardly do so.

    Raises:
        Refusal: ``movement_wanted`` when a check trip moved and nobody says how far; those of ``read_angle``.
    """
    moved = None if answer.moved is None else read_angle(state, cell, answer.moved, answer.unit)
    reasons: list[ev.Reason] = []
    match answer.outcome:
        case ev.PullOutcome.BROKEN_OFF:
            reasons.append(ev.Reason(code="pull_broken_off"))
        case ev.PullOutcome.TURNED_ON:
            reasons.append(ev.Reason(code="turned_on"))
        case ev.PullOutcome.STILL:
            if cell.rule is Rule.MOVED:
                reasons.append(ev.Reason(code="clicked_at_once"))
        case ev.PullOutcome.MOVED:
            reasons += _moved(state, cell, moved)
    reasons += _used_up(state, cell)
    verdict = ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND
    held = _torque_load_kN(state, cell)
    return ev.Judgement(
        verdict=verdict,
        reasons=tuple(reasons),
        value=moved,
        corrected=moved,
        upper=cell.upper,
        clamp_kN=None if reasons else held,
    )


def _used_up(state: RunState, cell: Cell) -> list[ev.Reason]:
    """A bolt that was used as often as it may be is named at its first pull from slack, before it is loaded again."""
    found = None if cell.fastener is None else used(state, cell.fastener)
    if found is None or not found.up or cell.fastener is None or not is_slack(state, cell.fastener):
        return []
    reason = used_up_reason(found)
    # Where it was accepted by name when it was first handled, nobody is asked once more.
    handled = (state.live(c.key) for c in state.definition.cells_of[cell.fastener] if c.traits.evidence is None)
    return [] if any(a is not None and a.accepted and reason in a.judgement.reasons for a in handled) else [reason]


def _torque_load_kN(state: RunState, cell: Cell) -> float | None:
    step = state.definition.steps_by_id[cell.step_id]
    if not isinstance(step, TorqueStep) or cell.fastener is None:
        return None
    model = model_in(state, cell.fastener)
    if model.friction is None:
        return None
    return model.torque_load_N(torque_Nm(state, cell, step.torque.value), model.friction[1]) / 1000.0


def _moved(state: RunState, cell: Cell, moved: float | None) -> list[ev.Reason]:
    if cell.rule is Rule.STAYED:
        if moved is None:
            raise Refusal("movement_wanted", cell=cell.key)
        far = cell.upper is not None and moved > cell.upper + 1e-9
        return [_angle_reason("moved_too_far", by=moved, limit=cell.upper or 0.0)] if far else []
    wanted = expected_movement_deg(state, cell)
    if moved is None or wanted is None or wanted < _CAN_BE_TOLD_DEG or moved >= _LITTLE * wanted:
        return []
    return [_angle_reason("moved_little", by=moved, wanted=wanted)]


def _angle_reason(code: str, **params: float) -> ev.Reason:
    shown = {name: figure(value, Quantity.ANGLE, "deg") for name, value in params.items()}
    return ev.Reason(code=code, params={name: f"{f.text}{f.unit}" for name, f in shown.items()})


def judge_turn(state: RunState, cell: Cell, answer: ev.TurnAnswer) -> ev.Judgement:
    """Judge an angle by the sum of its bites, and say what it means in load.

    Raises:
        Refusal: ``too_many_bites``; those of ``read_angle``.
    """
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, AngleStep)
    assert cell.fastener is not None
    if len(answer.bites) > step.bites:
        raise Refusal("too_many_bites", got=len(answer.bites), allowed=step.bites)
    if answer.to_mark:
        # What stands at its mark has been turned as far as the mark says; nobody has read a figure.
        total = cell.target or 0.0
    else:
        total = sum(read_angle(state, cell, text, answer.unit) for text in answer.bites)
    model, held = model_in(state, cell.fastener), before(state, cell)
    load: float | None = None
    if model.friction is not None and held.load_N is not None and total >= 0.0:
        load = model.after_angle(held.load_N, total).F_N / 1000.0
    reasons: list[ev.Reason] = []
    if cell.lower is not None and total < cell.lower - 1e-9:
        reasons.append(_angle_reason("angle_short", by=cell.lower - total))
    if cell.upper is not None and total > cell.upper + 1e-9:
        reasons.append(_angle_reason("angle_over", by=total - cell.upper))
    verdict = ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND
    return ev.Judgement(
        verdict=verdict,
        reasons=tuple(reasons),
        value=None if answer.to_mark else total,
        corrected=total,
        lower=cell.lower,
        upper=cell.upper,
        clamp_kN=load,
    )
