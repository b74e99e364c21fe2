"""The verdict on an answer, at once, before the tool leaves the fastener."""

from __future__ import annotations

from datetime import datetime
from typing import Final

from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.figures import apart_figure, stated_figure
from jorvek.core.guard_band import Decision, guard_band_decision
from jorvek.core.procedure.clamp import stretch_between
from jorvek.core.procedure.steps import CeilingStep, GateStep, StretchStep
from jorvek.core.procedure.steps.measuring import EndFloat
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.friction import other_torques, range_tested_against, tested_friction, torque_Nm
from jorvek.core.run.rules.measured import chosen_part, form_figure
from jorvek.core.run.rules.on_instrument import oil_per_shown, true_of
from jorvek.core.run.rules.possible import meant_for
from jorvek.core.run.rules.redo import loaded_since_free
from jorvek.core.run.rules.rejected import plain_mark
from jorvek.core.run.rules.released import judge_release
from jorvek.core.run.rules.strip import clearance_at, scale_of, uncertainty_mm
from jorvek.core.run.rules.studs import AT_C, first_length, used, used_up_reason
from jorvek.core.run.rules.tried import tight_at
from jorvek.core.run.rules.turned import judge_pull, judge_turn
from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert, read_number, symbol

_VERDICT = {
    Decision.ACCEPT: ev.Verdict.IN_BAND,
    Decision.REJECT: ev.Verdict.OUT_OF_BAND,
    Decision.UNCERTAIN: ev.Verdict.TOO_NEAR,
}


def judge(state: RunState, cell: Cell, answer: ev.Answer, now: datetime) -> ev.Judgement:
    """Judge an answer in an open cell.

    Args:
        state: the run as it stands.
        cell: the open cell.
        answer: what was given.
        now: server time, for waits.

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
            return _judge_choice(state, cell, answer)
        case ev.WordsAnswer() if cell.rule is Rule.EQUAL:
            return _judge_mate(state, cell, answer)
        case ev.CountAnswer():
            return _judge_count(cell, answer)
        case ev.PullAnswer():
            return judge_pull(state, cell, answer)
        case ev.TurnAnswer():
            return judge_turn(state, cell, answer)
        case ev.TickAnswer():
            _check_wait(state, cell, now)
            return ev.Judgement(verdict=ev.Verdict.NOTED)
        case _:
            return ev.Judgement(verdict=ev.Verdict.NOTED)


_WRONG = {"wrong": "looks_wrong", "ask": "decision_open"}
"""Choices that leave a question open, and why."""
OWES_WORDS = frozenset({"wrong", "tight_spot", "ask", "replace", "mend", "another"})
"""Choices that owe a word of why, or where."""


def _judge_choice(state: RunState, cell: Cell, answer: ev.ChoiceAnswer) -> ev.Judgement:
    if answer.choice not in cell.choices:
        raise Refusal("no_such_choice", got=answer.choice, allowed=", ".join(cell.choices))
    if answer.choice in OWES_WORDS and answer.note is None:
        raise Refusal("words_wanted", choice=answer.choice)
    if cell.rule is Rule.CHOSEN:
        chosen = chosen_part(state, cell)
        right = answer.choice == chosen.part
        reason = ev.Reason(code="other_part", params={"part": chosen.part or "…"})
        verdict = ev.Verdict.IN_BAND if right else ev.Verdict.OUT_OF_BAND
        return ev.Judgement(verdict=verdict, judged=chosen.figure_mm, reasons=() if right else (reason,))
    if answer.choice == "tight_spot":
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(_tight(state, cell),))
    if answer.choice == "reuse" and (spent := _used_up(state, cell)):
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(spent,))
    if answer.choice in _WRONG:
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(ev.Reason(code=_WRONG[answer.choice]),))
    if cell.kind == "lubricate" and cell.item == "product" and answer.choice != cell.text:
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(_other_lubricant(state, cell, answer.choice),))
    return ev.Judgement(verdict=ev.Verdict.NOTED)


def _used_up(state: RunState, cell: Cell) -> ev.Reason | None:
    """Say that a fastener was tightened as often as its document allows; another time is one too many."""
    found = None if cell.fastener is None else used(state, cell.fastener)
    return None if found is None or not found.up else used_up_reason(found)


def _other_lubricant(state: RunState, cell: Cell, product: str) -> ev.Reason:
    """Say what another lubricant does to the torques; of one that nobody knows, that they do not hold."""
    stages = other_torques(state, cell, product)
    if not stages:
        return ev.Reason(code="other_lubricant", params={"product": cell.text or ""})
    told = [f"{s.torque.shown} → {stated_figure(new, Quantity.TORQUE, s.torque.unit).text}" for s, new in stages]
    return ev.Reason(code="lubricant_instead", params={"product": product, "torques": "; ".join(told)})


def _tight(state: RunState, cell: Cell) -> ev.Reason:
    """Name the stages that a tight spot puts in doubt: what was loaded since the crank last turned freely."""
    steps = dict.fromkeys(state.definition.by_key[key].step_id for key in loaded_since_free(state, cell))
    if not steps:
        return ev.Reason(code="tight_spot")
    titles = "; ".join(state.definition.steps_by_id[step].title for step in steps)
    return ev.Reason(code="tight_spot_after", params={"stages": titles})


def _judge_mate(state: RunState, cell: Cell, answer: ev.WordsAnswer) -> ev.Judgement:
    """Hold the marks on two parts that belong together against one another."""
    first = state.live(cell.uses[0])
    assert first is not None
    assert isinstance(first.answer, ev.WordsAnswer)
    if plain_mark(first.answer.text) == plain_mark(answer.text):
        return ev.Judgement(verdict=ev.Verdict.IN_BAND)
    reason = ev.Reason(code="not_a_pair", params={"one": first.answer.text, "other": answer.text})
    return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(reason,))


def _judge_count(cell: Cell, answer: ev.CountAnswer) -> ev.Judgement:
    wanted = int(cell.target or 0)
    if answer.count == wanted:
        return ev.Judgement(verdict=ev.Verdict.IN_BAND, value=float(answer.count))
    reason = ev.Reason(code="count_differs", params={"wanted": wanted, "got": answer.count})
    return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, value=float(answer.count), reasons=(reason,))


def _check_wait(state: RunState, cell: Cell, now: datetime) -> None:
    left = wait_left_s(state, cell, now)
    if left > 0:
        raise Refusal("hold_not_over", seconds=round(left + 0.5))


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


def in_unit(value: float, quantity: Quantity, unit: str) -> float:
    """Return a limit in the unit in which somebody typed, to four digits: a refusal speaks as one was spoken to."""
    return float(f"{convert(value, quantity, GLOSSARY_UNIT[quantity], unit):.4g}")


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
            return _guarded(cell, base, corrected, cell.lower, cell.upper, None)
        case Rule.GROWTH:
            return _growth(state, cell, base)
        case Rule.STRETCH:
            return _stretch(state, cell, base)
        case Rule.STRIP:
            return _strip(state, cell, base, answer.unit)
        case Rule.REPEAT:
            return _repeat(state, cell, base)
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
        reasons.append(_reason(cell, "below_band", by=lower - got))
    if upper is not None and got > upper + 1e-9:
        reasons.append(_reason(cell, "above_band", by=got - upper))
    if cell.item == "raise":
        reasons += _over_ceiling(state, cell, got)
    if cell.item == "lowest":
        reasons += _above_peak(state, cell, got)
    verdict = ev.Verdict.OUT_OF_BAND if reasons else ev.Verdict.IN_BAND
    clamp = state.definition.clamp_of(cell).residual_N(got) / 1000.0 if cell.item == "lowest" and got else None
    update = {
        "verdict": verdict,
        "reasons": tuple(reasons),
        "clamp_kN": clamp,
        "lower": lower,
        "upper": upper,
    }
    return base.model_copy(update=update)


def _reason(cell: Cell, code: str, **params: float) -> ev.Reason:
    """Return a reason with its figures in the author's unit of the cell."""
    assert cell.quantity is not None
    assert cell.unit is not None
    drawn = {name: apart_figure if name == "by" else stated_figure for name in params}
    shown = {name: drawn[name](value, cell.quantity, cell.unit) for name, value in params.items()}
    return ev.Reason(code=code, params={name: f"{f.text} {f.unit}" for name, f in shown.items()})


def _over_ceiling(state: RunState, cell: Cell, got: float) -> list[ev.Reason]:
    ceiling = ceiling_for(state, cell)
    return [_reason(cell, "above_ceiling", ceiling=ceiling)] if ceiling is not None and got > ceiling else []


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
    return [_reason(cell, "above_peak", peak=top)] if top is not None and got > top + 1e-9 else []


_ENDS = {True: "end_torque_low", False: "end_torque_high"}


def _guarded(
    cell: Cell, base: ev.Judgement, judged: float, lower: float | None, upper: float | None, clamp_kN: float | None
) -> ev.Judgement:
    decision = guard_band_decision(judged, lower, upper, base.uncertainty or 0.0)
    reasons: list[ev.Reason] = []
    if decision is not Decision.ACCEPT:
        below = lower is not None and judged - lower < (upper - judged if upper is not None else float("inf"))
        limit = lower if below else upper
        if decision is Decision.UNCERTAIN:
            reasons.append(_reason(cell, "near_limit", limit=limit or 0.0, uncertainty=base.uncertainty or 0.0))
        else:
            code = _ENDS[below] if cell.item == "end_torque" else "below_band" if below else "above_band"
            reasons.append(_reason(cell, code, by=abs(judged - (limit or 0.0))))
    return base.model_copy(
        update={
            "verdict": _VERDICT[decision],
            "reasons": tuple(reasons),
            "judged": judged,
            "lower": lower,
            "upper": upper,
            "clamp_kN": clamp_kN,
        }
    )


def _strip(state: RunState, cell: Cell, base: ev.Judgement, unit: str) -> ev.Judgement:
    """A width told as a clearance; beyond the printed scale nothing is told, so it is not good."""
    width = base.corrected or 0.0
    _demand_wider(state, cell, width, unit)
    clearance, scale = clearance_at(state, cell, width), scale_of(state, cell)
    if clearance is None:
        end = scale[0] if width < scale[0][0] else scale[-1]
        reason = _reason(cell, "narrower_than_scale" if end is scale[0] else "wider_than_scale", clearance=end[1])
        limits = {"lower": cell.lower, "upper": cell.upper}
        return base.model_copy(update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (reason,), **limits})
    of_clearance = base.model_copy(update={"uncertainty": uncertainty_mm(scale, width, base.uncertainty or 0.0)})
    return _guarded(cell, of_clearance, clearance, cell.lower, cell.upper, None)


def _demand_wider(state: RunState, cell: Cell, width: float, unit: str) -> None:
    """The widest width of a place is not below its narrowest one."""
    narrowest = state.live(cell.needs[0]) if cell.needs else None
    least = None if narrowest is None else narrowest.judgement.corrected
    if least is not None and width < least - 1e-9:
        shown = {name: in_unit(one, Quantity.LENGTH, unit) for name, one in (("got", width), ("narrowest", least))}
        raise Refusal("narrower_than_narrowest", unit=symbol(unit), **shown)


def _repeat(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    """A reading that is taken again where one was taken already: do they agree?"""
    earlier = [_corrected_of(state, key) for key in cell.uses]
    apart = max(abs((base.corrected or 0.0) - one) for one in earlier)
    if apart <= agree_within(state, cell) + 1e-9:
        return base.model_copy(update={"verdict": ev.Verdict.IN_BAND})
    return base.model_copy(
        update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (_reason(cell, "repeats_disagree", by=apart),)}
    )


_APART: Final = 2.0**0.5


def agree_within(state: RunState, cell: Cell) -> float:
    """Return how far readings of one place may lie apart, in the glossary unit.

    Source: the author's figure; else derived here: what two readings of the instrument differ by in 95 of 100 cases,
    and two graduations where nothing is known of it.
    """
    step = state.definition.steps_by_id[cell.step_id]
    if isinstance(step, GateStep) and isinstance(step.gate, EndFloat) and step.gate.agree_within is not None:
        return step.gate.agree_within.value
    tool = state.tool(cell.tool_role)
    if tool is None or tool.quantity is not cell.quantity:
        return _UNKNOWN_MM
    return max(_APART * tool.expanded_uncertainty(), 2.0 * (tool.resolution or 0.0))


_UNKNOWN_MM: Final = 0.02
"""Two graduations of a dial gauge in hundredths."""


def _corrected_of(state: RunState, key: str) -> float:
    attempt = state.live(key)
    if attempt is None or attempt.judgement.corrected is None:
        raise Refusal("not_yet", cell=key, first=key)
    return attempt.judgement.corrected


def expected_length(state: RunState, cell: Cell) -> tuple[float | None, float | None, float | None]:
    """Return (target, lower, upper) of a length call in mm, from the readings it rests on.

    None where a reading is still missing or there is no such limit.
    """
    if any(state.live(key) is None for key in cell.uses):
        return None, None, None
    now_C = _corrected_of(state, cell.uses[0])
    if cell.rule is Rule.GROWTH:
        free = _new_length(state, cell, now_C)
        return free, None, free + (cell.upper or 0.0)
    first_C, first_mm = _corrected_of(state, cell.uses[1]), _corrected_of(state, cell.uses[2])
    base = first_mm * (1.0 + STEEL_EXPANSION_PER_K * (now_C - first_C))
    target, lower, upper = (None if x is None else base + x for x in (cell.target, cell.lower, cell.upper))
    return target, lower, upper


def _new_length(state: RunState, cell: Cell, temperature_C: float) -> float:
    """Return the length that growth counts from: the stud's own first one, the document's for a new stud."""
    assert cell.fastener is not None
    own = first_length(state, cell.fastener)
    new = state.definition.groups[cell.fastener].free_length.value if own is None else own
    return new * (1.0 + STEEL_EXPANSION_PER_K * (temperature_C - AT_C))


def _growth(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    assert cell.fastener is not None
    grown = (base.corrected or 0.0) - _new_length(state, cell, _corrected_of(state, cell.uses[0]))
    judgement = _guarded(cell, base, grown, None, cell.upper, None)
    own = first_length(state, cell.fastener) is not None
    # Two readings, years apart, lie apart by more than one reading's doubt.
    doubt = (base.uncertainty or 0.0) * (_APART if own else 1.0)
    if grown < -doubt:
        reason = _reason(cell, "shorter_than_first" if own else "shorter_than_new", by=-grown)
        return judgement.model_copy(update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (reason,)})
    # Where a joint is undone, the decision on the fastener says so.
    spent = None if state.definition.procedure.applies_to.purpose == "loosen" else _used_up(state, cell)
    if spent is None:
        return judgement
    update = {"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (*judgement.reasons, spent)}
    return judgement.model_copy(update=update)


def _stretch(state: RunState, cell: Cell, base: ev.Judgement) -> ev.Judgement:
    now_C, first_C, first_mm = (_corrected_of(state, key) for key in cell.uses)
    stretch = stretch_between((first_mm, first_C), (base.corrected or 0.0, now_C))
    assert cell.fastener is not None
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, StretchStep)
    # A stud that has become shorter carries nothing that its length could tell.
    model = state.definition.model_of(cell.fastener)
    clamp = None if stretch < 0.0 else model.load_from_stretch_N(stretch, step.datum) / 1000.0
    return _guarded(cell, base, stretch, cell.lower, cell.upper, clamp)


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
        return _noted(base, mu) if stated is None else _within(cell, base, mu, (stated[0], stated[2]), doubt)
    figure_ = form_figure(state, cell)
    tool = state.tool(cell.tool_role)
    base = ev.Judgement(verdict=ev.Verdict.NOTED, uncertainty=tool.expanded_uncertainty() if tool else 0.0)
    return _guarded(cell, base, figure_, cell.lower, cell.upper, None)


def _noted(base: ev.Judgement, judged: float) -> ev.Judgement:
    return base.model_copy(update={"judged": judged})


def _within(cell: Cell, base: ev.Judgement, judged: float, limits: tuple[float, float], doubt: float) -> ev.Judgement:
    """Hold a figure against a range: only what is clearly outside is out."""
    lower, upper = limits
    update: dict[str, object] = {"judged": judged, "lower": lower, "upper": upper, "verdict": ev.Verdict.IN_BAND}
    if not lower - doubt <= judged <= upper + doubt:
        code, by = ("below_band", lower - judged) if judged < lower else ("above_band", judged - upper)
        update |= {"reasons": (_reason(cell, code, by=by),), "verdict": ev.Verdict.OUT_OF_BAND}
    return base.model_copy(update=update)


def spread_judgement(state: RunState, cell: Cell) -> ev.Judgement:
    """Judge how far the stretches of one joint lie apart.

    Raises:
        Refusal: ``not_yet`` while a length is missing.
    """
    stretches: list[float] = []
    for key in cell.uses:
        attempt = state.live(key)
        if attempt is None or attempt.judgement.judged is None:
            raise Refusal("not_yet", cell=cell.key, first=key)
        stretches.append(attempt.judgement.judged)
    spread = max(stretches) - min(stretches)
    tool = state.tool(cell.tool_role)
    base = ev.Judgement(verdict=ev.Verdict.NOTED, uncertainty=tool.expanded_uncertainty() if tool else 0.0)
    return _guarded(cell, base, spread, None, cell.upper, None)
