"""Procedures that follow each other on one joint: what one leaves is what the next begins with."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import beginning, ending
from jorvek.core.metal.state import JointState
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.metal_parts import MetalPart
from jorvek.core.procedure.options import selections


@dataclass(frozen=True)
class Gap:
    """Something that one procedure leaves otherwise than the next expects it.

    Attributes:
        part: what.
        left: where the first leaves it.
        expected: where the next expects it.
    """

    part: str
    left: str
    expected: str


def follows(first: Procedure, then: Procedure) -> bool:
    """Tell whether one procedure takes up where the other ends: same joint of the same engine, same condition."""
    a, b = first.applies_to, then.applies_to
    same = a.engine_type == b.engine_type and a.joint is b.joint and first.id != then.id
    return same and first.leaves is not None and first.leaves == then.begins and bool(first.parts and then.parts)


def gaps(first: Procedure, then: Procedure) -> tuple[Gap, ...]:
    """Return what the first leaves otherwise than the next begins, for the ways in which they fit best.

    Every way of choosing in the first needs some way of choosing in the next that takes its metal up.
    """
    found: dict[Gap, None] = {}
    ways = _unlike(PlannedMoves(then, way) for way in selections(then))
    for way in selections(first):
        moves = PlannedMoves(first, way)
        metal = ending(moves)
        best = min((tuple(_between(moves, metal, other)) for other in ways), key=len, default=())
        found.update(dict.fromkeys(best))
    return tuple(found)


def _unlike(ways: Iterable[PlannedMoves]) -> list[PlannedMoves]:
    """Return one of all ways that begin with the same parts: most options change nothing of them."""
    return list({tuple((p.called, p.begins, p.count) for p in way.parts.values()): way for way in ways}.values())


def _between(moves: PlannedMoves, metal: JointState, other: PlannedMoves) -> Iterator[Gap]:
    begin = beginning(other)
    ended = {_name(p): metal.where(p.id) for p in moves.parts.values()}
    begun = {_name(p): begin.where(p.id) for p in other.parts.values()}
    counts = {_name(p): p.count for p in moves.parts.values()}
    for part in other.parts.values():
        name, starts = _name(part), begin.where(part.id)
        if name not in ended:
            if part.traits.brought and starts == "in_place":
                yield Gap(part.called, "away", "in_place")
            continue
        if starts != "unknown" and ended[name] not in ("unknown", starts) and not _alike(ended[name], starts):
            yield Gap(part.called, ended[name], starts)
        elif starts == "in_place" and part.traits.brought and counts[name] != part.count:
            yield Gap(part.called, str(counts[name]), str(part.count))
    for part in moves.parts.values():
        stays = part.traits.brought and not part.traits.stays and metal.fitted(part.id)
        if stays and _name(part) not in begun and _stays_for(moves, part) in (None, other.procedure.id):
            yield Gap(part.called, "in_place", "away")


def _stays_for(moves: PlannedMoves, part: MetalPart) -> str | None:
    """Return the procedure that takes a part off which stays on; None where none is named."""
    fitted = [s for _, s in moves.steps if part.id in moves.touched(s) and moves.act(s) == "put_in"]
    return getattr(fitted[-1], "carried_to", None) if fitted else None


def _alike(left: str, starts: str) -> bool:
    """Out of the joint is out of it: on the bench, on the hook or in its other half."""
    out = {"aside", "hung", "with"}
    return left in out and starts in out


def _name(part: MetalPart) -> tuple[str, str]:
    return part.kind, part.which or ""
