"""A procedure as a plan sees it: stretches between demands on the crank, with hands, sets, crane and minutes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import chain
from typing import Final, cast

from jorvek.core.engine.layout import Engine, JointPlace
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import advance, beginning
from jorvek.core.metal.sweep import hanging, standing
from jorvek.core.overhaul.rules.crank import dead_centres, engine_angle
from jorvek.core.overhaul.views.minutes import HEAVY, Book, Known, Taken
from jorvek.core.procedure.options import Selection
from jorvek.core.procedure.steps import (
    CrankPositionStep,
    InchStep,
    ToolIssueStep,
    TurnsFreelyStep,
    WaitStep,
)
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.definition import Definition
from jorvek.core.sheet.document import CrankSheet

CRANE: Final = "crane"

_BY_TWO: Final = HEAVY | {"seat_tool", "remove_tool", "two_person", "support", "fit", "draw_home"}
_LONGEST_MIN: Final = 240.0
"""A stretch that is longer is cut: people go home, and what is half done is left and taken up again."""
_THROUGH: Final = frozenset({"deflection", "turns_freely", "inch"})
"""Kinds of step that turn the crank through: nobody relies on it meanwhile."""


@dataclass(frozen=True)
class Phase:
    """A stretch of a procedure between two demands on the crank.

    Attributes:
        title: heading of its first step.
        crank: allowed interval of the engine's angle in degrees, read forward; the whole circle where it only has to
            stand still, under pressure; None where the crank does not matter.
        through: it turns the crank through.
        index: place of its first call in the whole procedure, from 0: it keeps that however far a run has come.
        minutes: how long it takes.
        nine_in_ten_min: within this it is done nine times out of ten.
        known: where most of its minutes come from.
        holds: the crank stays where it is until the next phase: tools are on, or it was put there for both.
        stands: when it begins, something stands or hangs in the sweep of the crank.
        hands: how many people it takes.
        sets: classes of tool whose set it takes.
        crane: it takes the crane.
        wait_min: least minutes that have to pass before it, with nobody there.
        since_shutdown: they count from when the engine was stopped, not from the phase before.
    """

    index: int
    title: str
    crank: tuple[float, float] | None
    through: bool
    minutes: int
    nine_in_ten_min: int
    known: Known
    holds: bool
    stands: bool
    hands: int
    sets: tuple[str, ...]
    crane: bool
    wait_min: int
    since_shutdown: bool


@dataclass
class _Stretch:
    """A phase while it is put together; the crane begins and ends one, too, so that nobody waits for it longer."""

    title: str
    crank: tuple[float, float] | None = None
    through: bool = False
    wait_min: float = 0.0
    cells: tuple[Cell, ...] = ()

    @property
    def heavy(self) -> bool:
        """The crane is in use."""
        return any(cell.kind in HEAVY for cell in self.cells)

    @property
    def empty(self) -> bool:
        return not self.cells


def phases_of(
    definition: Definition,
    engine: Engine,
    crank: CrankSheet,
    place: JointPlace,
    selection: Selection,
    left: Callable[[Cell], bool] = lambda _: True,
    book: Book | None = None,
) -> tuple[Phase, ...]:
    """Return the phases of a procedure on a joint, in working order.

    Args:
        definition: the procedure, its options chosen.
        engine: the engine.
        crank: how its crank turns.
        place: the joint.
        selection: how the options of the procedure are chosen.
        left: whether a call is still to be answered; of a run under way only those count.
        book: what earlier runs tell of its minutes.
    """
    classes = _classes(definition)
    told, swept = book or Book(), _Sweep(definition, selection)
    taken = {cell.key: told.taken(definition, cell) for cell in definition.cells}
    parts = [part for one in _stretches(definition, engine, crank, place) for part in _cut(one, taken)]
    found = []
    for k, part in enumerate(parts):
        then = parts[k + 1] if k + 1 < len(parts) else None
        rest = replace(part, cells=tuple(cell for cell in part.cells if left(cell)))
        if not rest.empty:
            # Work that has begun has its wait behind it.
            begun = len(rest.cells) < len(part.cells)
            place_of_it = definition.place_of(part.cells[0].key)
            rest = replace(rest, wait_min=0.0) if begun else rest
            phase = _finished(place_of_it, rest, then, classes, crank, taken)
            found.append(replace(phase, stands=swept.blocked_before(place_of_it)))
    undone = definition.procedure.applies_to.purpose == "loosen"
    # Loosening waits for cooling, counted from the shutdown; tightening for setting, from the phase before.
    return tuple(replace(phase, since_shutdown=undone and phase.wait_min > 0) for phase in found)


class _Sweep:
    """What a procedure puts into the sweep of the crank, and when it takes it out again."""

    def __init__(self, definition: Definition, selection: Selection) -> None:
        self.definition, self.script = definition, PlannedMoves(definition.procedure, dict(selection))
        self.metal, self.done = beginning(self.script), 0

    def blocked_before(self, place: int) -> bool:
        """Tell whether something is in it before a call; asked of one call after the other."""
        steps = self.definition.steps
        while self.done < len(steps) and self.definition.place_of(steps[self.done][1][-1].key) < place:
            step = self.definition.steps_by_id[steps[self.done][1][0].step_id]
            self.metal, self.done = advance(self.script, self.metal, step), self.done + 1
        return any(chain(standing(self.script, self.metal), hanging(self.script, self.metal)))


def _stretches(definition: Definition, engine: Engine, crank: CrankSheet, place: JointPlace) -> Iterator[_Stretch]:
    now = _Stretch(definition.procedure.title)
    held: tuple[float, float] | None = None
    for _, cells in definition.steps:
        step = definition.steps_by_id[cells[0].step_id]
        if isinstance(step, CrankPositionStep):
            held = _interval(step, engine, crank, place)
        heavy = cells[0].kind in HEAVY
        parts = isinstance(step, CrankPositionStep | WaitStep) or cells[0].kind in _THROUGH or heavy != now.heavy
        if (parts or now.through) and not now.empty:
            yield now
            now = _Stretch(step.title, held)
        if now.empty:
            now.title, now.crank, now.through = step.title, held, cells[0].kind in _THROUGH
        if isinstance(step, WaitStep):
            now.wait_min += step.time.value / 60.0 if step.time is not None else 0.0
        if isinstance(step, TurnsFreelyStep | InchStep) or cells[0].kind in _THROUGH:
            # After a whole turn no later work relies on the angle at which the crank stopped.
            held = None
        now.cells += cells
    if not now.empty:
        yield now


def _cut(stretch: _Stretch, taken: Mapping[str, Taken]) -> Iterator[_Stretch]:
    """Cut a stretch that is too long between its calls; only its first part waits."""
    part = replace(stretch, cells=())
    for cell in stretch.cells:
        so_far = sum(taken[c.key].minutes for c in part.cells)
        if not part.empty and so_far + taken[cell.key].minutes > _LONGEST_MIN:
            yield part
            part = replace(stretch, cells=(), wait_min=0.0)
        part.cells += (cell,)
    yield part


def _interval(
    step: CrankPositionStep, engine: Engine, crank: CrankSheet, place: JointPlace
) -> tuple[float, float] | None:
    """Return where the crank may stand; None where no cylinder tells, or nobody knows its dead centre."""
    mine = sorted(place.cylinders) or _nearest(engine, place)
    if not mine:
        return None
    if mine[0] not in dead_centres(engine, crank):
        return None
    at = engine_angle(engine, crank, mine[0], step, step.angle.value)
    return (at - step.tolerance.value, at + step.tolerance.value)


def _nearest(engine: Engine, place: JointPlace) -> list[str]:
    """Return the cylinder beside a bearing."""
    names = engine.cylinders()[: engine.cylinders_per_bank]
    at = min(max(round(place.slot + 0.5), 0), len(names) - 1)
    return names[at : at + 1]


def _classes(definition: Definition) -> dict[str, str]:
    """Return the class of tool of every role that sits on studs."""
    bound = {tool.role for tool in definition.procedure.tensioners}
    issued = [s for s in definition.procedure.steps if isinstance(s, ToolIssueStep)]
    return {tool.role: tool.tool_class for step in issued for tool in step.tools if tool.role in bound}


def _finished(
    index: int,
    stretch: _Stretch,
    then: _Stretch | None,
    classes: dict[str, str],
    crank: CrankSheet,
    taken: Mapping[str, Taken],
) -> Phase:
    kinds, tools = {cell.kind for cell in stretch.cells}, _tools_on(stretch)
    minutes = [taken[cell.key] for cell in stretch.cells]
    whole = sum(one.minutes for one in minutes)
    # Delays of independent steps are independent: their variances add up.
    late = math.sqrt(sum((one.nine_in_ten - one.minutes) ** 2 for one in minutes))
    most = max(("usual", "learned", "stated"), key=lambda known: sum(o.minutes for o in minutes if o.known == known))
    same = then is not None and stretch.crank is not None and then.crank == stretch.crank
    both = then is not None and tools and _tools_on(then)
    return Phase(
        index=index,
        title=stretch.title,
        crank=None if stretch.through else stretch.crank or ((0.0, crank.cycle.value) if tools else None),
        through=stretch.through,
        minutes=max(1, round(whole)),
        nine_in_ten_min=max(1, round(whole + late)),
        known=cast("Known", most),
        holds=not stretch.through and then is not None and not then.through and (same or both),
        stands=False,
        hands=2 if kinds & _BY_TWO else 1,
        sets=tuple(sorted(set(classes.values()))) if tools else (),
        crane=bool(kinds & HEAVY),
        wait_min=round(stretch.wait_min),
        since_shutdown=False,
    )


def _tools_on(stretch: _Stretch) -> bool:
    return any(cell.traits.tool != "none" or cell.traits.pressure != "none" for cell in stretch.cells)
