"""Starting a run, working on it, reading it."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from pydantic import Field

from jorvek.core.engine.layout import Engine, JointPlace, Slug, joints_of
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.commands import Command, CommandBase, Facts, RecordReading, decide
from jorvek.core.run.events import Observed, Person, RunStarted, ToolAnswer
from jorvek.core.run.record import RunRecord, record_of
from jorvek.core.run.redo import redo_scope
from jorvek.core.run.state import define
from jorvek.core.run.view import BenchView, bench_view
from jorvek.store.runlog import Snapshot, Stamp
from jorvek.work.conditions import demand_neighbours_shut, demand_selection, demand_variant, tools_on_elsewhere
from jorvek.work.library import revision_of
from jorvek.work.people import check_pin
from jorvek.work.workshop import Workshop


class StartRun(CommandBase):
    """Begin work on a joint by an approved procedure revision."""

    run_id: UUID
    engine_id: Annotated[str, Field(max_length=60)]
    joint_key: Annotated[str, Field(max_length=60)]
    procedure_hash: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    selection: dict[Slug, Slug] = Field(default={}, max_length=20)
    observed: tuple[Observed, ...] = Field(default=(), max_length=20)


def engine_of(workshop: Workshop, engine_id: str) -> Engine:
    """Return an engine.

    Raises:
        Refusal: ``no_such_engine``.
    """
    found = next((e for e in workshop.registers.engines() if e.id == engine_id), None)
    if found is None:
        raise Refusal("no_such_engine", engine=engine_id)
    return found


def joint_of(engine: Engine, joint_key: str) -> JointPlace:
    """Return a joint of an engine.

    Raises:
        Refusal: ``no_such_joint``.
    """
    found = next((j for j in joints_of(engine) if j.key == joint_key), None)
    if found is None:
        raise Refusal("no_such_joint", joint=joint_key, engine=engine.name)
    return found


def start_run(workshop: Workshop, actor: Person, command: StartRun) -> Snapshot:
    """Start a run; the revision is pinned from here on.

    Raises:
        Refusal: ``not_your_right``, ``no_such_engine``, ``no_such_joint``,
            ``no_such_procedure``, ``not_approved``, ``does_not_apply``, ``variant_not_observed``,
            ``variant_does_not_match``, ``option_open``, ``options_at_odds``, ``neighbour_open``, ``joint_taken``.
    """
    demand(actor.role, Act.START_RUN)
    engine = engine_of(workshop, command.engine_id)
    joint = joint_of(engine, command.joint_key)
    revision = revision_of(workshop, command.procedure_hash)
    applies = revision.procedure.applies_to
    if revision.status != "approved":
        raise Refusal("not_approved", title=revision.procedure.title, status=revision.status)
    if applies.engine_type != engine.type or applies.joint is not joint.kind:
        raise Refusal("does_not_apply", title=revision.procedure.title, joint=f"{engine.name}, {joint.label}")
    demand_variant(revision.procedure, engine, command.observed)
    selection = demand_selection(revision.procedure, command.selection)
    demand_neighbours_shut(workshop, engine, joint, revision.procedure)
    definition = define(revision.procedure, selection or None)
    started = RunStarted(
        procedure_hash=revision.hash,
        cells_hash=definition.cells_hash,
        joint_key=joint.key,
        joint_label=joint.label,
        engine=engine,
        selection=selection,
        observed=command.observed,
    )
    return workshop.log.start(command.run_id, started, command, Stamp(actor, workshop.clock()))


def act(workshop: Workshop, actor: Person, run_id: UUID, command: Command, pin: str | None = None) -> Snapshot:
    """Carry out a command on a run; what is returned has been committed.

    Args:
        workshop: the workshop.
        actor: who, from the session.
        run_id: the run.
        command: what is asked.
        pin: the actor's PIN, given again for a signature.

    Raises:
        Refusal: naming what was wrong; nothing was stored then.
        DatabaseAwayError: when it is not known whether it was stored.
    """
    confirmed = pin is not None and check_pin(workshop, actor.id, pin) is not None
    named = isinstance(command, RecordReading) and isinstance(command.answer, ToolAnswer)
    tools = {t.id: t for t in workshop.registers.tools()} if named else {}
    now = workshop.clock()
    elsewhere = tools_on_elsewhere(workshop, run_id) if isinstance(command, RecordReading) else ()
    facts = Facts(actor, now, workshop.today(), tools, confirmed, elsewhere)
    return workshop.log.append(run_id, command, Stamp(actor, now), lambda state: decide(state, command, facts))


def view(run_id: UUID, snapshot: Snapshot) -> BenchView:
    """Return the Bench of a run."""
    return bench_view(run_id, snapshot.state)


def record(workshop: Workshop, run_id: UUID) -> RunRecord:
    """Return the record of a run.

    Raises:
        Refusal: ``no_such_run``.
    """
    snapshot = workshop.log.snapshot(run_id)
    return record_of(run_id, snapshot.state, snapshot.head_hash)


def scope_of_redo(workshop: Workshop, run_id: UUID, cell: str) -> tuple[str, ...]:
    """Return what would open again, to be shown before it is confirmed.

    Raises:
        Refusal: ``no_such_run`` and those of ``redo_scope``.
    """
    return redo_scope(workshop.log.snapshot(run_id).state, cell)
