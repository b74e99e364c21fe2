"""What a run says of its joint to the engine: its condition, what sits on it or hangs, what is carried to others."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal
from uuid import UUID

from jorvek.core.engine.layout import JointKind
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.state import JointState
from jorvek.core.metal.sweep import standing
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.metal_parts import LADDERS, Condition, MetalPart
from jorvek.core.procedure.parts import Isolation
from jorvek.core.procedure.steps import CrankPositionStep, GateStep, MakeSafeStep, RestoreStep
from jorvek.core.procedure.steps.debts import DisturbStep, OwingStep
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.events import LeftToEngineAnswer, RuleDeparted
from jorvek.core.run.log.state import RunState, once
from jorvek.core.run.rules.dangers import zero_after
from jorvek.core.run.rules.engine_effects import gives_back, point_of
from jorvek.core.run.rules.metal import metal_now, moves_of
from jorvek.core.run.rules.progress import DebtKind, debts
from jorvek.core.run.views.labels import View
from jorvek.core.units import Quantity


class Carried(View):
    """Something that a run leaves for another procedure to put right.

    Attributes:
        cell: where it arose.
        point: the author's name of the point.
        text: the author's words.
        to: procedure that puts it right; None where none is named.
        disturbed: a neighbour was slackened or moved on purpose.
        at: when it arose, ISO 8601.
        slackens: kind of the joints on either side that were slackened.
    """

    cell: str
    point: str
    text: str
    to: str | None
    disturbed: bool = False
    at: str = ""
    slackens: JointKind | None = None


class PartOut(View):
    """A part that hangs, stands in the sweep of the crank, was left on or in the engine, or is out of its place.

    Attributes:
        id: its name within the document of its run.
    """

    id: str
    kind: str
    called: str


class RunOnEngine(View):
    """A run as the engine sees it.

    Attributes:
        kind: what sort of joint it is on.
        procedure: its document's name.
        begins: condition in which it begins.
        leaves: condition in which it leaves the joint.
        condition: condition of the joint now; None where nobody can tell.
        selection: how the options are chosen.
        started: server time of its start, ISO 8601.
        changed: server time of the newest thing said in it, ISO 8601.
        open: whether it is under way.
        in_hand: whether somebody is at it; handed over or broken off, nobody is.
        tools_on: a tool sits on a stud.
        under_pressure: oil pressure stands in a tool.
        in_sweep: parts that stand in the way of the crank.
        opens: parts that are not in their place, so that the crankcase is open there.
        hung: parts that hang.
        left_on: what was brought for the work and is still on or in the engine.
        overhaul: the overhaul that it was started in.
        carried: what it leaves for others to put right.
        settled: when it put points of earlier procedures right, by point, ISO 8601.
        measured: it has begun to measure a gate.
        gates_bad: a gate that it measured is not good, or not whole.
        crank_cell: the call that holds the crank where it is; None where none does.
        isolated: points that it made safe, with the call of each.
        restored: points that it gave back, with the call of each.
        drawn: tools that it drew, by number, with the call of each.
        idle: tools that it drew and has no further call for.
        bound: tools that sit on studs in it, and the gauges that show their pressure: such a tool is in one place.
        on_studs: those of them that sit there now.
        departed: rules of the engine sheet that it departs from.
        by: who works on it.
        by_id: the same, as the register knows them.
    """

    run_id: UUID
    joint: str
    kind: JointKind
    label: str
    procedure: str
    title: str
    purpose: Literal["tighten", "loosen"]
    begins: Condition | None
    leaves: Condition | None
    condition: Condition | None
    selection: dict[str, str]
    overhaul: UUID | None
    started: str
    changed: str
    open: bool
    in_hand: bool
    tools_on: bool
    under_pressure: bool
    in_sweep: tuple[PartOut, ...]
    opens: tuple[PartOut, ...]
    hung: tuple[PartOut, ...]
    left_on: tuple[PartOut, ...]
    carried: tuple[Carried, ...]
    settled: dict[str, str]
    measured: bool
    gates_bad: bool
    crank_cell: str | None
    isolated: dict[Isolation, str]
    restored: dict[Isolation, str]
    drawn: dict[str, str]
    idle: tuple[str, ...]
    bound: tuple[str, ...]
    on_studs: tuple[str, ...]
    departed: tuple[RuleDeparted, ...]
    by: str
    by_id: UUID


def on_engine(run_id: UUID, state: RunState) -> RunOnEngine:
    """Return a run as the engine sees it."""
    procedure, started = state.definition.procedure, state.started
    moves, metal = moves_of(state), metal_now(state)
    is_open = state.status != "closed"
    return RunOnEngine(
        run_id=run_id,
        joint=started.joint_key,
        kind=procedure.applies_to.joint,
        label=started.joint_label,
        procedure=procedure.id,
        title=procedure.title,
        purpose=procedure.applies_to.purpose,
        begins=procedure.begins,
        leaves=procedure.leaves,
        condition=condition_now(state),
        selection=dict(started.selection),
        overhaul=started.overhaul,
        started=state.started_at.isoformat(),
        changed=state.last_at.isoformat(),
        open=is_open,
        in_hand=state.status == "open",
        tools_on=_any_on(state),
        under_pressure=is_open and _under_pressure(state),
        in_sweep=tuple(_out(p) for p in standing(moves, metal)),
        opens=tuple(_out(p) for p in moves.parts.values() if p.traits.opens_crankcase and not metal.fitted(p.id)),
        hung=tuple(_out(p) for p in moves.parts.values() if metal.where(p.id) == "hung"),
        left_on=tuple(_out(p) for p in moves.parts.values() if _left_on(metal, p)),
        carried=carried_over(state),
        settled=_settled(state),
        measured=any(True for _ in _gates(state)),
        gates_bad=not all(_gates(state)),
        crank_cell=_crank_cell(state) if is_open else None,
        isolated=dict(_points(state, MakeSafeStep)),
        restored=dict(_points(state, RestoreStep)),
        drawn=dict(_drawn(state)),
        idle=tuple(_idle(state)),
        bound=tuple(_bound(state)),
        on_studs=tuple(_bound(state)) if is_open and _any_on(state) else (),
        departed=started.departures,
        by=state.watches[-1].by.name,
        by_id=state.watches[-1].by.id,
    )


_MAIN_PART: Final = {"head": "head", "liner": "liner"}


def condition_now(state: RunState) -> Condition | None:
    """Return the condition of the joint as the work on it has left it so far; None where nobody can tell.

    On the way apart it changes as soon as the metal does. On the way together it is what the procedure leaves
    only once the run is closed: until then somebody may still find it wrong.
    """
    procedure = state.definition.procedure
    if state.status == "closed":
        return procedure.leaves
    if procedure.begins is None or not procedure.parts:
        return procedure.begins if not state.attempts else None
    moves, metal = moves_of(state), metal_now(state)
    held = [p for p in moves.parts.values() if p.held_by] or _own(moves)
    if any(metal.where(p.id) == "unknown" for p in held):
        return None
    if any(not metal.fitted(p.id) for p in held):
        return "open"
    return _in_place(state, moves, metal, held)


def _own(moves: PlannedMoves) -> list[MetalPart]:
    kind = _MAIN_PART.get(moves.procedure.applies_to.joint.value)
    return [p for p in moves.parts.values() if p.kind == kind]


def _in_place(state: RunState, moves: PlannedMoves, metal: JointState, held: list[MetalPart]) -> Condition | None:
    procedure = state.definition.procedure
    names = moves.names_of(*(group for part in held for group in part.held_by))
    begins = procedure.begins
    if begins in ("closed_up", "tight") and all(metal.holds[name] == "tight" for name in names):
        touched = any(True for _ in _carried(state))
        return "tight" if touched and "tight" in LADDERS[procedure.applies_to.joint] else begins
    if begins in ("closed_up", "tight", "loose") and procedure.applies_to.purpose == "loosen":
        return "loose"
    if begins == "open":
        return "landed" if "landed" in LADDERS[procedure.applies_to.joint] else "loose"
    return begins


def _left_on(metal: JointState, part: MetalPart) -> bool:
    return part.traits.brought and not part.traits.stays and metal.fitted(part.id)


def _out(part: MetalPart) -> PartOut:
    return PartOut(id=part.id, kind=part.kind, called=part.called)


@once
def carried_over(state: RunState) -> tuple[Carried, ...]:
    """Return what a run leaves for others to put right, in working order."""
    return (*_carried(state), *_left_to_engine(state))


def _carried(state: RunState) -> Iterator[Carried]:
    """Yield what was done here and is put right by another procedure."""
    for step, cells in state.definition.steps:
        stated = state.definition.steps_by_id[cells[0].step_id]
        if not isinstance(stated, OwingStep):
            continue
        paid_here = any(getattr(s, "of", None) == stated.id for s in state.definition.procedure.steps)
        if stated.carried_to is None and paid_here:
            continue
        for cell in cells:
            if state.worked(cell.key) and not _ended_here(state, cell):
                disturbed = stated if isinstance(stated, DisturbStep) else None
                words = None if disturbed is None else disturbed.puts_right
                text = " — ".join(t for t in (cell.text or step, words) if t)
                to, at = stated.carried_to, _when(state, cell.key)
                yield Carried(
                    cell=cell.key,
                    point=cell.item,
                    text=text,
                    to=to,
                    disturbed=disturbed is not None,
                    at=at,
                    slackens=None if disturbed is None else disturbed.slackens,
                )


def _when(state: RunState, key: str) -> str:
    live = state.live(key)
    return "" if live is None else live.done_at.isoformat()


def _ended_here(state: RunState, cell: Cell) -> bool:
    """Tell whether what a cell left owed was put right in the same run, though it may be carried to another."""
    ended = state.definition.ended_by.get(cell.key, ())
    return bool(ended) and all(state.worked(key) for key in ended)


def _left_to_engine(state: RunState) -> Iterator[Carried]:
    """Yield what was left to whoever is last, but for the isolations themselves: those the engine knows."""
    left = (a.cell for a in state.counting.values() if isinstance(a.answer, LeftToEngineAnswer))
    for key in sorted(left, key=state.definition.place_of):
        cell = state.definition.by_key[key]
        if gives_back(state, cell):
            continue
        text = cell.text or cell.step
        yield Carried(cell=cell.key, point=cell.item, text=text, to=None, at=_when(state, cell.key))


def _settled(state: RunState) -> dict[str, str]:
    """Return when the points of earlier procedures were put right here, by the author's name of the point."""
    found: dict[str, str] = {}
    for _, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if getattr(step, "of", None) == "before":
            done = ((c.item, state.live(c.key)) for c in cells if state.worked(c.key))
            found |= {item: live.done_at.isoformat() for item, live in done if live is not None}
    return found


def _gates(state: RunState) -> Iterator[bool]:
    """Yield of every gate that was begun whether it is whole and good, or accepted by name."""
    for _, cells in state.definition.steps:
        if not isinstance(state.definition.steps_by_id[cells[0].step_id], GateStep):
            continue
        tries = [state.live(c.key) for c in cells]
        if any(a is not None for a in tries):
            yield all(a is not None and a.settled for a in tries)


def _crank_cell(state: RunState) -> str | None:
    """Return the call that brought the crank where it is, while work relies on it."""
    cells = [c for c in state.definition.cells if c.traits.crank == "turns" and state.worked(c.key)]
    last = cells[-1] if cells else None
    if last is None or not isinstance(state.definition.steps_by_id[last.step_id], CrankPositionStep):
        return None
    return next((c.key for c in state.definition.by_step[last.step] if c.what is CellItem.REACHED), None)


def _points(state: RunState, kind: type[MakeSafeStep | RestoreStep]) -> Iterator[tuple[Isolation, str]]:
    for _, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if isinstance(step, kind):
            for cell in cells:
                point = point_of(state, cell)
                if point is not None and state.worked(cell.key):
                    yield point, cell.key


def _drawn(state: RunState) -> Iterator[tuple[str, str]]:
    for cell in state.definition.cells:
        live = state.live(cell.key)
        if cell.ask is InputType.TOOL and live is not None and live.tool is not None:
            yield live.tool.id, cell.key


def _idle(state: RunState) -> Iterator[str]:
    """Yield the tools that have been used and have no further call: those of which nobody can tell are not idle."""
    on_studs = {tool.role for tool in state.definition.procedure.tensioners}
    for tool, key in _drawn(state):
        role = state.definition.by_key[key].tool_role
        mine = [c for c in state.definition.cells if c.key != key and _uses(c, role, on_studs)]
        if mine and all(state.live(c.key) is not None for c in mine):
            yield tool


def _uses(cell: Cell, role: str | None, on_studs: set[str]) -> bool:
    at_studs = role in on_studs and (cell.traits.tool != "none" or cell.traits.pressure != "none")
    return at_studs or (role is not None and cell.tool_role == role)


def _under_pressure(state: RunState) -> bool:
    """Tell whether oil pressure stands in a tool: it was brought up, and nobody has proved zero since."""
    tried = {one.step for one in state.ladder}
    for step, cells in state.definition.steps:
        raised = [c for c in cells if c.traits.pressure == "raises" and c.what in _BRINGS_UP and state.worked(c.key)]
        if raised or step in tried:
            zero = zero_after(state, cells[0].key)
            if zero is None or state.live(zero.key) is None:
                return True
    return False


_BRINGS_UP: Final = (CellItem.RAISE, CellItem.FREE, CellItem.PROVE)
"""Items after which oil pressure stands in a tool."""


def _any_on(state: RunState) -> bool:
    return any(d.kind is DebtKind.TOOL_ON for d in debts(state))


def _bound(state: RunState) -> Iterator[str]:
    roles = {tool.role for tool in state.definition.procedure.tensioners}
    for cell in state.definition.cells:
        live = state.live(cell.key)
        tool = live.tool if cell.ask is InputType.TOOL and live is not None else None
        if tool is not None and (cell.tool_role in roles or tool.quantity is Quantity.PRESSURE):
            yield tool.id
