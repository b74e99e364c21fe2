"""One call as the Bench shows it: what to do, on which fastener, to what."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Final

from jorvek.core.figures import Figure, figure, stated_figure
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import (
    AngleStep,
    CheckTripStep,
    HoldPointStep,
    InspectStep,
    SettlingPassStep,
    ToolIssueStep,
    TorqueStep,
)
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.authorization import Bar, barred, signing_rank, wanted_rank
from jorvek.core.run.rules.choices import OWES_WORDS
from jorvek.core.run.rules.departures import may_be_left_out
from jorvek.core.run.rules.engine_effects import may_be_left_to_engine, moves_crank, turns_crank
from jorvek.core.run.rules.friction import product_at_hand, range_tested_against, torque_Nm
from jorvek.core.run.rules.judge import ceiling_for, seen_judgement, stood_long_enough, waits_for_engine
from jorvek.core.run.rules.on_instrument import Shown, only_rounded, shown_on
from jorvek.core.run.rules.rejected import wants_mark
from jorvek.core.run.rules.studs import used
from jorvek.core.run.rules.torque_angle_verdict import FLATS, before, expected_movement_deg, flat_deg
from jorvek.core.run.views.labels import Label, View, naming, words_of
from jorvek.core.run.views.looking import Looking, Units
from jorvek.core.run.views.offered import SetTo, set_to, starts
from jorvek.core.run.views.rows import in_cell_unit, limit_of
from jorvek.core.units import UNIT_NAMES, Quantity, symbol


class Fault(View):
    """Why something cannot be shown: a code of the catalogue's refusals with its figures."""

    code: str
    params: dict[str, str | int | float | None]


class SomebodyElse(View):
    """That whoever looks may not answer a call, and who does.

    Attributes:
        why: what bars them: their role, their rank, or that it is their own work.
        rank: lowest rank that answers it.
    """

    why: Bar
    rank: Role


class OwnUnits(View):
    """The aim and the band once more, in the unit that the person likes."""

    figure: Figure | None
    lower: Figure | None
    upper: Figure | None


class Call(Label):
    """One call: what to do, on which fastener, to what.

    Attributes:
        figure: the number to be read across the engine, as the drawn instrument shows it; a stretch, not a length.
        lower: and ``upper``: the band, in the same figures.
        stated: what the document states, where the instrument shows something else for it.
        computed: a figure worked out by the core, to be seen and confirmed.
        fault: why the figure cannot be worked out; what was read for it is struck and read again.
        units: unit names that a typed value may have, the author's first.
        not_before: when a held pressure has stood long enough.
        why: the author's reason for the step.
        choices: answers to choose from: codes, or the author's names of parts.
        owing: choices that owe a word of why or where.
        marked: a piece that goes out is named by its mark.
        movement: about how far a pull should move.
        holds: load that the fastener's stages so far stand for.
        bites: how many pulls may make up an angle.
        flat_deg: degrees in one flat or point of the turned form, for angles counted in flats.
        laddered: asked on the ladder of pressures, where nuts come free in their own order.
        signed: whether a reading may lie below zero.
        stillness: standing still is the usual outcome of the pull.
        as_stretch: aim and band are those of the stretch; no length is shown before it is measured.
        details: what the step states, by the name of the field, as it is to be shown.
        lines: lists that the step states, by the name of the field.
        own: aim and band in the person's own unit, where that is another than the author's.
        confirmed_by: lowest rank that may confirm it, None when anybody at work may.
        somebody_else: that whoever looks may not answer it; None where they may, and on paper.
        may_leave_out: whether somebody with the authority may leave it out.
        for_engine: while others rely on the isolations it may be left to whoever is last on the engine.
        turns_crank: it belongs to a move of the crank.
        moves_crank: the crank has moved when it is answered.
        set_to: a setting as the instrument shows it when it is right, to be given by one press; None for a measurement.
        starts: how readings of the same sort began in this step, up to the decimal mark, by the unit they were read
            in, the newest first; what lies behind the mark is each reading's own.
        also: what the author wrote for it, in the second language of the document, by the author's own text; empty
            for whoever does not read that.
        photograph: whether the author wants a picture, and how many there are of this step.
    """

    attempt: int
    ask: InputType
    cautions: tuple[str, ...]
    deliberate: bool
    figure: Figure | None
    lower: Figure | None
    upper: Figure | None
    stated: Figure | None
    computed: Figure | None
    fault: Fault | None
    units: tuple[str, ...]
    tool: str | None
    tool_class: str | None
    sees: tuple[str, ...]
    signed_by: str | None
    not_before: datetime | None
    why: str | None
    choices: tuple[str, ...]
    owing: tuple[str, ...]
    marked: bool
    movement: Figure | None
    holds: Figure | None
    bites: int | None
    flat_deg: float | None
    details: dict[str, str]
    lines: dict[str, tuple[str, ...]]
    own: OwnUnits | None
    confirmed_by: str | None
    somebody_else: SomebodyElse | None
    laddered: bool
    stillness: bool
    signed: bool
    as_stretch: bool
    may_leave_out: bool
    for_engine: bool
    turns_crank: bool
    moves_crank: bool
    set_to: SetTo | None
    starts: dict[str, tuple[str, ...]]
    also: dict[str, str]
    photograph: bool
    photos: int
    done: int
    total: int


def _top(state: RunState, cell: Cell) -> dict[str, str]:
    """Return the pressure that is never passed while nuts are let free, in the unit that is read."""
    top = ceiling_for(state, cell) if cell.rule is Rule.RELEASE else None
    shown = in_cell_unit(cell, top)
    return {} if shown is None else {"ceiling": f"{shown.text} {shown.unit}"}


def _used(state: RunState, cell: Cell) -> dict[str, str]:
    """Return how often the fastener of a call was tightened before, where its document counts."""
    found = None if cell.fastener is None else used(state, cell.fastener)
    return {} if found is None else {"used": f"{found.times} / {found.allowed}"}


def _product(state: RunState, cell: Cell) -> dict[str, str]:
    """Return the lubricant that is at hand, where it is not the document's own."""
    product = product_at_hand(state, cell)
    return {} if product is None else {"product": product}


def _mark(state: RunState, cell: Cell) -> dict[str, str]:
    """Return the words of the paint mark, which are others in another cycle."""
    step = state.definition.steps_by_id[cell.step_id]
    return {"mark": step.mark_in(cell.cycle)} if isinstance(step, AngleStep) else {}


def somebody_else(state: RunState, cell: Cell, looking: Looking | None) -> SomebodyElse | None:
    """Tell who answers a call in place of whoever looks; None where they may themselves, and on paper."""
    bar = None if looking is None else barred(state, cell, looking.person_id, looking.role)
    if bar is None:
        return None
    return SomebodyElse(why=bar, rank=signing_rank(state, cell) or wanted_rank(state, cell) or Role.MECHANIC)


def call_of(state: RunState, cell: Cell, looking: Looking | None = None) -> Call:
    """Return a call that may be answered now.

    Args:
        state: the run as it stands.
        cell: an open cell.
        looking: who looks, and the units they like to work in; None on paper.
    """
    step, units = state.definition.steps_by_id[cell.step_id], {} if looking is None else looking.units
    peers = state.definition.by_step[cell.step]
    shown = _aim(state, cell)
    said = state.definition.stated[cell.step_id]
    computed, fault = _computed(state, cell)
    tool = state.tool(cell.tool_role)
    wanted = (
        next((t for t in step.tools if t.role == cell.tool_role), None) if isinstance(step, ToolIssueStep) else None
    )
    hold = step if isinstance(step, HoldPointStep) else None
    return Call(
        **naming(state, cell) | {"text": _text(state, cell)},
        attempt=len(state.tries(cell.key)) + 1,
        ask=cell.ask,
        cautions=cell.cautions,
        deliberate=cell.deliberate,
        figure=limit_of(cell, shown.aim),
        lower=limit_of(cell, shown.lower),
        upper=limit_of(cell, shown.upper),
        stated=_stated(state, cell),
        computed=computed,
        fault=fault,
        units=units_of(cell, units),
        tool=tool.id if tool else None,
        tool_class=wanted.tool_class if wanted else None,
        sees=hold.sees if hold else (),
        signed_by=hold.signed_by.value if hold else None,
        not_before=_not_before(state, cell, looking),
        why=step.why,
        choices=cell.choices,
        owing=tuple(one for one in cell.choices if one in OWES_WORDS),
        marked=wants_mark(cell),
        movement=_movement(state, cell),
        holds=_holds(state, cell),
        bites=step.bites if isinstance(step, AngleStep) else None,
        flat_deg=flat_deg(state, cell),
        laddered=cell.rule is Rule.RELEASE,
        stillness=cell.rule is Rule.STAYED,
        signed=cell.ask is InputType.VALUE and cell.plausible is not None and cell.plausible[0] < 0.0,
        as_stretch=cell.rule is Rule.STRETCH,
        details=said.details | _top(state, cell) | _used(state, cell) | _product(state, cell) | _mark(state, cell),
        lines=said.lines,
        own=_own(state, cell, units),
        confirmed_by=wanted_rank(state, cell),
        somebody_else=somebody_else(state, cell, looking),
        may_leave_out=may_be_left_out(state, cell),
        for_engine=may_be_left_to_engine(state, cell),
        turns_crank=turns_crank(state, cell),
        moves_crank=moves_crank(state, cell),
        set_to=set_to(state, cell),
        starts=starts(state, cell),
        also=_also(state, cell, looking),
        photograph=isinstance(step, InspectStep) and step.photograph,
        photos=sum(state.definition.by_key[p.cell].step == cell.step for p in state.photos),
        done=sum(state.live(c.key) is not None for c in peers),
        total=len(peers),
    )


def _also(state: RunState, cell: Cell, looking: Looking | None) -> dict[str, str]:
    words = {} if looking is None else state.definition.procedure.in_other_words(looking.language)
    if not words:
        return {}
    step = state.definition.steps_by_id[cell.step_id]
    sees = step.sees if isinstance(step, HoldPointStep) else ()
    told = (step.title, step.why, _text(state, cell), *cell.cautions, *cell.choices, *sees)
    return {text: words[text] for text in told if text is not None and text in words}


def _movement(state: RunState, cell: Cell) -> Figure | None:
    wanted = expected_movement_deg(state, cell) if cell.rule is Rule.MOVED else None
    return None if wanted is None else figure(wanted, Quantity.ANGLE, "deg")


def _holds(state: RunState, cell: Cell) -> Figure | None:
    if cell.ask not in (InputType.PULL, InputType.TURN):
        return None
    load = before(state, cell).load_N
    return figure(load, Quantity.FORCE, "kN") if load else None


def _text(state: RunState, cell: Cell) -> str | None:
    """Return the author's words; the effort on the nut bar is a number with its unit.

    A torque is that for the lubricant that is on the bolts.
    """
    step = state.definition.steps_by_id[cell.step_id]
    if cell.what is CellItem.PULL and isinstance(step, TorqueStep | SettlingPassStep | CheckTripStep):
        now = torque_Nm(state, cell, step.torque.value)
        shown = stated_figure(now, Quantity.TORQUE, step.torque.unit)
        return cell.text if now == step.torque.value else f"{shown.text} {shown.unit}"
    if cell.what is not CellItem.NUT or cell.text is None:
        return words_of(state, cell)
    number, unit = cell.text.split(" ", 1)
    return f"{number} {symbol(unit)}"


def _aim(state: RunState, cell: Cell) -> Shown:
    """Return aim and band as they are read; a length that somebody expects is easily copied, so none is shown."""
    if cell.rule is Rule.GROWTH:
        return Shown(None, None, None)
    if cell.rule is Rule.FRICTION:
        tested = range_tested_against(state, cell)
        return Shown(None, None, None) if tested is None else Shown(None, tested[0], tested[2])
    stated, shown = Shown(cell.target, cell.lower, cell.upper), shown_on(state, cell)
    if shown is None or (only_rounded(state, cell) and cell.unit != "N.m"):
        return stated
    # A band ends on marks of the wrench; its aim stays the book's.
    return replace(shown, aim=cell.target) if only_rounded(state, cell) else shown


def _stated(state: RunState, cell: Cell) -> Figure | None:
    stated = limit_of(cell, cell.target)
    return None if stated == limit_of(cell, _aim(state, cell).aim) else stated


def _computed(state: RunState, cell: Cell) -> tuple[Figure | None, Fault | None]:
    """Return a figure that is worked out from others, or why it cannot be: readings once stored stay stored."""
    if cell.ask is not InputType.SEEN:
        return None, None
    try:
        return in_cell_unit(cell, seen_judgement(state, cell).judged), None
    except Refusal as why:
        return None, Fault(code=why.code, params=why.params)


_TYPED: Final = {
    Quantity.LENGTH: ("mm", "in", "thou", "um"),
    Quantity.PRESSURE: ("bar", "MPa", "psi", "kgf/cm2"),
    Quantity.TEMPERATURE: ("degC", "degF"),
    Quantity.TORQUE: ("N.m", "lbf.ft", "lbf.in", "kgf.m", "kgf.cm"),
}
"""Every unit that an instrument of the trade has on its scale; any other quantity is offered in all that are read."""


def _own(state: RunState, cell: Cell, units: Units) -> OwnUnits | None:
    liked = units.get(cell.quantity) if cell.quantity is not None else None
    if liked is None or liked == cell.unit or cell.unit is None:
        return None
    theirs = replace(cell, unit=liked)
    shown = _aim(state, cell)
    return OwnUnits(
        figure=in_cell_unit(theirs, shown.aim),
        lower=in_cell_unit(theirs, shown.lower),
        upper=in_cell_unit(theirs, shown.upper),
    )


def units_of(cell: Cell, units: Units) -> tuple[str, ...]:
    """Return the unit names that a typed value may have, the one that is shown first at the head."""
    if cell.quantity is None or cell.unit is None:
        return ()
    if cell.ask in (InputType.PULL, InputType.TURN):
        return ("deg", FLATS)
    offered = _TYPED.get(cell.quantity, tuple(UNIT_NAMES[cell.quantity]))
    first = units.get(cell.quantity, cell.unit)
    return tuple(dict.fromkeys((first, cell.unit, *offered)))


def _not_before(state: RunState, cell: Cell, looking: Looking | None) -> datetime | None:
    if looking is not None and looking.stood is not None and waits_for_engine(state, cell):
        return stood_long_enough(cell, looking.stood)
    since = [a.done_at for a in (state.live(key) for key in cell.needs) if a is not None]
    return max(since) + timedelta(seconds=cell.wait_s) if cell.wait_s > 0 and since else None
