"""Starting a run, working on it, reading it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Annotated
from uuid import UUID

import structlog
from pydantic import Field

from jorvek.core.engine.layout import Engine, FurtherJoints, JointPlace, Slug, joints_of
from jorvek.core.overhaul.rules.starting import AskedWork, in_force_for
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.commands import (
    AddPhoto,
    Close,
    Command,
    CommandBase,
    Context,
    KeyIn,
    Late,
    NameCause,
    RecordReading,
    SettleClaim,
    TakeOver,
)
from jorvek.core.run.log.definition import Definition, define
from jorvek.core.run.log.events import (
    Again,
    ChoiceAnswer,
    EventData,
    Observed,
    Person,
    RuleDeparted,
    RunStarted,
    ToolAnswer,
    WordsAnswer,
)
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.claims import decide_late
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.judge import waits_for_engine
from jorvek.core.sheet.access import Work
from jorvek.store.eventlog import Stamp
from jorvek.store.registers import RevisionRow
from jorvek.store.row_locks import engine_lock, procedure_lock
from jorvek.store.runlog import Snapshot
from jorvek.work.engine.overhauls import (
    begin_small,
    demand_not_attending,
    demand_start,
    engine_of,
    open_on,
    sheet_in_force,
    stood_now,
)
from jorvek.work.engine.tools import demand_tool_free, let_go, named_tool
from jorvek.work.library.revisions import revision_of
from jorvek.work.people.accounts import as_actor, check_pin
from jorvek.work.runs.engine_effects import demand_engine_allows, engine_for, relied_on, tell_engine
from jorvek.work.runs.photos import size_of, take_in
from jorvek.work.runs.row_locks import locks_of
from jorvek.work.runs.same_kind_joints import ask_same_kind_joints, rejected_pieces
from jorvek.work.runs.start_conditions import demand_selection, demand_variant, tools_on_elsewhere
from jorvek.work.runs.studs import stud_history
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop

_log = structlog.get_logger()


class BeginsRun(CommandBase):
    """Begin a run.

    Attributes:
        run_id: made by whoever starts it.
        as_it_ran: for the first job on an engine without an overhaul: everything on it stands closed up, as it ran.
    """

    run_id: UUID
    as_it_ran: bool = False


class StartRun(BeginsRun):
    """Begin work on a joint by an approved procedure revision.

    Attributes:
        departures: rules of the engine sheet that are departed from, by name.
    """

    engine_id: Annotated[str, Field(max_length=60)]
    joint_key: Annotated[str, Field(max_length=60)]
    procedure_hash: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    selection: dict[Slug, Slug] = Field(default={}, max_length=20)
    observed: tuple[Observed, ...] = Field(default=(), max_length=20)
    departures: tuple[RuleDeparted, ...] = Field(default=(), max_length=20)


def joint_of(engine: Engine, joint_key: str, further: Iterable[FurtherJoints] = ()) -> JointPlace:
    """Return a joint of an engine.

    Raises:
        Refusal: ``no_such_joint``.
    """
    found = next((j for j in joints_of(engine, further) if j.key == joint_key), None)
    if found is None:
        raise Refusal("no_such_joint", joint=joint_key, engine=engine.name)
    return found


def start_run(workshop: Workshop, actor: Person, command: StartRun) -> Snapshot:
    """Start a run; the revision is pinned from here on.

    Raises:
        Refusal: ``not_your_right``, ``no_such_engine``, ``no_such_joint``,
            ``no_such_procedure``, ``not_approved``, ``does_not_apply``, ``variant_not_observed``,
            ``variant_does_not_match``, ``option_open``, ``options_at_odds``, ``conditions_unknown``, ``joint_taken``;
            what stands in the way on the engine.
    """
    demand(actor.role, Act.START_RUN)
    engine = engine_of(workshop, command.engine_id)
    joint = joint_of(engine, command.joint_key, sheet_in_force(workshop, engine).joints)
    revision = revision_of(workshop, command.procedure_hash)
    applies = revision.procedure.applies_to
    if applies.engine_type != engine.type or applies.joint is not joint.kind:
        raise Refusal("does_not_apply", title=revision.procedure.title, joint=f"{engine.name}, {joint.label}")
    demand_variant(revision.procedure, engine, command.observed)
    selection = demand_selection(revision.procedure, command.selection)
    return begin(
        workshop, actor, command, Beginning(engine, joint, revision, selection, command.observed, command.departures)
    )


@dataclass(frozen=True)
class Beginning:
    """What is begun: where, by which revision, in which of its ways, or which follow-up of it.

    Attributes:
        demand: refuses what must not be begun as things stand; asked under the locks.
    """

    engine: Engine
    joint: JointPlace
    revision: RevisionRow
    selection: dict[str, str]
    observed: tuple[Observed, ...] = ()
    departures: tuple[RuleDeparted, ...] = ()
    again: Again | None = None
    demand: Callable[[], None] = lambda: None

    @property
    def definition(self) -> Definition:
        """Everything about the run that never changes."""
        return define(self.revision.procedure, self.selection or None, self.again)


def begin(workshop: Workshop, actor: Person, command: BeginsRun, beginning: Beginning) -> Snapshot:
    """Begin a run, decided under the locks of its engine and its procedure.

    Raises:
        Refusal: ``not_approved``, ``joint_taken``; those of ``begin_small`` and ``demand_start``.
    """
    engine, joint, revision = beginning.engine, beginning.joint, beginning.revision
    definition = beginning.definition
    procedure = definition.procedure
    started = RunStarted(
        procedure_hash=revision.hash,
        cells_hash=definition.cells_hash,
        joint_key=joint.key,
        joint_label=joint.label,
        engine=engine,
        selection=beginning.selection,
        observed=beginning.observed,
        departures=beginning.departures,
        again=beginning.again,
    )
    asked = AskedWork(joint.label, Work(joint.key, procedure.begins, procedure.leaves, beginning.selection))

    def as_things_stand(data: RunStarted) -> RunStarted:
        status = revision_of(workshop, revision.hash).status
        # What a revision asked for is done by that revision, withdrawn since or not.
        if status != "approved" and beginning.again is None:
            raise Refusal("not_approved", title=procedure.title, status=status)
        # What earlier runs say of the fasteners is whole only once none of them is open any more.
        if any(row.open for row in workshop.registers.runs(engine.id) if row.joint_key == joint.key):
            raise Refusal("joint_taken", joint=joint.label)
        beginning.demand()
        overhaul = open_on(workshop, engine.id)
        if overhaul is None:
            overhaul = begin_small(workshop, actor, engine, joint, command, as_it_ran=command.as_it_ran)
        demand_start(workshop, overhaul, asked, beginning.departures, actor)
        history = stud_history(workshop, engine.id, joint.key)
        return data.model_copy(
            update={
                "first_lengths": history.first_lengths,
                "uses": history.uses,
                "overhaul": overhaul.overhaul_id,
                "in_force": in_force_for(overhaul, definition),
            }
        )

    locks = frozenset({engine_lock(engine.id), procedure_lock(revision.hash)})
    return workshop.log.start(command.run_id, started, command, Stamp(actor, workshop.clock()), locks, as_things_stand)


def act(
    workshop: Workshop,
    actor: Person,
    run_id: UUID,
    command: Command,
    pin: str | None = None,
    late: Late | None = None,
    by: UUID | None = None,
) -> Snapshot:
    """Carry out a command on a run; what is returned has been committed.

    Args:
        workshop: the workshop.
        actor: who, from the session.
        run_id: the run.
        command: what is asked.
        pin: the actor's PIN, given again for a signature; that of ``by`` where somebody else acts.
        late: that the command waited on a tablet; what does not fit any more is then kept as a claim.
        by: somebody else who does this one act on the actor's tablet, by their own PIN and in their own name.

    Raises:
        Refusal: naming what was wrong; nothing was stored then. ``pin_needed`` where somebody else gives none,
            and where the command waited: no PIN is kept on a tablet.
        DatabaseAwayError: when it is not known whether it was stored.
    """
    if by is not None and (pin is None or late is not None):
        raise Refusal("pin_needed")
    if pin is not None:
        actor = as_actor(check_pin(workshop, by or actor.id, pin))
    bare = Context(actor, workshop.clock(), workshop.today(), {}, pin is not None)
    stamp = Stamp(actor, bare.now)

    def decided(state: RunState) -> EventData:
        return _decided_under_locks(workshop, run_id, state, command, bare, late)

    def append() -> Snapshot:
        return workshop.log.append(run_id, command, stamp, decided, lambda state: locks_of(state, command))

    if isinstance(command, Close):
        closed = append()
        sealed(workshop)
        return closed
    if not isinstance(command, NameCause):
        return append()

    def append_and_ask() -> Snapshot:
        snapshot = append()
        ask_same_kind_joints(workshop, run_id, snapshot.state, command, stamp)
        return snapshot

    engine = engine_lock(workshop.log.snapshot(run_id).state.started.engine.id)
    return workshop.log.under(frozenset({engine}), append_and_ask)


def _decided_under_locks(
    workshop: Workshop, run_id: UUID, state: RunState, command: Command, bare: Context, late: Late | None
) -> EventData:
    """Decide on a command with all that it needs to know, and tell tools and engine what follows from it."""
    stamp, drawn = Stamp(bare.actor, bare.now), named_tool(command)
    context = _context(workshop, run_id, state, command, bare)
    if isinstance(command, TakeOver):
        demand_not_attending(workshop, state.started.engine.id, bare.actor)
    if drawn is not None:
        demand_tool_free(workshop, run_id, drawn)
    engine = engine_for(workshop, run_id, state, command)
    if engine is None:
        data = _decide(state, command, context, late)
        if drawn is not None:
            let_go(workshop, run_id, drawn, command, stamp)
        return data
    context = replace(context, relied_on=relied_on(engine, state))
    demand_engine_allows(engine, run_id, state, command, bare.now)
    data = _decide(state, command, context, late)
    tell_engine(workshop, engine, run_id, state, command, data, stamp)
    return data


def _decide(state: RunState, command: Command, context: Context, late: Late | None) -> EventData:
    if late is None:
        return decide(state, command, context)
    return decide_late(state, command, context, late, decide)


def _context(workshop: Workshop, run_id: UUID, state: RunState, command: Command, context: Context) -> Context:
    """Gather what the core cannot look up, no more than this command needs, under the locks it is decided under."""
    engine_id = state.started.engine.id
    if isinstance(command, AddPhoto):
        size = size_of(workshop, command.photo)
        return context if size is None else replace(context, photos={command.photo: size})
    if isinstance(command, SettleClaim):
        return replace(
            context,
            tools={t.id: t for t in workshop.registers.tools()},
            tools_on=tools_on_elsewhere(workshop, engine_id, run_id),
            rejected=rejected_pieces(workshop),
        )
    if not isinstance(command, RecordReading | KeyIn):
        return context
    answer = command.answer if isinstance(command, RecordReading) else None
    named = isinstance(answer, ToolAnswer)
    marked = answer is None or isinstance(answer, ChoiceAnswer | WordsAnswer)
    return replace(
        context,
        writers={p.id: as_actor(p) for p in workshop.registers.people()} if answer is None else {},
        tools={t.id: t for t in workshop.registers.tools()} if named else {},
        tools_on=tools_on_elsewhere(workshop, engine_id, run_id) if _turns_the_crank(state, command.cell) else (),
        rejected=rejected_pieces(workshop) if marked else {},
        stood=stood_now(workshop, engine_id) if _waits_for_engine(state, command.cell) else None,
    )


def _waits_for_engine(state: RunState, cell: str) -> bool:
    known = state.definition.by_key.get(cell)
    return known is not None and waits_for_engine(state, known)


def _turns_the_crank(state: RunState, cell: str) -> bool:
    known = state.definition.by_key.get(cell)
    return known is not None and known.traits.crank == "turns"


def add_photo(workshop: Workshop, actor: Person, run_id: UUID, sent: SentPhoto, late: Late | None = None) -> Snapshot:
    """Keep a photograph and put it to a call; one that waited on a tablet and does not fit becomes a claim.

    Raises:
        Refusal: ``no_photo``, ``photo_too_large``, and those of ``act``.
    """
    demand(actor.role, Act.RECORD)
    workshop.log.snapshot(run_id)
    name = take_in(workshop, sent.content)
    command = AddPhoto(kind="add_photo", id=sent.id, cell=sent.cell, photo=name, words=sent.words)
    return act(workshop, actor, run_id, command, late=late)


@dataclass(frozen=True)
class SentPhoto:
    """A photograph as it comes from a tablet: made-up id of the command, the call, the file, a word."""

    id: UUID
    cell: str
    content: bytes
    words: str | None
