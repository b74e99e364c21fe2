"""The crank as one looks at it: where it is, how high the pistons stand, what is in its way, whom a move concerns."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from jorvek.core.engine.layout import Engine
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log.state import TURNING_GEAR, Overhaul
from jorvek.core.overhaul.rules.crank import below_top_mm, dead_centres
from jorvek.core.overhaul.rules.open_places import PlaceSort, to_clear
from jorvek.core.overhaul.rules.sweep import SweepCode, concerned, in_sweep, not_known
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import CrankSheet, EngineSheet


class Obstacle(View):
    """Something in the way of the crank."""

    code: SweepCode
    joint: str | None
    what: str
    by_word: bool


class Concerned(View):
    """Somebody whose work relies on where the crank is."""

    run_id: UUID
    joint: str
    by: str


class ToClear(View):
    """What answers "clear" before a move: its id, the joint or the door, and the part that is off there."""

    id: str
    joint: str
    what: str
    sort: PlaceSort


class CrankView(View):
    """The crank.

    Attributes:
        angle_deg: after the firing dead centre of the first cylinder of the firing order; None while nobody knows.
        at_top: cylinders that stand at their firing dead centre there.
        known: whether anybody knows where it is now; turned on without a look at the wheel, nobody does.
        cycle_deg: crank degrees of a working cycle.
        dead_centres: firing dead centre of each cylinder.
        below_top_mm: how far each piston stands below its top there; empty where nobody knows the angle, or the sheet
            states no geometry.
        gear_locked: the log says that the turning gear is locked; it is lifted for a move, and locked again.
        to_clear: what stands open and answers "clear" by name before a move.
        not_known: joints along the crank of which nobody has said how they are.
    """

    angle_deg: float | None
    known: bool
    by: str | None
    at: datetime | None
    words: str | None
    at_top: tuple[str, ...]
    cycle_deg: float
    dead_centres: dict[str, float]
    below_top_mm: dict[str, float]
    ways: tuple[Literal["ahead", "astern"], ...]
    moves_with: tuple[str, ...]
    obstacles: tuple[Obstacle, ...]
    gear_locked: bool
    to_clear: tuple[ToClear, ...]
    not_known: tuple[str, ...]
    concerned: tuple[Concerned, ...]


_AT_TOP_DEG = 0.5


def crank_view(
    overhaul: Overhaul,
    sheet: EngineSheet,
    runs: tuple[RunOnEngine, ...],
    silent: tuple[oc.SilentTablet, ...],
    asking: UUID | None = None,
) -> CrankView:
    """Return the crank: where it is, what stands in its way, whom a move concerns."""
    crank, centres = overhaul.crank, dead_centres(overhaul.opened.engine, sheet.crank)
    angle = crank.angle_deg if crank else None
    cycle = sheet.crank.cycle.value
    near = [
        n
        for n, at in centres.items()
        if angle is not None and abs((angle - at + cycle / 2) % cycle - cycle / 2) <= _AT_TOP_DEG
    ]
    return CrankView(
        angle_deg=angle,
        known=angle is not None,
        by=crank.by.name if crank else None,
        at=crank.at if crank else None,
        words=crank.words if crank else None,
        at_top=tuple(near),
        cycle_deg=cycle,
        dead_centres=centres,
        below_top_mm=_heights(overhaul.opened.engine, sheet.crank, angle),
        ways=sheet.crank.ways,
        moves_with=sheet.crank.moves_with,
        obstacles=tuple(
            Obstacle(code=o.code, joint=o.joint, what=o.what, by_word=o.by_word)
            for o in in_sweep(overhaul, sheet, runs, silent, asking)
        ),
        gear_locked=overhaul.in_force(TURNING_GEAR) is not None,
        to_clear=tuple(
            ToClear(id=c.id, joint=c.joint, what=c.what, sort=c.sort) for c in to_clear(overhaul, sheet, runs)
        ),
        not_known=not_known(overhaul, sheet, runs),
        concerned=tuple(Concerned(run_id=c.run_id, joint=c.joint, by=c.by) for c in concerned(overhaul, runs, asking)),
    )


def _heights(engine: Engine, crank: CrankSheet, angle_deg: float | None) -> dict[str, float]:
    if angle_deg is None:
        return {}
    found = {name: below_top_mm(engine, crank, name, angle_deg) for name in dead_centres(engine, crank)}
    return {name: height for name, height in found.items() if height is not None}
