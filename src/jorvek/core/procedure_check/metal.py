"""The order proof among the rules: what cannot be done as written, and what is left at the end."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.metal.ends import left
from jorvek.core.metal.proof import stuck
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure_check.finding import CheckFinding, Path, error, warning
from jorvek.core.procedure_check.reading import Reading, Rule


def order(r: Reading) -> Iterator[CheckFinding]:
    """Every step can be done on the metal that the steps before it leave."""
    for one in stuck(r):
        step = r.procedure.steps[one.index]
        path: Path = ("steps", one.index)
        yield error(
            one.obstacle.code,
            path,
            step=step.title,
            part=_called(r, one.obstacle.part),
            cleared_by=one.cleared_by or "–",
            words=one.obstacle.words,
        )


def ends(r: Reading) -> Iterator[CheckFinding]:
    """Nothing is left in, open, unlocked or unmeasured, and the joint is as the document says."""
    for one in left(r):
        step = r.procedure.steps[one.index]
        yield error(one.code, ("steps", one.index), step=step.title, part=_called(r, one.part), words=one.words)


_MOVES: Final = ("put_in", "take_off", "hang", "lay")


def simulated(r: Reading) -> Iterator[CheckFinding]:
    """A document whose steps move parts names them, or nobody proves that its steps can be done."""
    moves = [i for i, s in r.steps if KINDS[s.kind].does in _MOVES]
    if moves and not r.simulated:
        yield warning("not_played", ("steps", moves[0]), step=r.procedure.steps[moves[0]].title)


def _called(r: Reading, name: str) -> str:
    part = r.parts.get(name)
    return name if part is None else part.called


RULES: Final[tuple[Rule, ...]] = (order, ends, simulated)
