"""Everything the Bench shows of one run, in one piece."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Literal
from uuid import UUID

from jorvek.core.procedure.steps import AngleStep, HoldPointStep, StepKind, ToolIssueStep
from jorvek.core.refusal import Refusal
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Ask, Cell, Rule
from jorvek.core.run.details import WORDED_KINDS
from jorvek.core.run.figures import Figure, figure
from jorvek.core.run.judge import ceiling_for, expected_length, seen_judgement
from jorvek.core.run.plan import CellState, Plan, cell_state, open_keys, plan_of
from jorvek.core.run.progress import Debt, complete, debts, last_reading, open_cells
from jorvek.core.run.readings import Row, View, aim_figure, in_cell_unit, row_of, step_title
from jorvek.core.run.redo import demand_moment
from jorvek.core.run.state import RunState
from jorvek.core.run.turned import FLATS, before, expected_movement_deg
from jorvek.core.units import UNIT_NAMES, Quantity, symbol

Standing = Literal["call", "blocked", "paused", "complete", "closed"]


class Call(View):
    """One call: what to do, on which fastener, to what.

    Attributes:
        figure: the number to be read across the engine.
        on_tool: what the drawn instrument shows for it, when that differs.
        computed: a figure worked out by the core, to be seen and confirmed.
        units: unit names that a typed value may have, the author's first.
        not_before: when a held pressure has stood long enough.
        why: the author's reason for the step.
        worded: the author's words say what is asked, not the catalogue.
        choices: answers to choose from: codes, or the author's names of parts.
        movement: about how far a pull should move.
        holds: load that the fastener's stages so far stand for.
        bites: how many pulls may make up an angle.
        points: points of the turned form, for angles in flats.
        details: what the step states, by the name of the field, as it is to be shown.
        lines: lists that the step states, by the name of the field.
        piece: what the fastener is.
    """

    cell: str
    attempt: int
    step: str
    title: str
    kind: StepKind
    item: str
    ask: Ask
    fastener: str | None
    text: str | None
    cautions: tuple[str, ...]
    deliberate: bool
    figure: Figure | None
    lower: Figure | None
    upper: Figure | None
    on_tool: Figure | None
    computed: Figure | None
    units: tuple[str, ...]
    tool: str | None
    tool_class: str | None
    sees: tuple[str, ...]
    signed_by: str | None
    not_before: datetime | None
    why: str | None
    worded: bool
    choices: tuple[str, ...]
    movement: Figure | None
    holds: Figure | None
    bites: int | None
    points: int | None
    details: dict[str, str]
    lines: dict[str, tuple[str, ...]]
    piece: Literal["stud", "bolt"]
    done: int
    total: int


class RibbonCell(View):
    """One cell of the pass ribbon."""

    cell: str
    item: str
    fastener: str | None
    state: CellState
    taken_back: int


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
    """A reading that stands outside or too near its limits, and what may be done about it."""

    row: Row
    may_strike: bool


class Owed(View):
    """Something owed before the run can close."""

    kind: str
    cell: str
    attempt: int
    item: str
    fastener: str | None
    title: str
    text: str | None


class TroubleView(View):
    """Something that went wrong; ``how`` is None while it is open."""

    seq: int
    what: str
    cell: str
    fastener: str | None
    title: str
    by: str
    at: datetime
    how: str | None
    words: str | None
    ended_by: str | None


class WatchView(View):
    """Who worked from when."""

    by: str
    person_id: UUID
    at: datetime


class RemarkView(View):
    """A note."""

    by: str
    at: datetime
    text: str


class BenchView(View):
    """The whole Bench for one run at one sequence number."""

    run_id: UUID
    seq: int
    standing: Standing
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
    ribbon: tuple[RibbonRow, ...]
    last: Row | None
    last_may_strike: bool
    questions: tuple[OpenQuestion, ...]
    owed: tuple[Owed, ...]
    watch: WatchView
    watches: tuple[WatchView, ...]
    remarks: tuple[RemarkView, ...]
    troubles: tuple[TroubleView, ...]


def bench_view(run_id: UUID, state: RunState) -> BenchView:
    """Return the Bench of a run. The screen adds nothing and judges nothing."""
    procedure = state.definition.procedure
    last = last_reading(state)
    watches = tuple(WatchView(by=w.by.name, person_id=w.by.id, at=w.at) for w in state.watches)
    owed = debts(state)
    return BenchView(
        run_id=run_id,
        seq=state.seq,
        standing=standing(state),
        engine=state.started.engine.name,
        engine_id=state.started.engine.id,
        joint=state.started.joint_label,
        joint_key=state.started.joint_key,
        procedure_title=procedure.title,
        revision=procedure.revision,
        procedure_hash=state.definition.procedure_hash,
        started_at=state.started_at,
        plan=plan_of(state),
        calls=tuple(_call(state, cell) for cell in open_cells(state)),
        ribbon=_ribbon(state),
        last=row_of(state, last) if last else None,
        last_may_strike=last is not None and _may_strike(state, last.cell),
        questions=_questions(state, owed),
        owed=tuple(_owed(state, debt) for debt in owed),
        watch=watches[-1],
        watches=watches,
        remarks=tuple(RemarkView(by=r.by.name, at=r.at, text=r.text) for r in state.remarks),
        troubles=troubles_of(state),
    )


def troubles_of(state: RunState) -> tuple[TroubleView, ...]:
    """Return everything that went wrong in a run, and how each ended."""
    found = []
    for trouble in state.troubles:
        cell = state.definition.by_key[trouble.cell]
        found.append(
            TroubleView(
                seq=trouble.seq,
                what=trouble.what.value,
                cell=cell.key,
                fastener=cell.fastener,
                title=step_title(state, cell.step),
                by=trouble.by.name,
                at=trouble.at,
                how=trouble.how,
                words=trouble.words,
                ended_by=trouble.ended_by.name if trouble.ended_by else None,
            )
        )
    return tuple(found)


def standing(state: RunState) -> Standing:
    """Return why there is a next call, or why there is none."""
    if state.status != "open":
        return state.status
    if open_cells(state):
        return "call"
    return "complete" if complete(state) else "blocked"


def _top(state: RunState, cell: Cell) -> dict[str, str]:
    """Return the pressure that is never passed while nuts are let free, in the unit that is read."""
    top = ceiling_for(state, cell) if cell.kind == "loosen_pressure" and cell.unit else None
    shown = in_cell_unit(cell, top)
    return {} if shown is None else {"ceiling": f"{shown.text} {shown.unit}"}


def _call(state: RunState, cell: Cell) -> Call:
    step = state.definition.steps_by_id[cell.step_id]
    peers = [c for c in state.definition.cells if c.step == cell.step]
    target, lower, upper = _limits(state, cell)
    said = state.definition.stated[cell.step_id]
    tool = state.tool(cell.tool_role)
    wanted = (
        next((t for t in step.tools if t.role == cell.tool_role), None) if isinstance(step, ToolIssueStep) else None
    )
    hold = step if isinstance(step, HoldPointStep) else None
    return Call(
        cell=cell.key,
        attempt=len(state.tries(cell.key)) + 1,
        step=cell.step,
        title=step_title(state, cell.step),
        kind=step.kind,
        item=cell.item,
        ask=cell.ask,
        fastener=cell.fastener,
        text=_text(cell),
        cautions=cell.cautions,
        deliberate=cell.deliberate,
        figure=in_cell_unit(cell, target),
        lower=in_cell_unit(cell, lower),
        upper=in_cell_unit(cell, upper),
        on_tool=aim_figure(state, cell),
        computed=_computed(state, cell),
        units=_units(cell),
        tool=tool.id if tool else None,
        tool_class=wanted.tool_class if wanted else None,
        sees=hold.sees if hold else (),
        signed_by=hold.signed_by.value if hold else None,
        not_before=_not_before(state, cell),
        why=step.why,
        worded=cell.worded or cell.kind in WORDED_KINDS,
        choices=cell.choices,
        movement=_movement(state, cell),
        holds=_holds(state, cell),
        bites=step.bites if isinstance(step, AngleStep) else None,
        points=state.definition.procedure.group_of(cell.fastener).points() if cell.fastener else None,
        details=said.details | _top(state, cell),
        lines=said.lines,
        piece=state.definition.piece_of(cell.fastener),
        done=sum(state.live(c.key) is not None for c in peers),
        total=len(peers),
    )


def _movement(state: RunState, cell: Cell) -> Figure | None:
    wanted = expected_movement_deg(state, cell) if cell.rule is Rule.MOVED else None
    return None if wanted is None else figure(wanted, Quantity.ANGLE, "deg")


def _holds(state: RunState, cell: Cell) -> Figure | None:
    if cell.ask not in (Ask.PULL, Ask.TURN):
        return None
    load = before(state, cell).load_N
    return figure(load, Quantity.FORCE, "kN") if load else None


def _text(cell: Cell) -> str | None:
    """Return the author's words; the effort on the nut bar is a number with its unit."""
    if cell.item != "nut" or cell.text is None:
        return cell.text
    number, unit = cell.text.split(" ", 1)
    return f"{number} {symbol(unit)}"


def _limits(state: RunState, cell: Cell) -> tuple[float | None, float | None, float | None]:
    if cell.rule in (Rule.GROWTH, Rule.STRETCH):
        return expected_length(state, cell)
    return cell.target, cell.lower, cell.upper


def _computed(state: RunState, cell: Cell) -> Figure | None:
    if cell.ask is not Ask.SEEN:
        return None
    return in_cell_unit(cell, seen_judgement(state, cell).judged)


_TYPED = {
    Quantity.LENGTH: ("mm", "in"),
    Quantity.PRESSURE: ("bar", "MPa", "psi"),
    Quantity.TEMPERATURE: ("degC", "degF"),
    Quantity.TORQUE: ("N.m", "lbf.ft", "kgf.m"),
}


def _units(cell: Cell) -> tuple[str, ...]:
    if cell.quantity is None or cell.unit is None:
        return ()
    if cell.ask in (Ask.PULL, Ask.TURN):
        return ("deg", FLATS)
    offered = _TYPED.get(cell.quantity, tuple(UNIT_NAMES[cell.quantity]))
    return (cell.unit, *(u for u in offered if u != cell.unit))


def _not_before(state: RunState, cell: Cell) -> datetime | None:
    since = [a.at for a in (state.live(key) for key in cell.needs) if a is not None]
    return max(since) + timedelta(seconds=cell.wait_s) if cell.wait_s > 0 and since else None


def _ribbon(state: RunState) -> tuple[RibbonRow, ...]:
    now = open_keys(state)
    return tuple(_ribbon_row(state, step, cells, now) for step, cells in state.definition.steps)


def _ribbon_row(state: RunState, step: str, cells: tuple[Cell, ...], now: frozenset[str]) -> RibbonRow:
    return RibbonRow(
        step=step,
        title=step_title(state, step),
        kind=cells[0].kind,
        cells=tuple(
            RibbonCell(
                cell=c.key,
                item=c.item,
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


def _may_strike(state: RunState, key: str) -> bool:
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
            questions.append(OpenQuestion(row=row_of(state, live), may_strike=_may_strike(state, debt.cell)))
    return tuple(questions)


def _owed(state: RunState, debt: Debt) -> Owed:
    cell = state.definition.by_key[debt.cell]
    return Owed(
        kind=debt.kind.value,
        cell=debt.cell,
        attempt=debt.attempt,
        item=cell.item,
        fastener=debt.fastener,
        title=step_title(state, cell.step),
        text=cell.text,
    )
