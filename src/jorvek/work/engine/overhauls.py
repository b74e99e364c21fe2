"""Opening an overhaul, working on the engine as a whole, and what its runs ask of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from functools import partial
from typing import Annotated
from uuid import UUID, uuid5

from pydantic import Field

from jorvek.core.engine.layout import Engine, JointPlace, joints_of
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.decide import decide
from jorvek.core.overhaul.rules.entering import demand_no_attendant
from jorvek.core.overhaul.rules.joint_conditions import counts
from jorvek.core.overhaul.rules.starting import AskedWork, demand_access
from jorvek.core.overhaul.rules.stops import stood
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.commands import CommandBase, Stood
from jorvek.core.run.log.events import Person, RuleDeparted
from jorvek.core.run.views.on_engine import RunOnEngine, on_engine
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import EngineSheet
from jorvek.store.eventlog import Stamp
from jorvek.store.overhaullog import OverhaulSnapshot
from jorvek.store.row_locks import engine_lock
from jorvek.store.run_summaries import RunSummary
from jorvek.work.engine.asked_again import ask_cells_again, tell_of_gear
from jorvek.work.engine.silent_tablets import open_of, silent_tablets
from jorvek.work.people.accounts import as_actor, check_pin, token_hash
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop

ON_ENGINE = RunSummary("on_engine", RunOnEngine, on_engine)


class OpenOverhaul(CommandBase):
    """Open an overhaul on an engine.

    Attributes:
        overhaul_id: made by whoever opens it.
        engine_id: the engine.
        title: what it is called.
        scope: joints that are worked on.
        as_it_ran: everything stands closed up, as it ran; declared in the name of whoever opens it.
    """

    overhaul_id: UUID
    engine_id: Annotated[str, Field(max_length=60)]
    title: ov.Short
    scope: tuple[ov.JointKey, ...] = Field(default=(), max_length=400)
    as_it_ran: bool = False


@dataclass(frozen=True)
class EngineNow:
    """An engine with an open overhaul: its log as it stands, its sheet, the runs on it, tablets that are silent."""

    overhaul: Overhaul
    sheet: EngineSheet
    runs: tuple[RunOnEngine, ...]
    silent: tuple[oc.SilentTablet, ...]


def engine_of(workshop: Workshop, engine_id: str) -> Engine:
    """Return an engine.

    Raises:
        Refusal: ``no_such_engine``.
    """
    found = next((e for e in workshop.registers.engines() if e.id == engine_id), None)
    if found is None:
        raise Refusal("no_such_engine", engine=engine_id)
    return found


def sheet_for(workshop: Workshop, engine: Engine, digest: str | None = None) -> EngineSheet:
    """Return the sheet of an engine: the one named, else the default by layout."""
    if digest is None:
        return default_sheet(engine)
    return workshop.sheets.body_of(digest)


def runs_on(workshop: Workshop, engine_id: str) -> tuple[RunOnEngine, ...]:
    """Return all runs on an engine as it sees them, newest first."""
    return tuple(workshop.summaries.of(ON_ENGINE, workshop.registers.runs(engine_id)).values())


def engine_now(workshop: Workshop, overhaul: Overhaul) -> EngineNow:
    """Return an engine as it stands in an overhaul."""
    engine = overhaul.opened.engine
    runs = tuple(run for run in runs_on(workshop, engine.id) if counts(overhaul, run))
    silent = silent_tablets(workshop, overhaul, runs)
    return EngineNow(overhaul, sheet_for(workshop, engine, overhaul.opened.sheet), runs, silent)


def open_on(workshop: Workshop, engine_id: str) -> Overhaul | None:
    """Return the open overhaul of an engine; None where there is none."""
    found = workshop.overhauls.open_on(engine_id)
    return None if found is None else workshop.overhauls.snapshot(found).state


def stood_now(workshop: Workshop, engine_id: str) -> Stood | None:
    """Return since when an engine stands, by the log of its open overhaul; None where nobody has said."""
    overhaul = open_on(workshop, engine_id)
    if overhaul is None:
        return None
    return stood(overhaul, sheet_for(workshop, overhaul.opened.engine, overhaul.opened.sheet))


def leave_engine(workshop: Workshop, token: str) -> None:
    """Take down that a tablet leaves its engine; with something of its person open there it does not."""
    row = workshop.tablets.one(token_hash(token))
    if row is None:
        return
    overhaul = open_on(workshop, row.engine_id)
    if overhaul is None or not open_of(overhaul, runs_on(workshop, row.engine_id), row.person_id):
        workshop.tablets.gone(row.token_hash)


def open_overhaul(workshop: Workshop, actor: Person, command: OpenOverhaul) -> OverhaulSnapshot:
    """Open an overhaul; runs that are under way on the engine are taken over.

    Raises:
        Refusal: ``not_your_right``, ``no_such_engine``, ``no_such_joint``, ``engine_taken``.
    """
    demand(actor.role, Act.LEAD_OVERHAUL)
    engine = engine_of(workshop, command.engine_id)
    held = frozenset({engine_lock(engine.id)})
    return workshop.overhauls.under(held, lambda: _open(workshop, actor, command, engine, small=False))


def sheet_in_force(workshop: Workshop, engine: Engine) -> EngineSheet:
    """Return the sheet by which an engine is worked on now: its overhaul's, else the approved one, else the default."""
    overhaul = open_on(workshop, engine.id)
    digest = workshop.sheets.approved_for(engine.type) if overhaul is None else overhaul.opened.sheet
    return sheet_for(workshop, engine, digest)


def begin_small(
    workshop: Workshop, actor: Person, engine: Engine, joint: JointPlace, command: CommandBase, *, as_it_ran: bool
) -> Overhaul:
    """Open the small overhaul of a single job: the engine stands closed up, as it ran.

    Belongs in one transaction with the start of the job, under the engine's lock.

    Raises:
        Refusal: ``conditions_unknown`` when nobody says so, or when earlier work has left something otherwise: then a
            lead hand opens the overhaul and says how each joint stands.
    """
    sheet = sheet_in_force(workshop, engine)
    newest: dict[str, RunOnEngine] = {}
    for run in runs_on(workshop, engine.id):
        newest.setdefault(run.joint, run)
    first = {p.key: sheet.ladders[p.kind].undone[0] for p in joints_of(engine, sheet.joints) if p.kind in sheet.ladders}
    if not as_it_ran or any(run.open or run.leaves != first.get(run.joint) for run in newest.values()):
        raise Refusal("conditions_unknown", engine=engine.name)
    opening = OpenOverhaul(
        id=uuid5(command.id, "open"),
        tablet_at=command.tablet_at,
        overhaul_id=uuid5(command.id, "overhaul"),
        engine_id=engine.id,
        title=joint.label,
        scope=(joint.key,),
        as_it_ran=True,
    )
    return _open(workshop, actor, opening, engine, small=True).state


def _open(workshop: Workshop, actor: Person, command: OpenOverhaul, engine: Engine, *, small: bool) -> OverhaulSnapshot:
    digest = workshop.sheets.approved_for(engine.type)
    sheet = sheet_for(workshop, engine, digest)
    places = joints_of(engine, sheet.joints)
    for joint in command.scope:
        if joint not in {p.key for p in places}:
            raise Refusal("no_such_joint", joint=joint, engine=engine.name)
    runs = runs_on(workshop, engine.id)
    opened = ov.Opened(
        engine=engine,
        title=command.title,
        sheet=digest,
        scope=command.scope,
        took_over=tuple(run.run_id for run in runs if run.open),
        small=small,
        hours=next((read.hours for read in reversed(workshop.upkeep.hours(engine.id))), engine.running_hours),
    )
    stamp = Stamp(actor, workshop.clock())
    snapshot = workshop.overhauls.open(command.overhaul_id, opened, command, stamp)
    if not command.as_it_ran or snapshot.state.seq > 1:
        return snapshot
    busy = {run.joint for run in runs if run.open}
    found = {p.key: sheet.ladders[p.kind].undone[0] for p in places if p.kind in sheet.ladders and p.key not in busy}
    declared = ov.ConditionsDeclared(found=found, words="As it ran: everything tight and closed up.")
    follow = CommandBase(id=uuid5(command.id, "as it ran"), tablet_at=command.tablet_at)
    return workshop.overhauls.append(command.overhaul_id, follow, stamp, lambda _: declared)


def under_engine(workshop: Workshop, overhaul_id: UUID, act: Callable[[], OverhaulSnapshot]) -> OverhaulSnapshot:
    """Carry out an act on an overhaul and on what follows from it, under the engine's lock: all of it or nothing.

    Raises:
        Refusal: from ``act``; ``no_such_overhaul``.
    """
    engine = workshop.overhauls.snapshot(overhaul_id).state.opened.engine
    return workshop.overhauls.under(frozenset({engine_lock(engine.id)}), act)


def act(
    workshop: Workshop,
    actor: Person,
    overhaul_id: UUID,
    command: oc.OverhaulCommand,
    pin: str | None = None,
    other_pin: str | None = None,
    kept_s: float | None = None,
    plan: ov.PlanTaken | None = None,
) -> OverhaulSnapshot:
    """Carry out a command on an overhaul, under the engine's lock; what is returned has been committed.

    Runs that relied on what the command changes ask again, in the same transaction.

    Args:
        workshop: the workshop.
        actor: who, from the session.
        overhaul_id: the overhaul.
        command: what is asked.
        pin: the actor's PIN, given again.
        other_pin: the PIN of whoever takes the engine over.
        kept_s: how long it has waited on a tablet without a link; None for one that came at once.
        plan: the plan that was found last, for taking it.

    Raises:
        Refusal: naming what was wrong; nothing was stored then.
        DatabaseAwayError: when it is not known whether it was stored.
    """
    confirmed = pin is not None and check_pin(workshop, actor.id, pin) is not None
    other = command.to if isinstance(command, oc.HandOverEngine) else None
    also = other is not None and other_pin is not None and check_pin(workshop, other, other_pin) is not None
    stamp = Stamp(actor, workshop.clock())

    def decided(state: Overhaul) -> ov.OverhaulData:
        now = engine_now(workshop, state)
        people = {p.id: as_actor(p) for p in workshop.registers.people()}
        done_at = None if kept_s is None else stamp.at - timedelta(seconds=kept_s)
        context = oc.EngineContext(
            actor, stamp.at, now.sheet, now.runs, people, confirmed, also, now.silent, done_at, plan
        )
        return decide(state, command, context)

    def append() -> OverhaulSnapshot:
        again = partial(ask_again, workshop, command=command, stamp=stamp)
        return workshop.overhauls.append(overhaul_id, command, stamp, decided, then=again)

    snapshot = under_engine(workshop, overhaul_id, append)
    if isinstance(command, oc.CloseOverhaul):
        sealed(workshop)
    return snapshot


def ask_again(
    workshop: Workshop, overhaul: Overhaul, command: CommandBase, stamp: Stamp, but: UUID | None = None
) -> None:
    """Open again what open runs did on the strength of something that has just changed.

    Belongs in one transaction with the change, under the engine's lock.

    Args:
        workshop: the workshop.
        overhaul: with the change as its newest entry.
        command: what led to it.
        stamp: who, and when.
        but: a run whose own call made the change.
    """
    freed = overhaul.gear_freed
    for run in runs_on(workshop, overhaul.opened.engine.id):
        if not run.open or run.run_id == but or not counts(overhaul, run):
            continue
        if isinstance(overhaul.lines[-1].data, ov.GearFreed | ov.GearLocked | ov.Restored):
            own = freed is not None and freed.run == run.run_id
            tell_of_gear(workshop, run.run_id, freed.guards if freed else None, command, stamp, own=own)
        cells, why = _shaken(overhaul, run)
        if cells:
            ask_cells_again(workshop, run.run_id, cells, why, command, stamp)


def _shaken(overhaul: Overhaul, run: RunOnEngine) -> tuple[tuple[str, ...], str]:
    """Return the calls of a run that rested on what the newest entry of the overhaul changes, and why."""
    line = overhaul.lines[-1]
    data = line.data
    if isinstance(data, ov.StruckOut):
        struck = overhaul.line(data.entry)
        data = struck.data if struck is not None else data
    elif isinstance(data, ov.ToldConfirmed):
        told = overhaul.line(data.entry)
        data = told.data if told is not None else data
    elif getattr(data, "told", None) == "safer":
        return (), ""
    match data:
        case ov.CrankMoved() | ov.CrankFound() | ov.CrankLost() if run.crank_cell is not None:
            return (run.crank_cell,), f"The crank: {line.by.name}, {_words_of(line.data)}"
        case ov.Isolated() | ov.Restored() if overhaul.in_force(data.point) is None and data.point in run.isolated:
            return (run.isolated[data.point],), f"The isolation: {line.by.name}, {_words_of(line.data)}"
        case ov.Lifted():
            cells = tuple(cell for point, cell in run.isolated.items() if point in data.points)
            return cells, f"Lifted for a test: {data.test}"
        case _:
            return (), ""


def _words_of(data: ov.OverhaulData) -> str:
    return str(getattr(data, "words", None) or getattr(data, "commander", None) or data.kind.replace("_", " "))


def demand_not_attending(workshop: Workshop, engine_id: str, actor: Person) -> None:
    """Refuse work in hand to whoever stands outside for somebody at an engine.

    Raises:
        Refusal: ``attending_now``.
    """
    overhaul = open_on(workshop, engine_id)
    if overhaul is not None:
        demand_no_attendant(overhaul, actor)


def demand_start(
    workshop: Workshop,
    overhaul: Overhaul,
    asked: AskedWork,
    departures: tuple[RuleDeparted, ...],
    actor: Person,
) -> None:
    """Refuse to begin work that the engine sheet does not allow as things stand.

    Raises:
        Refusal: that something stands in the way; ``not_your_right`` for a departure; ``attending_now``;
            ``gear_freed`` while the turning gear is free for a move.
    """
    demand_no_attendant(overhaul, actor)
    if overhaul.gear_freed is not None:
        raise Refusal("gear_freed", by=overhaul.gear_freed.guards)
    now = engine_now(workshop, overhaul)
    demand_access(now.overhaul, now.sheet, now.runs, asked, departures, actor)
