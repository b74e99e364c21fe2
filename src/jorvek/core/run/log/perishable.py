"""What does not stay good for ever: lubricant, sealant, a temperature, cleanliness, isolation."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.kind import Kind
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.steps import (
    ConfirmStep,
    InspectStep,
    LubricateStep,
    MakeSafeStep,
    RestoreStep,
    SealantStep,
    Step,
    StepKind,
    TemperatureGateStep,
)
from jorvek.core.run.log.cells import Cell

Steps = tuple[tuple[str, tuple[Cell, ...]], ...]


@dataclass(frozen=True)
class Perishable:
    """A step whose outcome is asked about again after a time.

    Attributes:
        step: the step, with its cycle.
        kind: its kind.
        limit_s: how long it stays good.
        cells: its cells; it ages from the last of them.
        uses: the cells that rely on it; once they are filled its age is of no interest.
    """

    step: str
    kind: StepKind
    limit_s: float
    cells: tuple[str, ...]
    uses: tuple[str, ...]

    @property
    def only_again(self) -> bool:
        """Whether a look cannot show that it is still good: going on as it is departs from the procedure."""
        return KINDS[self.kind].ages == "again"


def perishables(procedure: Procedure, steps: Steps) -> tuple[Perishable, ...]:
    """Return what ages in a procedure, with what relies on it.

    Args:
        procedure: the document.
        steps: its cells by step, in working order.
    """
    by_id = {step.id: step for step in procedure.steps}
    found: list[Perishable] = []
    for k, (key, cells) in enumerate(steps):
        step = by_id[cells[0].step_id]
        limit, uses = _limit(step), _uses(procedure, step, steps[k + 1 :])
        if limit is not None and uses:
            found.append(Perishable(key, step.kind, limit.value, tuple(c.key for c in cells), uses))
    return tuple(found)


def _limit(step: Step) -> Measure | None:
    match step:
        case SealantStep():
            return step.close_within
        case LubricateStep() | TemperatureGateStep() | MakeSafeStep() | ConfirmStep() | InspectStep():
            return step.max_age
        case _:
            return None


def _uses(procedure: Procedure, step: Step, later: Steps) -> tuple[str, ...]:
    match step:
        case MakeSafeStep():
            return _until_restored(step, procedure, later)
        case LubricateStep() if step.group is not None:
            group = next(g for g in procedure.fasteners if g.id == step.group)
            return tuple(key for p in group.positions for key in _first_load(p.name, later))
        case TemperatureGateStep():
            return _next_of(lambda kind: kind.uncovers_or_loads, later)
        case _:
            return _next_of(lambda kind: kind.covers, later)


def _next_of(wanted: Callable[[Kind], bool], later: Steps) -> tuple[str, ...]:
    return next((tuple(c.key for c in cells) for _, cells in later if wanted(cells[0].traits)), ())


def _first_load(name: str, later: Steps) -> tuple[str, ...]:
    cells = (c for _, made in later for c in made)
    return next(((c.key,) for c in cells if c.traits.load == "adds" and c.fastener == name), ())


def _until_restored(step: MakeSafeStep, procedure: Procedure, later: Steps) -> tuple[str, ...]:
    restores = {s.id for s in procedure.steps if isinstance(s, RestoreStep) and s.of == step.id}
    found: list[str] = []
    for _, cells in later:
        if cells[0].step_id in restores:
            break
        if not cells[0].traits.never_held_up:
            found += (c.key for c in cells)
    return tuple(found)
