"""Everything the Bench shows of one run, in one piece."""

from __future__ import annotations

from datetime import datetime
from typing import Final, Literal
from uuid import UUID

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import Attempt, RunState, once_a_step
from jorvek.core.run.rules.ageing import Aged, asked_now
from jorvek.core.run.rules.dangers import asked_again, let_down, may_be_rejected, never_accepted, stays_free
from jorvek.core.run.rules.progress import Debt, complete, debts, last_reading, open_cells, waiting_their_turn
from jorvek.core.run.rules.redo import demand_moment
from jorvek.core.run.views.annotations import (
    Owed,
    PartView,
    SisterView,
    TroubleView,
    WatchView,
    owed_views,
    part_views,
    sister_views,
    troubles_of,
)
from jorvek.core.run.views.calls import Call, Fault, call_of
from jorvek.core.run.views.claims import ClaimView, claim_views
from jorvek.core.run.views.joint_plan import CellState, Plan, cell_state, open_keys, plan_of
from jorvek.core.run.views.labels import View, step_title, words_of
from jorvek.core.run.views.ladder import PressureLadder, StuckView, ladder_of, open_stuck
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.on_engine import carried_over
from jorvek.core.run.views.rows import Row, row_of

RunStatus = Literal["call", "elsewhere", "blocked", "paused", "complete", "closed"]


class RibbonCell(View):
    """One cell of the pass ribbon; a point of the author's own is read out in the author's words."""

    cell: str
    item: str
    text: str | None
    fastener: str | None
    state: CellState
    taken_back: int


def _ribbon_item(cell: Cell) -> str:
    """Return what the catalogue calls a cell; a point of the author's own is a tick, and a tool a tool."""
    if cell.ask is InputType.TOOL:
        return _TOOL
    return _TICK if cell.ask is InputType.TICK and cell.in_author_words else cell.item


_TICK: Final = "other"
_TOOL: Final = "tool"


class RibbonRow(View):
    """One row of the pass ribbon: a step with its cells in working order."""

    step: str
    title: str
    kind: str
    cells: tuple[RibbonCell, ...]
    done: int
    total: int
    current: bool


class OpenQuestion(View):
    """A reading that stands outside or too near its limits, and what may be done about it.

    A fault of a part or a face may be there on joints of the same kind; a pull or a pressure is this fastener's own.

    Attributes:
        may_accept: whether anybody at all may accept it by name.
        may_reject: whether its fastener may come out instead.
        let_down_first: whether the oil is still past its limit.
    """

    row: Row
    may_strike: bool
    may_redo: bool
    may_accept: bool
    may_reject: bool
    let_down_first: bool
    may_concern_sisters: bool


class AgeView(View):
    """Something past its time that the next call relies on."""

    step: str
    title: str
    kind: str
    minutes: int
    limit_minutes: int
    only_again: bool


class Later(View):
    """A fastener that only waits for its turn."""

    cell: str
    fastener: str


class GearNow(View):
    """The turning gear is free for a move of the crank: who commands it, and whether a call of this run asks for it."""

    commander: str
    own: bool


class BenchView(View):
    """The whole Bench for one run at one sequence number, for one person.

    Attributes:
        fault: that the rest cannot be worked out, and why; None on a whole Bench.
        calls: what may be done now, the person's own part first; what others have taken is not among it.
        later: fasteners of the present step that only wait for their turn.
        ages: what must be answered before the next call.
        ladder: the shared pressure while nuts are let free; the same on every tablet.
        stuck: nuts that will not move and wait for a decision.
        parts: who works on what, where the work is shared.
        carried: what it leaves for other procedures to put right, in the author's words.
        gear: that the turning gear is free, so that hands stay out; None while it is locked, or nobody speaks of it.
    """

    run_id: UUID
    seq: int
    fault: Fault | None
    status: RunStatus
    engine: str
    engine_id: str
    joint: str
    joint_key: str
    procedure_title: str
    revision: str
    procedure_hash: str
    started_at: datetime
    plan: Plan
    calls: tuple[Call, ...]
    later: tuple[Later, ...]
    ages: tuple[AgeView, ...]
    parts: tuple[PartView, ...]
    sister_checks: tuple[SisterView, ...]
    ribbon: tuple[RibbonRow, ...]
    last: Row | None
    last_may_strike: bool
    questions: tuple[OpenQuestion, ...]
    owed: tuple[Owed, ...]
    carried: tuple[str, ...]
    watch: WatchView
    troubles: tuple[TroubleView, ...]
    ladder: PressureLadder | None
    stuck: tuple[StuckView, ...]
    claims: tuple[ClaimView, ...]
    gear: GearNow | None


def bench_view(run_id: UUID, state: RunState, looking: Looking) -> BenchView:
    """Return the Bench of a run for the one who looks. The screen adds nothing and judges nothing."""
    procedure = state.definition.procedure
    last = last_reading(state)
    watch = state.watches[-1]
    owed, mine = debts(state), open_for(state, looking.person_id)
    return BenchView(
        run_id=run_id,
        seq=state.seq,
        fault=None,
        status=status_of(state) if mine or not open_cells(state) else "elsewhere",
        engine=state.started.engine.name,
        engine_id=state.started.engine.id,
        joint=state.started.joint_label,
        joint_key=state.started.joint_key,
        procedure_title=procedure.title,
        revision=procedure.revision,
        procedure_hash=state.definition.procedure_hash,
        started_at=state.started_at,
        plan=plan_of(state),
        calls=tuple(call_of(state, cell, looking) for cell in mine),
        later=tuple(
            Later(cell=c.key, fastener=c.fastener) for c in waiting_their_turn(state) if c.fastener is not None
        ),
        ages=tuple(_age(state, one) for one in asked_now(state, looking.now)),
        parts=part_views(state),
        sister_checks=sister_views(state),
        ribbon=_ribbon(state),
        last=row_of(state, last) if last else None,
        last_may_strike=last is not None and may_strike(state, last.cell),
        questions=_questions(state, owed),
        owed=owed_views(state),
        carried=tuple(one.text for one in carried_over(state)),
        watch=WatchView(by=watch.by.name, person_id=watch.by.id, at=watch.at),
        troubles=troubles_of(state),
        ladder=ladder_of(state),
        stuck=open_stuck(state),
        claims=tuple(claim for claim in claim_views(state) if claim.taken is None),
        gear=gear_now(state),
    )


def gear_now(state: RunState) -> GearNow | None:
    """Return that the turning gear is free; None while it is locked, or nobody speaks of it."""
    return None if state.gear is None else GearNow(commander=state.gear.commander, own=state.gear.own)


def open_for(state: RunState, person_id: UUID) -> tuple[Cell, ...]:
    """Return the cells that a person may fill now: first those of their own part, none of another's."""
    taken = {name: part.by.id for part in state.parts for name in part.fasteners}
    cells = [c for c in open_cells(state) if taken.get(c.fastener or "", person_id) == person_id]
    return tuple(sorted(cells, key=lambda c: c.fastener not in taken))


def _age(state: RunState, old: Aged) -> AgeView:
    return AgeView(
        step=old.what.step,
        title=step_title(state, old.what.step),
        kind=old.what.kind,
        minutes=round(old.age_s / 60),
        limit_minutes=round(old.what.limit_s / 60),
        only_again=old.what.only_again,
    )


def status_of(state: RunState) -> RunStatus:
    """Return why there is a next call, or why there is none."""
    if state.status != "open":
        return state.status
    if open_cells(state):
        return "call"
    return "complete" if complete(state) else "blocked"


def _ribbon(state: RunState) -> tuple[RibbonRow, ...]:
    now = open_keys(state)
    open_steps = {state.definition.by_key[key].step for key in now}
    return tuple(
        _ribbon_row(state, step, now) if step in open_steps else _shut_row(state, step)
        for step, _ in state.definition.steps
    )


@once_a_step
def _shut_row(state: RunState, step: str) -> RibbonRow:
    return _ribbon_row(state, step, frozenset())


def _ribbon_row(state: RunState, step: str, now: frozenset[str]) -> RibbonRow:
    cells = state.definition.by_step[step]
    return RibbonRow(
        step=step,
        title=step_title(state, step),
        kind=cells[0].kind,
        cells=tuple(
            RibbonCell(
                cell=c.key,
                item=_ribbon_item(c),
                text=words_of(state, c) if c.in_author_words else None,
                fastener=c.fastener,
                state=cell_state(state, c, now),
                taken_back=sum(not a.live for a in state.tries(c.key)),
            )
            for c in cells
        ),
        done=sum(state.live(c.key) is not None for c in cells),
        total=len(cells),
        current=any(c.key in now for c in cells),
    )


def may_strike(state: RunState, key: str) -> bool:
    """Tell whether the reading of a cell may still be struck."""
    try:
        demand_moment(state, state.definition.by_key[key])
    except Refusal:
        return False
    return state.status == "open"


def _questions(state: RunState, owed: tuple[Debt, ...]) -> tuple[OpenQuestion, ...]:
    questions: list[OpenQuestion] = []
    for debt in owed:
        live = state.live(debt.cell)
        if debt.verdict in (ev.Verdict.OUT_OF_BAND, ev.Verdict.TOO_NEAR) and live is not None:
            questions.append(_question(state, state.definition.by_key[debt.cell], live))
    return tuple(questions)


def _question(state: RunState, cell: Cell, live: Attempt) -> OpenQuestion:
    first = bool(let_down(state))
    return OpenQuestion(
        row=row_of(state, live),
        may_strike=may_strike(state, cell.key),
        may_redo=not first and not asked_again(state, cell) and not stays_free(state, live),
        may_accept=not never_accepted(state, live),
        may_reject=not first and may_be_rejected(state, live),
        let_down_first=first,
        may_concern_sisters=cell.traits.on_same_kind,
    )
