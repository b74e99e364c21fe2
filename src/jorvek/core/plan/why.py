"""Why a piece of work stands where a plan has it, and not sooner. Derived here."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from jorvek.core.plan.crew import Timed
from jorvek.core.plan.problem import DAY_MIN, HANDS, Data, PieceOfWork, Problem
from jorvek.core.plan.result import Move, Placed
from jorvek.core.plan.turning import Circle

WhyCode = Literal[
    "now", "pinned", "not_before", "after", "wait", "apart", "hands", "set", "crank", "move", "shift", "none"
]


class Why(Data):
    """The reason that binds.

    Attributes:
        code: it starts at once; a person put it there; it is asked not to start sooner; it comes after something; it
            waits for a time to pass after something; it may not stand open beside something; hands are busy; a set is
            in use; the crank stands elsewhere, held by something; it is being turned; the shift begins then, or had no
            room; nothing binds it.
        what: names of the pieces that it waits for; of the set; angle to which the crank is turned.
    """

    code: WhyCode
    what: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Asked:
    problem: Problem
    plan: Timed

    @cached_property
    def there(self) -> dict[str, Placed]:
        return {one.id: one for one in self.plan.placed}

    @cached_property
    def pieces(self) -> dict[str, PieceOfWork]:
        return {piece.id: piece for piece in self.problem.work}

    @cached_property
    def circle(self) -> Circle:
        return Circle(self.problem)

    @cached_property
    def apart(self) -> dict[str, list[str]]:
        """Of every piece that opens a span, the ends of those that it must not meet."""
        spans = {s.id: (s.from_, s.to) for s in self.problem.open_spans}
        found: dict[str, list[str]] = {}
        for one, other in self.problem.never_open_together:
            if one in spans and other in spans:
                found.setdefault(spans[one][0], []).append(spans[other][1])
                found.setdefault(spans[other][0], []).append(spans[one][1])
        return found

    def why(self, piece: PieceOfWork) -> Why:
        start = self.there[piece.id].start_min
        if piece.pinned_min is not None:
            return Why(code="pinned")
        return next(self._reasons(piece, start), Why(code="none"))

    def _reasons(self, piece: PieceOfWork, start: int) -> Iterator[Why]:
        if start == self.problem.not_before_min:
            yield Why(code="now")
        ended = [n for n in piece.after if self.there[n].end_min == start]
        if ended:
            yield Why(code="after", what=tuple(ended))
        waited = [n for n, m in piece.wait_after.items() if self.there[n].end_min + m == start]
        if waited:
            yield Why(code="wait", what=tuple(waited))
        shut = [n for n in self.apart.get(piece.id, ()) if self.there[n].end_min == start]
        if shut:
            yield Why(code="apart", what=tuple(shut))
        if piece.not_before_min == start and start:
            yield Why(code="not_before")
        yield from self._crank(piece, start)
        yield from self._shared(piece, start)
        shift = self.problem.shift
        if shift is not None and start % DAY_MIN == shift[0]:
            yield Why(code="shift")

    @cached_property
    def holding(self) -> frozenset[str]:
        """What needs the crank where it is, by itself or with what it begins or ends."""
        held = {name for hold in self.problem.holds for name in (hold.from_, hold.to)}
        return frozenset(p.id for p in self.problem.work if (p.crank is not None or p.id in held) and not p.turns)

    def _crank(self, piece: PieceOfWork, start: int) -> Iterator[Why]:
        if not (piece.turns or piece.id in self.holding):
            return
        turned = self._ending(start, lambda p: p.turns or (piece.turns and p.id in self.holding))
        if turned:
            yield Why(code="crank", what=turned)
        move = next((m for m in self.plan.moves if m.end_min == start), None)
        if move is None:
            return
        before = self._ending(move.start_min, lambda p: p.turns or p.id in self.holding)
        if before:
            yield Why(code="crank", what=before)
        yield Why(code="move", what=(f"{move.to_deg:.0f}",))

    def _ending(self, at: int, wanted: Callable[[PieceOfWork], bool]) -> tuple[str, ...]:
        return tuple(p.id for p in self.problem.work if self.there[p.id].end_min == at and wanted(p))

    def _shared(self, piece: PieceOfWork, start: int) -> Iterator[Why]:
        """What was in use until then, and would have been too little a minute sooner."""
        for what, count in self.problem.taken(piece).items():
            on = [p for p in self.problem.work if p.id != piece.id and self._on(p, start - 1)]
            used = sum(self.problem.taken(p).get(what, 0) for p in on)
            used += sum(self.problem.move_hands for m in self.plan.moves if what == HANDS and _during(m, start - 1))
            used += sum(a.count for a in self.problem.away if a.what == what and a.from_min <= start - 1 < a.to_min)
            if used + count > self.problem.there(what):
                until = tuple(
                    p.id for p in on if self.there[p.id].end_min == start and self.problem.taken(p).get(what, 0)
                )
                yield Why(code="hands", what=until) if what == HANDS else Why(code="set", what=(what, *until))

    def _on(self, piece: PieceOfWork, at: int) -> bool:
        one = self.there[piece.id]
        return one.start_min <= at < one.end_min


def _during(move: Move, at: int) -> bool:
    return move.start_min <= at < move.end_min


def reasons(problem: Problem, plan: Timed) -> Mapping[str, Why]:
    """Return of every piece why it stands where the plan has it.

    Args:
        problem: what was asked.
        plan: it holds.
    """
    asked = _Asked(problem, plan)
    return {piece.id: asked.why(piece) for piece in problem.work}
