"""The verdict on an answer, at once, before the tool leaves the fastener."""

from __future__ import annotations

from datetime import datetime, timedelta

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import CeilingStep, WaitStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.commands import Stood
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.breakaway import judge_release
from jorvek.core.run.rules.choices import judge_choice, judge_count, judge_mate
from jorvek.core.run.rules.friction import range_tested_against, tested_friction, torque_Nm
from jorvek.core.run.rules.gate_verdict import judge_repeat, judge_strip, noted, within
from jorvek.core.run.rules.guard_band_verdict import guarded, in_unit, reason_of
from jorvek.core.run.rules.ladder_history import tight_at
from jorvek.core.run.rules.lengths import judge_growth, judge_stretch, spread_judgement
from jorvek.core.run.rules.measured import deflection_of, form_figure
from jorvek.core.run.rules.on_instrument import oil_per_shown, true_of
from jorvek.core.run.rules.plausibility import meant_for
from jorvek.core.run.rules.torque_angle_verdict import judge_pull, judge_turn
from jorvek.core.units import GLOSSARY_UNIT, convert, read_number, symbol


def judge(state: RunState, cell: Cell, answer: ev.Answer, now: datetime, stood: Stood | None = None) -> ev.Judgement:
    """Judge an answer in an open cell.

    Args:
        state: the run as it stands.
        cell: the open cell.
        answer: what was given.
        now: server time, for waits.
        stood: since when the engine stands, by its own log; None where nobody has said.

    Returns:
        The judgement, complete enough to be stored for good.

    Raises:
        Refusal: ``wrong_answer`` when the cell asks for something else; ``E_TYPE``,
            ``E_UNIT``, ``E_DIM``, ``E_RANGE`` for a value that no instrument can have shown;
            ``hold_not_over`` with the seconds left.
    """
    if answer.type != cell.ask.value:
        raise Refusal("wrong_answer", cell=cell.key, asked=cell.ask.value, got=answer.type)
    match answer:
        case ev.ValueAnswer():
            return _judge_value(state, cell, answer)
        case ev.FeelerAnswer():
            right = answer.enters == ("enters" in cell.choices)
            code = "blade_enters" if answer.enters else "blade_stays_out"
            verdict = ev.Verdict.IN_BAND if right else ev.Verdict.OUT_OF_BAND
            return ev.Judgement(verdict=verdict, reasons=(ev.Reason(code=code, params={"where": cell.text or ""}),))
        case ev.SeenAnswer():
            return seen_judgement(state, cell)
        case ev.ChoiceAnswer():
            return judge_choice(state, cell, answer)
        case ev.WordsAnswer() if cell.rule is Rule.EQUAL:
            return judge_mate(state, cell, answer)
        case ev.CountAnswer():
            return judge_count(cell, answer)
        case ev.PullAnswer():
            return judge_pull(state, cell, answer)
        case ev.TurnAnswer():
            return judge_turn(state, cell, answer)
        case ev.TickAnswer():
            _check_wait(state, cell, now, stood)
            return ev.Judgement(verdict=ev.Verdict.NOTED)
        case _:
            return ev.Judgement(verdict=ev.Verdict.NOTED)


def _check_wait(state: RunState, cell: Cell, now: datetime, stood: Stood | None) -> None:
    if stood is not None and waits_for_engine(state, cell):
        left = (stood_long_enough(cell, stood) - now).total_seconds()
    else:
        left = wait_left_s(state, cell, now)
    if left > 0:
        raise Refusal("hold_not_over", seconds=round(left + 0.5))


def waits_for_engine(state: RunState, cell: Cell) -> bool:
    """Tell whether a call ends a wait that counts from the moment at which the engine stopped."""
    step = state.definition.steps_by_id[cell.step_id]
    return isinstance(step, WaitStep) and step.counts_from == "engine_stopped" and cell.what is CellItem.OVER


def stood_long_enough(cell: Cell, stood: Stood) -> datetime:
    """Return when an engine has stood as long as sheet and document ask, the longer of the two."""
    return stood.at + timedelta(seconds=max(stood.least_s, cell.wait_s))


def wait_left_s(state: RunState, cell: Cell, now: datetime) -> float:
    """Return the seconds that a held pressure must still stand before the cell may be filled."""
    if cell.wait_s <= 0:
        return 0.0
    since = [a.done_at for a in (state.live(key) for key in cell.needs) if a is not None]
    passed = (now - max(since)).total_seconds() if since else 0.0
    return max(0.0, cell.wait_s - passed)


def read_value(state: RunState, cell: Cell, answer: ev.ValueAnswer) -> float:
    """Return a typed value in the glossary unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_UNIT``, ``E_DIM``; ``figure_meant`` or ``out_of_physical_range`` for what no
            instrument can have shown there.
    """
    assert cell.quantity is not None
    assert cell.plausible is not None
    value = convert(read_number(answer.text, cell.quantity), cell.quantity, answer.unit, GLOSSARY_UNIT[cell.quantity])
    low, high = cell.plausible
    if not low <= value <= high:
        question = meant_for(state, cell, answer)
        if question is not None:
            raise question
        ends = {"low": in_unit(low, cell.quantity, answer.unit), "high": in_unit(high, cell.quantity, answer.unit)}
        unit = symbol(answer.unit)
        raise Refusal("out_of_physical_range", got=answer.text, unit=unit, base=unit, **ends)
    return value


def _corrected(state: RunState, cell: Cell, value: float, answer: ev.ValueAnswer) -> float:
    tool = state.tool(cell.tool_role)
    if tool is not None and tool.quantity is cell.quantity and value > tool.full_scale:
        full, unit = in_unit(tool.full_scale, tool.quantity, answer.unit), symbol(answer.unit)
        raise Refusal("above_full_scale", got=answer.text, unit=unit, full_scale=full, tool=tool.id)
    return true_of(state, cell, value)


def _judge_value(state: RunState, cell: Cell, answer: ev.ValueAnswer) -> ev.Judgement:
    value = read_value(state, cell, answer)
    tool = state.tool(cell.tool_role)
    corrected = _corrected(state, cell, value, answer)
    same = tool is not None and tool.quantity is cell.quantity
    uncertainty = tool.expanded_uncertainty() * oil_per_shown(state, cell) if tool is not None and same else 0.0
    base = ev.Judgement(
        verdict=ev.Verdict.NOTED,
        value=value,
        correction=corrected - value,
        corrected=corrected,
        uncertainty=uncertainty,
    )
    match cell.rule:
        case Rule.SETTING:
            return _setting(state, cell, base)
        case Rule.GUARDED:
            return guarded(cell, base, corrected, cell.lower, cell.upper, None)
        case Rule.GROWTH:
            return judge_growth(state, cell, base)
        case Rule.STRETCH:
            return judge_stretch(state, cell, base)
        case Rule.STRIP:
            return judge_strip(state, cell, base, answer.unit)
        case Rule.REPEAT:
            return judge_repeat(state, cell, base)
        case Rule.RELEASE:
            return judge_release(state, cell, base, ceiling_for(state, cell), tight_at(state, cell, corrected))
        case _:
            return base


def _setting(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    """A pressure is judged by its corrected reading; capability was settled beforehand."""
    got = base.corrected or 0.0
    lower, upper = (None if x is None else torque_Nm(state, cell, x) for x in (cell.lower, cell.upper))
    reasons: list[ev.Reason] = []
    if lower is not None and got < lower - 1e-9:
        reasons.append(reason_of(cell, "below_band", by=lower - got))
    if upper is not None and got > upper + 1e-9:
        reasons.append(reason_of(cell, "above_band", by=got - upper))
    if cell.what is CellItem.RAISE:
        reasons += _over_ceiling(state, cell, got)
    if cell.what is CellItem.LOWEST:
        reasons += _above_peak(state, cell, got)
    verdict = ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND
    clamp = state.definition.clamp_of(cell).residual_N(got) / 1000.0 if cell.what is CellItem.LOWEST and got else None
    update = {
        "verdict": verdict,
        "reasons": tuple(reasons),
        "clamp_kN": clamp,
        "lower": lower,
        "upper": upper,
    }
    return base.model_copy(update=update)


def _over_ceiling(state: RunState, cell: Cell, got: float) -> list[ev.Reason]:
    ceiling = ceiling_for(state, cell)
    return [reason_of(cell, "above_ceiling", ceiling=ceiling)] if ceiling is not None and got > ceiling else []


def ceiling_for(state: RunState, cell: Cell) -> float | None:
    """Return the ceiling last set before a call, for its own tools."""
    steps = state.definition.steps_by_id
    role = state.definition.tensioner_of(cell)
    earlier = state.definition.cells[: state.definition.place_of(cell.key)]
    tops = ((c, steps[c.step_id]) for c in earlier)
    mine = [c for c, step in tops if isinstance(step, CeilingStep) and step.tools in (None, role)]
    return mine[-1].upper if mine else None


def _above_peak(state: RunState, cell: Cell, got: float) -> list[ev.Reason]:
    peak = state.live(cell.uses[0])
    top = peak.judgement.corrected if peak else None
    return [reason_of(cell, "above_peak", peak=top)] if top is not None and got > top + 1e-9 else []


def seen_judgement(state: RunState, cell: Cell) -> ev.Judgement:
    """Judge a figure that was worked out from other readings and seen by a person.

    Raises:
        Refusal: ``not_yet`` while a reading is missing.
    """
    if cell.rule is Rule.SPREAD:
        return spread_judgement(state, cell)
    if cell.rule is Rule.FRICTION:
        mu, doubt = tested_friction(state, cell)
        base = ev.Judgement(verdict=ev.Verdict.NOTED, uncertainty=doubt)
        # The stated range is what the oil may be, not a tolerance: only a friction clearly outside it is another oil.
        stated = range_tested_against(state, cell)
        return noted(base, mu) if stated is None else within(cell, base, mu, (stated[0], stated[2]), doubt)
    figure_ = form_figure(state, cell)
    tool = state.tool(cell.tool_role)
    base = ev.Judgement(verdict=ev.Verdict.NOTED, uncertainty=tool.expanded_uncertainty() if tool else 0.0)
    judged = guarded(cell, base, figure_, cell.lower, cell.upper, None)
    if cell.kind == "deflection" and cell.what is CellItem.VERTICAL and judged.verdict is ev.Verdict.OUT_OF_BAND:
        reasons = (*judged.reasons, ev.Reason(code=deflection_of(state, cell).tells))
        return judged.model_copy(update={"reasons": reasons})
    return judged
