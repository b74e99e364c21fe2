"""A procedure as a plan sees it: stretches between demands on the crank, with hands, sets, crane and minutes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Final

from jorvek.core.engine.layout import Engine, JointPlace
from jorvek.core.overhaul.rules.crank import engine_angle
from jorvek.core.procedure.steps import (
    CrankPositionStep,
    InchStep,
    ToolIssueStep,
    TurnsFreelyStep,
    WaitStep,
)
from jorvek.core.run.log.cells import Ask, Cell
from jorvek.core.run.log.definition import Definition
from jorvek.core.sheet.document import CrankSheet
from jorvek.core.sheet.relations import cylinders_of

CRANE: Final = "crane"

USUAL_MIN: Final[dict[Ask, float]] = {
    Ask.TICK: 1.5,
    Ask.VALUE: 2.0,
    Ask.FEELER: 2.0,
    Ask.TOOL: 3.0,
    Ask.SEEN: 3.0,
    Ask.SIGNATURE: 10.0,
    Ask.CHOICE: 1.0,
    Ask.WORDS: 2.0,
    Ask.COUNT: 1.5,
    Ask.PULL: 5.0,
    Ask.TURN: 5.0,
}
"""Minutes of a call where nobody has stated or learned any: what it asks for says how long it takes, roughly."""
_HEAVY_MIN: Final = 20.0
"""Minutes of a call that lifts, lands or parks."""
_HEAVY: Final = frozenset({"lift", "land", "park"})
_BY_TWO: Final = _HEAVY | {"seat_tool", "remove_tool", "two_person", "support", "fit", "draw_home"}
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
        minutes: how long it takes.
        hands: how many people it takes.
        sets: classes of tool whose set it takes.
        crane: it takes the crane.
        wait_min: least minutes that have to pass before it, with nobody there.
        since_shutdown: they count from when the engine was stopped, not from the phase before.
    """

    title: str
    crank: tuple[float, float] | None
    through: bool
    minutes: int
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
        return any(cell.kind in _HEAVY for cell in self.cells)

    @property
    def empty(self) -> bool:
        return not self.cells


def phases_of(
    definition: Definition,
    engine: Engine,
    crank: CrankSheet,
    place: JointPlace,
    left: Callable[[Cell], bool] = lambda _: True,
) -> tuple[Phase, ...]:
    """Return the phases of a procedure on a joint, in working order.

    Args:
        definition: the procedure, its options chosen.
        engine: the engine.
        crank: how its crank turns.
        place: the joint.
        left: whether a call is still to be answered; of a run under way only those count.
    """
    classes = _classes(definition)
    stretches = _stretches(definition, engine, crank, place, left)
    undone = definition.procedure.applies_to.purpose == "loosen"
    return tuple(_finished(part, classes, crank.cycle.value, undone=undone) for one in stretches for part in _cut(one))


def _stretches(
    definition: Definition, engine: Engine, crank: CrankSheet, place: JointPlace, left: Callable[[Cell], bool]
) -> Iterator[_Stretch]:
    now = _Stretch(definition.procedure.title)
    held: tuple[float, float] | None = None
    for _, cells in definition.steps:
        step = definition.steps_by_id[cells[0].step_id]
        if isinstance(step, CrankPositionStep):
            held = _interval(step, engine, crank, place)
        heavy = cells[0].kind in _HEAVY
        parts = isinstance(step, CrankPositionStep | WaitStep) or cells[0].kind in _THROUGH or heavy != now.heavy
        if (parts or now.through) and not now.empty:
            yield now
            now = _Stretch(step.title, held)
        if now.empty:
            now.title, now.crank, now.through = step.title, held, cells[0].kind in _THROUGH
        if isinstance(step, WaitStep):
            now.wait_min += step.time.value / 60.0 if step.time is not None else 0.0
        if isinstance(step, TurnsFreelyStep | InchStep) or cells[0].kind in _THROUGH:
            # Turned through, it stands where nobody relies on it.
            held = None
        now.cells += tuple(cell for cell in cells if left(cell))
    if not now.empty:
        yield now


def _cut(stretch: _Stretch) -> Iterator[_Stretch]:
    """Cut a stretch that is too long between its calls; only its first part waits."""
    part = replace(stretch, cells=())
    for cell in stretch.cells:
        if not part.empty and sum(_minutes(c) for c in part.cells) + _minutes(cell) > _LONGEST_MIN:
            yield part
            part = replace(stretch, cells=(), wait_min=0.0)
        part.cells += (cell,)
    yield part


def _interval(
    step: CrankPositionStep, engine: Engine, crank: CrankSheet, place: JointPlace
) -> tuple[float, float] | None:
    """Return where the crank may stand; None where no cylinder tells."""
    mine = sorted(cylinders_of(engine, place)) or _nearest(engine, place)
    if not mine:
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


def _finished(stretch: _Stretch, classes: dict[str, str], cycle_deg: float, *, undone: bool) -> Phase:
    kinds = {cell.kind for cell in stretch.cells}
    tools = any(cell.means.tool != "none" or cell.means.pressure != "none" for cell in stretch.cells)
    return Phase(
        title=stretch.title,
        crank=None if stretch.through else stretch.crank or ((0.0, cycle_deg) if tools else None),
        through=stretch.through,
        minutes=max(1, round(sum(_minutes(cell) for cell in stretch.cells))),
        hands=2 if kinds & _BY_TWO else 1,
        sets=tuple(sorted(set(classes.values()))) if tools else (),
        crane=bool(kinds & _HEAVY),
        wait_min=round(stretch.wait_min),
        # What is undone cools and drains from the shutdown on; what is put together sets from the phase before.
        since_shutdown=undone and stretch.wait_min > 0,
    )


def _minutes(cell: Cell) -> float:
    return _HEAVY_MIN if cell.kind in _HEAVY else USUAL_MIN[cell.ask]
