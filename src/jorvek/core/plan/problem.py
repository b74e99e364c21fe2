"""What is asked of a plan: work with its demands on crank, hands, tool sets and time."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Final, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from jorvek.core.refusal import Refusal

MOST_WORK: Final = 600
"""Pieces of work in one plan."""
_A_YEAR_MIN: Final = 366 * 24 * 60
HANDS: Final = "hands"
DAY_MIN: Final = 1440

Name: TypeAlias = Annotated[str, Field(min_length=1, max_length=120)]
Minutes: TypeAlias = Annotated[int, Field(ge=0, le=_A_YEAR_MIN)]
Degrees: TypeAlias = Annotated[float, Field(ge=-7200, le=7200, allow_inf_nan=False)]


class Data(BaseModel):
    """Read as it stands: unknown words are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class PieceOfWork(Data):
    """A stretch of work between two demands on the crank.

    Attributes:
        id: its name.
        crank: allowed intervals ``(from, to)`` in degrees, read forward from the first; they may wrap. One as long as
            the cycle is the whole circle. None where the crank does not matter.
        after: what has to be finished before.
        minutes: how long it takes.
        hands: how many people it takes.
        uses: how many of each set it takes.
        wait_after: least minutes between the end of another piece and its start.
        turns: it turns the crank through itself: no move and nothing that needs the crank runs meanwhile.
        not_before_min: it starts no sooner; minutes from the first midnight, like all moments of a plan.
        pinned_min: a person has put it there: it starts at that moment and at no other.
    """

    id: Name
    crank: tuple[tuple[Degrees, Degrees], ...] | None = None
    after: tuple[Name, ...] = ()
    minutes: Annotated[int, Field(ge=0, le=7 * 24 * 60)] = 0
    hands: Annotated[int, Field(ge=0, le=99)] = 1
    uses: dict[Name, Annotated[int, Field(ge=0, le=99)]] = Field(default={})
    wait_after: dict[Name, Minutes] = Field(default={})
    turns: bool = False
    not_before_min: Minutes = 0
    pinned_min: Minutes | None = None


class Held(Data):
    """From the start of one piece of work to the end of another the crank stays where it is.

    Of a piece that turns the crank itself only what lies between counts: from its end on, or up to its start.
    """

    from_: Name = Field(alias="from")
    to: Name


class Away(Data):
    """Somebody or something is away for a while.

    Attributes:
        what: name of a set, or ``HANDS``.
        count: how many of them.
    """

    what: Name
    from_min: Minutes
    to_min: Minutes
    count: Annotated[int, Field(ge=1, le=99)] = 1


class OpenSpan(Data):
    """Something is open from the start of one piece of work to the end of another."""

    id: Name
    from_: Name = Field(alias="from")
    to: Name


class Problem(Data):
    """A plan is asked for.

    Attributes:
        cycle_deg: degrees of a working cycle.
        direction: the crank is turned both ways, or forward alone.
        start_deg: where it stands.
        work: the pieces of work.
        open_spans: what is open from when to when.
        never_open_together: pairs of spans that never overlap; they may touch. A span that is not there is not open.
        hands: how many people there are.
        sets: how many of each set there are.
        shift: minutes of the day between which all work lies; None around the clock.
        deg_per_minute: speed of turning.
        minutes_per_move: time to prepare a move.
        move_hands: people that a move takes: its commander; none in the plain problem.
        moves_in_shift: a move lies within a shift, too.
        not_before_min: the moment of the first day before which nothing starts: it is now.
        holds: between which pieces the crank stays where it is.
        away: who and what is away, and when.
    """

    cycle_deg: Literal[360, 720]
    direction: Literal["both", "forward"]
    start_deg: Degrees
    work: Annotated[tuple[PieceOfWork, ...], Field(min_length=1, max_length=MOST_WORK)]
    open_spans: tuple[OpenSpan, ...] = ()
    never_open_together: tuple[tuple[Name, Name], ...] = ()
    hands: Annotated[int, Field(ge=0, le=99)] = 1
    sets: dict[Name, Annotated[int, Field(ge=0, le=99)]] = Field(default={})
    shift: tuple[Annotated[int, Field(ge=0, le=1440)], Annotated[int, Field(ge=0, le=1440)]] | None = None
    deg_per_minute: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)] = 90.0
    minutes_per_move: Annotated[int, Field(ge=0, le=1440)] = 0
    move_hands: Annotated[int, Field(ge=0, le=9)] = 0
    moves_in_shift: bool = False
    not_before_min: Annotated[int, Field(ge=0, le=1440)] = 0
    holds: tuple[Held, ...] = ()
    away: tuple[Away, ...] = ()

    @property
    def bare(self) -> bool:
        """It asks nothing but what the plain problem knows."""
        return not (
            self.move_hands
            or self.moves_in_shift
            or self.holds
            or self.away
            or any(p.turns or p.not_before_min or p.pinned_min is not None for p in self.work)
        )

    def there(self, what: str) -> int:
        """Return how many of something there are, whoever is away."""
        return self.hands if what == HANDS else self.sets.get(what, 0)

    def taken(self, piece: PieceOfWork) -> dict[str, int]:
        """Return what a piece takes: hands and sets."""
        return {**piece.uses, HANDS: piece.hands} if piece.hands else dict(piece.uses)


def demand_sound(problem: Problem) -> None:
    """Refuse a problem that contradicts itself, before anybody looks for a plan.

    Raises:
        Refusal: ``plan_name_twice``, ``plan_no_such_work``, ``plan_loop`` with the names in the loop,
            ``plan_no_hands``, ``plan_no_set``, ``plan_no_position``, ``plan_longer_than_a_shift``.
    """
    counted = Counter(piece.id for piece in problem.work)
    twice = next((name for name, n in counted.items() if n > 1), None)
    if twice is not None:
        raise Refusal("plan_name_twice", name=twice)
    for piece in problem.work:
        _demand_piece(problem, piece, set(counted))
    named = [n for span in problem.open_spans for n in (span.from_, span.to)]
    named += [n for hold in problem.holds for n in (hold.from_, hold.to)]
    missing = next((n for n in named if n not in counted), None)
    if missing is not None:
        raise Refusal("plan_no_such_work", name=missing)
    loop = _loop(problem)
    if loop:
        raise Refusal("plan_loop", names=" → ".join(loop))
    for one in problem.away:
        if one.what != HANDS and one.what not in problem.sets:
            raise Refusal("plan_no_such_set", name=one.what)


def _demand_piece(problem: Problem, piece: PieceOfWork, known: set[str]) -> None:
    missing = next((n for n in (*piece.after, *piece.wait_after) if n not in known), None)
    if missing is not None:
        raise Refusal("plan_no_such_work", name=missing)
    if piece.hands > problem.hands:
        raise Refusal("plan_no_hands", name=piece.id, wanted=piece.hands, there=problem.hands)
    for name, count in piece.uses.items():
        there = problem.sets.get(name, 0)
        if count > there:
            raise Refusal("plan_no_set", name=piece.id, set=name, wanted=count, there=there)
    if piece.crank is not None and not piece.crank:
        raise Refusal("plan_no_position", name=piece.id)
    if problem.shift is not None and piece.minutes > problem.shift[1] - problem.shift[0]:
        raise Refusal("plan_longer_than_a_shift", name=piece.id, minutes=piece.minutes)


def _loop(problem: Problem) -> list[str]:
    """Return names that wait for each other in a ring; none where there is no ring."""
    before = {piece.id: (*piece.after, *piece.wait_after) for piece in problem.work}
    done: set[str] = set()
    for first in before:
        path: list[str] = []
        stack: list[tuple[str, bool]] = [(first, False)]
        while stack:
            name, leaving = stack.pop()
            if leaving:
                path.pop()
                done.add(name)
            elif name in path:
                return [*path[path.index(name) :], name]
            elif name not in done:
                path.append(name)
                stack.append((name, True))
                stack.extend((other, False) for other in before[name])
    return []
