"""What a run's events add up to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property
from typing import Literal

from jorvek.core.procedure.clamp import BoltModel, ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import Selection
from jorvek.core.procedure.steps import Step
from jorvek.core.refusal import Refusal
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Cell, cells_hash
from jorvek.core.run.details import Stated, stated
from jorvek.core.run.expansion import expand
from jorvek.core.tools import Tool


@dataclass(frozen=True)
class Definition:
    """A procedure with its cells: everything about a run that never changes."""

    procedure: Procedure
    procedure_hash: str
    cells: tuple[Cell, ...]
    cells_hash: str

    @cached_property
    def by_key(self) -> dict[str, Cell]:
        """Cells by key."""
        return {cell.key: cell for cell in self.cells}

    @cached_property
    def models(self) -> dict[str, BoltModel]:
        """Each fastener group with its joint and tool, as figures to reckon with."""
        return models(self.procedure)

    @cached_property
    def places(self) -> dict[str, int]:
        """Place of each cell in working order."""
        return {cell.key: k for k, cell in enumerate(self.cells)}

    def place_of(self, key: str) -> int:
        """Return the place of a cell in working order."""
        return self.places[key]

    @cached_property
    def steps_by_id(self) -> dict[str, Step]:
        """The document's steps by id."""
        return {step.id: step for step in self.procedure.steps}

    @cached_property
    def stated(self) -> dict[str, Stated]:
        """What each step states, by step id."""
        return {step.id: stated(step) for step in self.procedure.steps}

    def piece_of(self, fastener: str | None) -> Literal["stud", "bolt"]:
        """Return what a fastener is called; for none, what the first of the joint is."""
        groups = self.procedure.fasteners
        group = self.procedure.group_of(fastener) if fastener else next(iter(groups), None)
        return "bolt" if group is not None and not group.nutted() else "stud"

    def model_of(self, fastener: str) -> BoltModel:
        """Return the model of a fastener's group."""
        return self.models[self.procedure.group_of(fastener).id]

    def clamp_of(self, cell: Cell) -> ClampModel:
        """Return the model of the group that the tensioner of a cell's step pulls.

        Raises:
            KeyError: when the step pulls nothing.
        """
        role = getattr(self.steps_by_id[cell.step_id], "tools", None)
        tool = {t.role: t for t in self.procedure.tensioners}[role or ""]
        model = self.models[tool.group]
        assert isinstance(model, ClampModel)
        return model

    def speaks_for(self, cell: Cell, fastener: str) -> bool:
        """Tell whether a cell's reading concerns a fastener.

        A pressure belongs to all tools on the hose: it speaks for the fasteners that its step goes round.
        """
        return cell.fastener == fastener or (cell.fastener is None and fastener in self.went_round[cell.step])

    @cached_property
    def went_round(self) -> dict[str, frozenset[str]]:
        """For each step, the fasteners that it goes round."""
        return {step: frozenset(c.fastener for c in cells if c.fastener) for step, cells in self.steps}

    @cached_property
    def users(self) -> dict[str, tuple[str, ...]]:
        """For each cell, the cells whose judgement rests on it, directly or through others."""
        direct: dict[str, list[str]] = {}
        for cell in self.cells:
            for used in cell.uses:
                direct.setdefault(used, []).append(cell.key)
        return {cell.key: _closure(cell.key, direct) for cell in self.cells}

    @cached_property
    def steps(self) -> tuple[tuple[str, tuple[Cell, ...]], ...]:
        """Cells grouped by step, in order."""
        grouped: dict[str, list[Cell]] = {}
        for cell in self.cells:
            grouped.setdefault(cell.step, []).append(cell)
        return tuple((step, tuple(cells)) for step, cells in grouped.items())


def _closure(start: str, direct: Mapping[str, list[str]]) -> tuple[str, ...]:
    seen: dict[str, None] = {}
    queue = list(direct.get(start, ()))
    while queue:
        key = queue.pop(0)
        if key not in seen:
            seen[key] = None
            queue += direct.get(key, ())
    return tuple(seen)


def define(procedure: Procedure, selection: Selection | None = None) -> Definition:
    """Return the definition of runs of a procedure, its options chosen; the first possible way when None."""
    cells = expand(procedure, selection)
    return Definition(procedure, procedure.content_hash(), cells, cells_hash(cells))


@dataclass(frozen=True)
class Strike:
    """That an attempt was struck: when, by whom, why (None while the reason is owed)."""

    seq: int
    at: datetime
    by: ev.Person
    reason: str | None


@dataclass(frozen=True)
class Acceptance:
    """That an attempt was accepted by name."""

    seq: int
    at: datetime
    by: ev.Person
    reason: str


@dataclass(frozen=True)
class Attempt:
    """One answer in a cell, with everything that happened to it.

    Attributes:
        fallen_by: sequence of the event that set it aside without striking it
            (a redo, or a strike of a reading it rested on).
    """

    cell: str
    number: int
    seq: int
    at: datetime
    by: ev.Person
    answer: ev.Answer
    judgement: ev.Judgement
    tool: Tool | None
    source: str
    struck: Strike | None = None
    accepted: Acceptance | None = None
    fallen_by: int | None = None

    @property
    def live(self) -> bool:
        """Whether it still counts."""
        return self.struck is None and self.fallen_by is None

    @property
    def settled(self) -> bool:
        """Whether it counts and leaves no question open."""
        bad = self.judgement.verdict in (ev.Verdict.OUT_OF_BAND, ev.Verdict.TOO_NEAR)
        return self.live and (not bad or self.accepted is not None)


@dataclass(frozen=True)
class Remark:
    """A note somebody made."""

    seq: int
    at: datetime
    by: ev.Person
    text: str
    cell: str | None


@dataclass(frozen=True)
class Redo:
    """A decision to do work again."""

    seq: int
    at: datetime
    by: ev.Person
    cells: tuple[str, ...]
    reason: str


@dataclass(frozen=True)
class Trouble:
    """Something that went wrong, and how it ended; None while it is open."""

    seq: int
    at: datetime
    by: ev.Person
    what: ev.TroubleKind
    cell: str
    how: Literal["fixed", "done_again", "departure"] | None = None
    words: str | None = None
    ended_by: ev.Person | None = None


@dataclass(frozen=True)
class Watch:
    """Who worked from which event on."""

    seq: int
    at: datetime
    by: ev.Person


Status = Literal["open", "paused", "closed"]


@dataclass(frozen=True)
class RunState:
    """A run as it stands after an event."""

    definition: Definition
    started: ev.RunStarted
    started_at: datetime
    started_by: ev.Person
    seq: int
    last_at: datetime
    status: Status = "open"
    attempts: Mapping[str, tuple[Attempt, ...]] = field(default_factory=dict)
    remarks: tuple[Remark, ...] = ()
    redos: tuple[Redo, ...] = ()
    troubles: tuple[Trouble, ...] = ()
    watches: tuple[Watch, ...] = ()
    closed_at: datetime | None = None
    closed_by: ev.Person | None = None

    def tries(self, key: str) -> tuple[Attempt, ...]:
        """Return all attempts in a cell, oldest first."""
        return self.attempts.get(key, ())

    @cached_property
    def standing(self) -> dict[str, Attempt]:
        """The attempt that counts in each filled cell."""
        return {key: tries[-1] for key, tries in self.attempts.items() if tries and tries[-1].live}

    @cached_property
    def unreasoned(self) -> frozenset[str]:
        """Cells with a strike whose reason is owed."""
        return frozenset(
            key
            for key, tries in self.attempts.items()
            if any(a.struck is not None and a.struck.reason is None for a in tries)
        )

    def live(self, key: str) -> Attempt | None:
        """Return the attempt that counts in a cell, if any."""
        return self.standing.get(key)

    def tool(self, role: str | None) -> Tool | None:
        """Return the tool that was drawn for a role, if one was."""
        for cell in self.definition.cells:
            if cell.kind == "tool_issue" and cell.tool_role == role:
                attempt = self.live(cell.key)
                return attempt.tool if attempt else None
        return None


def begin(definition: Definition, event: ev.Event) -> RunState:
    """Return the state after a run's first event.

    Raises:
        Refusal: ``log_broken`` when the event is not a start of this definition.
    """
    data = event.data
    if not isinstance(data, ev.RunStarted) or event.seq != 1:
        raise Refusal("log_broken", seq=event.seq, why="first event is not a start")
    if (data.procedure_hash, data.cells_hash) != (definition.procedure_hash, definition.cells_hash):
        raise Refusal("log_broken", seq=event.seq, why="procedure does not match")
    watch = Watch(event.seq, event.at, event.author)
    return RunState(definition, data, event.at, event.author, event.seq, event.at, watches=(watch,))


def advance(state: RunState, event: ev.Event) -> RunState:
    """Return the state after one more event; the given state is left as it was.

    Raises:
        Refusal: ``log_broken`` when the event does not follow on.
    """
    if event.seq != state.seq + 1:
        raise Refusal("log_broken", seq=event.seq, why="sequence has a gap")
    return replace(_apply(state, event), seq=event.seq, last_at=event.at)


def fold(definition: Definition, events: Iterable[ev.Event]) -> RunState:
    """Return the state that a whole log adds up to.

    Raises:
        Refusal: ``log_broken`` when the log is empty or does not hang together.
    """
    state: RunState | None = None
    for event in events:
        state = begin(definition, event) if state is None else advance(state, event)
    if state is None:
        raise Refusal("log_broken", seq=0, why="empty")
    return state


def _apply(state: RunState, event: ev.Event) -> RunState:
    data = event.data
    match data:
        case ev.Recorded():
            return _recorded(state, event, data)
        case ev.Struck():
            strike = Strike(event.seq, event.at, event.author, data.reason)
            return _fall(_change(state, data.cell, data.attempt, struck=strike), data.falls, event.seq)
        case ev.ReasonGiven():
            return _reason(state, data)
        case ev.Accepted():
            acceptance = Acceptance(event.seq, event.at, event.author, data.reason)
            return _change(state, data.cell, data.attempt, accepted=acceptance)
        case ev.Reopened():
            redo = Redo(event.seq, event.at, event.author, data.cells, data.reason)
            return replace(_fall(state, data.cells, event.seq), redos=(*state.redos, redo))
        case ev.Noted():
            remark = Remark(event.seq, event.at, event.author, data.text, data.cell)
            return replace(state, remarks=(*state.remarks, remark))
        case ev.TroubleRaised():
            trouble = Trouble(event.seq, event.at, event.author, data.what, data.cell)
            return replace(state, troubles=(*state.troubles, trouble))
        case ev.TroubleEnded():
            return replace(state, troubles=tuple(_ended(t, data, event.author) for t in state.troubles))
        case ev.Paused():
            return replace(state, status="paused")
        case ev.TakenOver():
            watch = Watch(event.seq, event.at, event.author)
            return replace(state, status="open", watches=(*state.watches, watch))
        case ev.Closed():
            return replace(state, status="closed", closed_at=event.at, closed_by=event.author)
        case ev.RunStarted():
            raise Refusal("log_broken", seq=event.seq, why="started twice")


def _ended(trouble: Trouble, data: ev.TroubleEnded, by: ev.Person) -> Trouble:
    if trouble.seq != data.trouble:
        return trouble
    return replace(trouble, how=data.how, words=data.words, ended_by=by)


def _recorded(state: RunState, event: ev.Event, data: ev.Recorded) -> RunState:
    before = state.tries(data.cell)
    if data.attempt != len(before) + 1 or (before and before[-1].live):
        raise Refusal("log_broken", seq=event.seq, why="a cell is filled twice")
    attempt = Attempt(
        data.cell, data.attempt, event.seq, event.at, event.author, data.answer, data.judgement, data.tool, data.source
    )
    return replace(state, attempts={**state.attempts, data.cell: (*before, attempt)})


def _change(
    state: RunState,
    key: str,
    number: int,
    *,
    struck: Strike | None = None,
    accepted: Acceptance | None = None,
    fallen_by: int | None = None,
) -> RunState:
    tries = list(state.tries(key))
    old = tries[number - 1]
    tries[number - 1] = replace(
        old,
        struck=struck or old.struck,
        accepted=accepted or old.accepted,
        fallen_by=fallen_by or old.fallen_by,
    )
    return replace(state, attempts={**state.attempts, key: tuple(tries)})


def _fall(state: RunState, keys: tuple[str, ...], seq: int) -> RunState:
    for key in keys:
        attempt = state.live(key)
        if attempt is not None:
            state = _change(state, key, attempt.number, fallen_by=seq)
    return state


def _reason(state: RunState, data: ev.ReasonGiven) -> RunState:
    struck = state.tries(data.cell)[data.attempt - 1].struck
    if struck is None:
        raise Refusal("log_broken", seq=state.seq + 1, why="reason without a strike")
    return _change(state, data.cell, data.attempt, struck=replace(struck, reason=data.reason))
