"""The verdict on a choice, on marks of parts that belong together, and on a count."""

from __future__ import annotations

from jorvek.core.figures import stated_figure
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.friction import other_torques
from jorvek.core.run.rules.measured import chosen_part
from jorvek.core.run.rules.redo import loaded_since_free, put_together_anew
from jorvek.core.run.rules.rejected import plain_mark
from jorvek.core.run.rules.studs import used, used_up_reason
from jorvek.core.units import Quantity

_WRONG = {"wrong": "looks_wrong", "ask": "decision_open"}
"""Choices that leave a question open, and why."""


OWES_WORDS = frozenset({"wrong", "tight_spot", "ask", "replace", "mend", "another"})
"""Choices that owe a word of why, or where."""


def judge_choice(state: RunState, cell: Cell, answer: ev.ChoiceAnswer) -> ev.Judgement:
    """Judge one of the answers that a call offers.

    Raises:
        Refusal: ``no_such_choice``; ``words_wanted`` for a choice that owes a word of why or where.
    """
    if answer.choice not in cell.choices:
        raise Refusal("no_such_choice", got=answer.choice, allowed=", ".join(cell.choices))
    if answer.choice in OWES_WORDS and answer.note is None:
        raise Refusal("words_wanted", choice=answer.choice)
    if cell.rule is Rule.CHOSEN:
        chosen = chosen_part(state, cell)
        right = answer.choice == chosen.part
        no_part = ev.Reason(code="no_part")
        reason = ev.Reason(code="other_part", params={"part": chosen.part}) if chosen.part else no_part
        verdict = ev.Verdict.IN_BAND if right else ev.Verdict.OUT_OF_BAND
        return ev.Judgement(verdict=verdict, judged=chosen.figure_mm, reasons=() if right else (reason,))
    if answer.choice == "tight_spot":
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(_tight(state, cell),))
    if answer.choice == "reuse" and (spent := used_up(state, cell)):
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(spent,))
    if answer.choice in _WRONG:
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(ev.Reason(code=_WRONG[answer.choice]),))
    if cell.kind == "lubricate" and cell.what is CellItem.PRODUCT and answer.choice != cell.text:
        return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(_other_lubricant(state, cell, answer.choice),))
    return ev.Judgement(verdict=ev.Verdict.NOTED)


def used_up(state: RunState, cell: Cell) -> ev.Reason | None:
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
    code = "tight_spot_when_tight" if put_together_anew(state, cell) else "tight_spot_after"
    return ev.Reason(code=code, params={"stages": titles})


def judge_mate(state: RunState, cell: Cell, answer: ev.WordsAnswer) -> ev.Judgement:
    """Hold the marks on two parts that belong together against one another."""
    first = state.live(cell.uses[0])
    assert first is not None
    assert isinstance(first.answer, ev.WordsAnswer)
    if plain_mark(first.answer.text) == plain_mark(answer.text):
        return ev.Judgement(verdict=ev.Verdict.IN_BAND)
    reason = ev.Reason(code="not_a_pair", params={"one": first.answer.text, "other": answer.text})
    return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, reasons=(reason,))


def judge_count(cell: Cell, answer: ev.CountAnswer) -> ev.Judgement:
    """Hold a count against how many there must be."""
    wanted = int(cell.target or 0)
    if answer.count == wanted:
        return ev.Judgement(verdict=ev.Verdict.IN_BAND, value=float(answer.count))
    reason = ev.Reason(code="count_differs", params={"wanted": wanted, "got": answer.count})
    return ev.Judgement(verdict=ev.Verdict.OUT_OF_BAND, value=float(answer.count), reasons=(reason,))
