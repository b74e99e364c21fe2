"""What a run's events add up to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import cached_property, wraps
from typing import Literal, TypeVar, cast
from uuid import UUID

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.definition import Definition
from jorvek.core.tools import Tool


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
class Rejection:
    """That the fastener of an attempt came out for good: its mark, by whom, why."""

    seq: int
    at: datetime
    by: ev.Person
    piece: str
    reason: str


@dataclass(frozen=True)
class Attempt:
    """One answer in a cell, with everything that happened to it.

    Attributes:
        fallen_by: sequence of the event that set it aside without striking it
            (a redo, a strike of a reading it rested on, or the same call read again).
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
    paper: ev.OnPaper | None = None
    kept_s: float | None = None
    struck: Strike | None = None
    accepted: Acceptance | None = None
    rejected: Rejection | None = None
    fallen_by: int | None = None

    @property
    def done_by(self) -> ev.Person:
        """Who did it: whoever wrote it on the sheet, for what comes from paper."""
        return self.by if self.paper is None else self.paper.by

    @property
    def hands(self) -> tuple[UUID, ...]:
        """Who had a hand in it: whoever entered it, and whoever wrote it on a sheet."""
        return (self.by.id,) if self.paper is None else (self.by.id, self.paper.by.id)

    @property
    def done_at(self) -> datetime:
        """When it was done at the engine: by the sheet for what comes from paper, before it waited on a tablet."""
        return self.paper.at if self.paper is not None else self.at - timedelta(seconds=self.kept_s or 0)

    @property
    def left_out(self) -> bool:
        """Whether nothing was done here, by authority."""
        return self.judgement.verdict is ev.Verdict.LEFT_OUT

    @property
    def live(self) -> bool:
        """Whether it still counts."""
        return self.struck is None and self.fallen_by is None

    @property
    def settled(self) -> bool:
        """Whether it counts and leaves no question open."""
        bad = self.judgement.verdict in (ev.Verdict.OUT_OF_BAND, ev.Verdict.TOO_NEAR)
        return self.live and (not bad or self.accepted is not None or self.rejected is not None)


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


@dataclass(frozen=True)
class Renewal:
    """That something which ages was found good again."""

    seq: int
    at: datetime
    by: ev.Person
    words: str


@dataclass(frozen=True)
class Cause:
    """A cause that was found here and may be there on joints of the same kind."""

    seq: int
    at: datetime
    by: ev.Person
    cell: str
    cause: str


@dataclass(frozen=True)
class SisterCheck:
    """A check asked again: a fault was found on a joint of the same kind; ``found_too`` is None while it is open."""

    seq: int
    at: datetime
    by: ev.Person
    joint: str
    cell: str
    cause: str
    found_too: bool | None = None
    words: str | None = None
    answered_by: ev.Person | None = None


@dataclass(frozen=True)
class PartOf:
    """The fasteners that one person has taken."""

    by: ev.Person
    fasteners: tuple[str, ...]


@dataclass(frozen=True)
class Photo:
    """A photograph of what a call was about."""

    seq: int
    at: datetime
    by: ev.Person
    cell: str
    photo: str
    width_px: int
    height_px: int
    words: str | None


@dataclass(frozen=True)
class ClaimOf:
    """Work from a tablet without a link that could not be taken in; ``taken`` is None while nobody has decided."""

    seq: int
    at: datetime
    by: ev.Person
    said: ev.Claimed
    taken: bool | None = None
    words: str | None = None
    settled_by: ev.Person | None = None

    @property
    def done_at(self) -> datetime:
        """When it was done at the engine, as far as the tablet could tell."""
        return self.at - timedelta(seconds=self.said.kept_s or 0)


@dataclass(frozen=True)
class Tried:
    """A pressure that was tried while nuts are let free."""

    seq: int
    at: datetime
    by: ev.Person
    step: str
    value: float
    true_bar: float


@dataclass(frozen=True)
class Stuck:
    """A nut that would not move; ``words`` is None while nobody has decided on it."""

    seq: int
    at: datetime
    by: ev.Person
    cell: str
    gap: bool
    true_bar: float | None
    words: str | None = None
    decided_by: ev.Person | None = None


Status = Literal["open", "paused", "closed"]


@dataclass(frozen=True)
class GearFree:
    """The turning gear is free for a move of the crank.

    Attributes:
        commander: who commands the move.
        own: a call of this very run asks for it.
    """

    commander: str
    own: bool


@dataclass(frozen=True)
class RunState:
    """A run as it stands after an event.

    Attributes:
        renewals: by step, when something that ages was last found good again.
        out_of_turn: by cell, that it may be filled before its turn, and by whose word.
        parts: who works on which fasteners, where the work is shared.
        ladder: pressures tried while nuts are let free, oldest first.
        stuck: nuts that would not move.
        gear: that the turning gear of its engine is free for a move; None while it is locked, or nobody speaks of it.
        memo: what has been worked out from this very state; a changed state begins with none.
        memo_of_steps: what has been worked out from the attempts of one step alone; the next state takes it over for
            every step whose attempts an event left as they are.
    """

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
    renewals: Mapping[str, Renewal] = field(default_factory=dict)
    out_of_turn: Mapping[str, Acceptance] = field(default_factory=dict)
    causes: tuple[Cause, ...] = ()
    sister_checks: tuple[SisterCheck, ...] = ()
    parts: tuple[PartOf, ...] = ()
    photos: tuple[Photo, ...] = ()
    claims: tuple[ClaimOf, ...] = ()
    ladder: tuple[Tried, ...] = ()
    stuck: tuple[Stuck, ...] = ()
    watches: tuple[Watch, ...] = ()
    gear: GearFree | None = None
    closed_at: datetime | None = None
    closed_by: ev.Person | None = None
    memo: dict[object, object] = field(init=False, default_factory=dict, compare=False, repr=False)
    memo_of_steps: dict[tuple[object, str], object] = field(init=False, default_factory=dict, compare=False, repr=False)

    def tries(self, key: str) -> tuple[Attempt, ...]:
        """Return all attempts in a cell, oldest first."""
        return self.attempts.get(key, ())

    @property
    def photo_names(self) -> frozenset[str]:
        """Names of all photographs that the run speaks of, those of claims included."""
        claimed = {one.said.work.photo for one in self.claims if isinstance(one.said.work, ev.PhotoWork)}
        return frozenset(one.photo for one in self.photos) | claimed

    def running(self) -> RunState:
        """Return the run as it will be once somebody goes on."""
        return replace(self, status="open") if self.status == "paused" else self

    @cached_property
    def counting(self) -> dict[str, Attempt]:
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
        return self.counting.get(key)

    def worked(self, key: str) -> bool:
        """Tell whether the work of a cell was done and counts; what was left out was not."""
        live = self.live(key)
        return live is not None and not live.left_out

    def tool(self, role: str | None) -> Tool | None:
        """Return the tool that was drawn for a role, if one was."""
        for cell in self.definition.cells:
            if cell.ask is InputType.TOOL and cell.tool_role == role:
                attempt = self.live(cell.key)
                return attempt.tool if attempt else None
        return None


T = TypeVar("T")


def once(work: Callable[[RunState], T]) -> Callable[[RunState], T]:
    """Work something out from a state once, however often it is asked for."""

    @wraps(work)
    def remembered(state: RunState) -> T:
        if work not in state.memo:
            state.memo[work] = work(state)
        return cast(T, state.memo[work])

    return remembered


def once_a_step(work: Callable[[RunState, str], T]) -> Callable[[RunState, str], T]:
    """Work something out again only when an attempt of its step has changed: it must rest on nothing else."""

    @wraps(work)
    def remembered(state: RunState, step: str) -> T:
        key = (work, step)
        if key not in state.memo_of_steps:
            state.memo_of_steps[key] = work(state, step)
        return cast(T, state.memo_of_steps[key])

    return remembered


def takes_over(after: RunState, before: RunState) -> RunState:
    """Give a state what was worked out for the one before it, of all steps whose attempts are the same."""
    by_key, known = after.definition.by_key, before.attempts
    touched = {by_key[key].step for key, tries in after.attempts.items() if known.get(key) is not tries}
    # Others look at the state before while this one is made: what they add to it is taken as it stands now.
    remembered_before = before.memo_of_steps.copy()
    after.memo_of_steps.update({key: what for key, what in remembered_before.items() if key[1] not in touched})
    return after
