"""What was found out about fasteners from several readings together: said wherever something rests on them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from jorvek.core.measuring.evidence import Agreement
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.state import RunState, once
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.moved_as_expected import MovedAsExpected, moved_as_expected

FoundCode = Literal["too_little", "too_much", "little", "much", "one_of", "disagrees"]


class FoundView(View):
    """One finding.

    Attributes:
        code: all of a group turned too little or too much; single ones far less or more than their like; one of two;
            or evidence of one fastener that does not agree.
        group: heading of the group.
        names: the fasteners that it concerns; empty for all of the group.
        share_pct: middle of what the group turned, of what was expected; None where that was not measured.
        least_pct: and ``most_pct``: what the friction in force lets expect.
    """

    code: FoundCode
    group: str
    names: tuple[str, ...]
    share_pct: float | None = None
    least_pct: float | None = None
    most_pct: float | None = None


@once
def found_of(state: RunState) -> tuple[FoundView, ...]:
    """Return what was found out, the whole groups before single fasteners."""
    by_movement = [one for group in moved_as_expected(state) for one in _of_group(group)]
    return (*by_movement, *_at_odds(state))


def _of_group(group: MovedAsExpected) -> Iterator[FoundView]:
    range_pct = {"share_pct": group.share_pct, "least_pct": group.least_pct, "most_pct": group.most_pct}
    if group.verdict in ("too_little", "too_much"):
        yield FoundView(code=group.verdict, group=group.group, names=(), **range_pct)
    if group.little:
        yield FoundView(code="little", group=group.group, names=group.little, **range_pct)
    if group.much:
        yield FoundView(code="much", group=group.group, names=group.much, **range_pct)
    if group.one_of:
        yield FoundView(code="one_of", group=group.group, names=group.one_of, **range_pct)


def _at_odds(state: RunState) -> Iterator[FoundView]:
    for group in state.definition.procedure.fasteners:
        held = ((p.name, estimate(state, p.name)) for p in group.positions)
        names = tuple(
            name for name, one in held if one is not None and one.agreement not in (Agreement.AGREE, Agreement.SINGLE)
        )
        if names:
            yield FoundView(code="disagrees", group=group.title, names=names)


def named_by_movement(state: RunState) -> frozenset[str]:
    """Return the fasteners that movement names; nobody is named while a round is being pulled."""
    if any(cell.ask is InputType.PULL for cell in open_cells(state)):
        return frozenset()
    found: set[str] = set()
    for group, one in zip(state.definition.procedure.fasteners, _sheets(state), strict=True):
        if one is not None and one.verdict in ("too_little", "too_much"):
            found |= {p.name for p in group.positions}
        if one is not None:
            found |= {*one.little, *one.much, *one.one_of}
    return frozenset(found)


def _sheets(state: RunState) -> list[MovedAsExpected | None]:
    by_title = {one.group: one for one in moved_as_expected(state)}
    return [by_title.get(group.title) for group in state.definition.procedure.fasteners]
