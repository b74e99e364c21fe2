"""What a call of a run means for the engine as a whole: held against it before, told to its log with it."""

from __future__ import annotations

from datetime import datetime
from functools import partial
from typing import Final
from uuid import UUID, uuid5

from jorvek.core.engine.layout import joints_of
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.crank import engine_angle
from jorvek.core.overhaul.rules.hot_work import demand_no_hot_work
from jorvek.core.overhaul.rules.joint_conditions import counts
from jorvek.core.overhaul.rules.return_to_service import CHECKS, relying
from jorvek.core.overhaul.rules.stops import demand_stood
from jorvek.core.overhaul.rules.sweep import demand_clear, demand_gear_free, demand_nobody_inside
from jorvek.core.procedure.steps import CrankPositionStep, RestoreStep
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import Command, CommandBase, KeyIn, RecordReading, SettleClaim, StrikeReading
from jorvek.core.run.log.events import ClaimSettled, EventData, LeftOutAnswer, LeftToEngineAnswer, Recorded
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.engine_effects import (
    moves_crank,
    moves_door,
    opens_crankcase,
    point_of,
    shuts_door,
    turns_crank,
)
from jorvek.store.eventlog import Stamp
from jorvek.work.engine.overhauls import EngineNow, ask_again, engine_now, open_on
from jorvek.work.workshop import Workshop

_WIDE: Final = ("make_safe", "restore")


def engine_for(workshop: Workshop, run_id: UUID, state: RunState, command: Command) -> EngineNow | None:
    """Return the engine for a command that concerns it as a whole; None for any other, and for runs of no overhaul."""
    cell = _cell(state, command)
    if cell is None or not _concerns_engine(state, cell):
        return None
    overhaul = open_on(workshop, state.started.engine.id)
    if overhaul is None:
        return None
    now = engine_now(workshop, overhaul)
    mine = next((run for run in now.runs if run.run_id == run_id), None)
    return now if mine is not None and counts(overhaul, mine) else None


def _concerns_engine(state: RunState, cell: Cell) -> bool:
    of_crank = cell.kind in _WIDE or cell.traits.crank == "turns"
    return of_crank or moves_door(state, cell) or _after_restore(state, cell)


def _cell(state: RunState, command: Command) -> Cell | None:
    if isinstance(command, RecordReading | KeyIn | StrikeReading):
        return state.definition.by_key.get(command.cell)
    if isinstance(command, SettleClaim) and command.take:
        # Work from a lost link, taken in: it does to the engine what it would have done at once.
        work = next((one.said.work for one in state.claims if one.seq == command.claim), None)
        return state.definition.by_key.get(work.cell) if work is not None and work.cell is not None else None
    return None


def _after_restore(state: RunState, cell: Cell) -> bool:
    return any(
        order.step == cell.step_id
        for step in state.definition.procedure.steps
        if isinstance(step, RestoreStep)
        for order in step.must_precede
    )


def relied_on(now: EngineNow, state: RunState) -> tuple[str, ...]:
    """Return what else on the engine relies on its isolations."""
    return tuple(relying(now.overhaul, now.sheet, now.runs, state.started.joint_label))


def demand_engine_allows(now: EngineNow, run_id: UUID, state: RunState, command: Command, at: datetime) -> None:
    """Refuse what the engine as a whole does not allow: turning the crank, giving back an isolation, moving a door.

    Raises:
        Refusal: ``sweep_blocked``, ``person_inside``, ``hot_work_there``, ``not_stood``.
    """
    cell = _cell(state, command)
    if cell is None or _not_done(command):
        return
    if isinstance(command, StrikeReading):
        # What somebody inside relies on is not taken from under them by a correction.
        if cell.kind == "make_safe":
            demand_nobody_inside(now.overhaul)
        return
    if turns_crank(state, cell):
        demand_clear(now.overhaul, now.sheet, now.runs, now.silent, run_id)
        if moves_crank(state, cell):
            demand_gear_free(now.overhaul, run_id)
    # A door that was moved without a link is moved: what is taken in late is told, whatever has come since.
    at_once = not isinstance(command, SettleClaim)
    if cell.kind == "restore" or (at_once and shuts_door(state, cell)):
        demand_nobody_inside(now.overhaul)
    if at_once and opens_crankcase(state, cell):
        demand_no_hot_work(now.overhaul)
        demand_stood(now.overhaul, now.sheet, at)


def _not_done(command: Command) -> bool:
    return isinstance(command, RecordReading) and isinstance(command.answer, LeftOutAnswer | LeftToEngineAnswer)


def tell_engine(
    workshop: Workshop,
    now: EngineNow,
    run_id: UUID,
    state: RunState,
    command: Command,
    data: EventData,
    stamp: Stamp,
) -> None:
    """Write to the engine's log what a call has done to it; other runs that relied on it ask again.

    Belongs in one transaction with the call, under the engine's lock.
    """
    cell = _cell(state, command)
    fact = None if cell is None else _fact(now, run_id, state, cell, command, data)
    if fact is None:
        return
    told = CommandBase(id=uuid5(command.id, "engine"), tablet_at=command.tablet_at)
    again = partial(ask_again, workshop, command=told, stamp=stamp, but=run_id)
    workshop.overhauls.append(now.overhaul.overhaul_id, told, stamp, lambda _: fact, then=again)


def _fact(
    now: EngineNow, run_id: UUID, state: RunState, cell: Cell, command: Command, data: EventData
) -> ov.OverhaulData | None:
    if isinstance(command, StrikeReading):
        return _struck(now.overhaul, run_id, cell, command)
    data = data.led_to if isinstance(data, ClaimSettled) and data.led_to is not None else data
    if not isinstance(data, Recorded) or isinstance(data.answer, LeftOutAnswer | LeftToEngineAnswer):
        return None
    point = point_of(state, cell)
    if cell.kind == "make_safe" and point is not None and now.overhaul.in_force(point) is None:
        return ov.Isolated(point=point, run=run_id, cell=cell.key)
    if cell.kind == "restore" and point is not None and point in now.overhaul.isolations:
        return ov.Restored(point=point, run=run_id, cell=cell.key)
    if cell.kind == "restore" and point in CHECKS:
        return ov.SeenTo(check=point, words=cell.text or cell.step, run=run_id, cell=cell.key)
    if moves_crank(state, cell):
        return _moved(now, run_id, state, cell, data)
    return None


def _moved(now: EngineNow, run_id: UUID, state: RunState, cell: Cell, data: Recorded) -> ov.CrankMoved:
    return ov.CrankMoved(
        from_deg=now.overhaul.crank.angle_deg if now.overhaul.crank else None,
        to_deg=_angle(now, state, cell, data),
        way=now.sheet.crank.ways[0],
        commander=state.started.joint_label,
        run=run_id,
        cell=cell.key,
    )


def _angle(now: EngineNow, state: RunState, cell: Cell, data: Recorded) -> float | None:
    """Return the engine's angle that a call has reached; None where it names none, or the cylinder is not one."""
    step = state.definition.steps_by_id[cell.step_id]
    read = data.judgement.corrected if data.judgement.corrected is not None else data.judgement.value
    if not isinstance(step, CrankPositionStep) or read is None:
        return None
    engine = now.overhaul.opened.engine
    own = next((p.cylinders for p in joints_of(engine) if p.key == state.started.joint_key), frozenset[str]())
    if step.cylinder == "this" and len(own) != 1:
        return None
    cylinder = next(iter(own)) if step.cylinder == "this" else step.cylinder
    try:
        return engine_angle(engine, now.sheet.crank, cylinder, step, read)
    except Refusal:
        return None


def _struck(overhaul: Overhaul, run_id: UUID, cell: Cell, command: StrikeReading) -> ov.OverhaulData | None:
    """A wrong tick of making safe takes the isolation away; after a wrong angle nobody knows where the crank is."""
    mine = [
        line
        for line in overhaul.lines
        if line.struck_by is None
        and (getattr(line.data, "run", None), getattr(line.data, "cell", None)) == (run_id, cell.key)
    ]
    if not mine:
        return None
    words = command.reason or "Struck on the joint's own call"
    if isinstance(mine[-1].data, ov.CrankMoved):
        return ov.CrankLost(words=words)
    return ov.StruckOut(entry=mine[-1].seq, words=words)
