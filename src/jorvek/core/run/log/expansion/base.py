"""How a step becomes cells: what all kinds have in common."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Final

from jorvek.core.procedure.cell_items import AuthorPoint, CellItem, Numbered
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.parts import Item, Limits
from jorvek.core.procedure.stated import printed
from jorvek.core.procedure.steps import (
    CrankPositionStep,
    DeflectionStep,
    InchStep,
    RoundStep,
    StepBase,
    StepKind,
    TurnsFreelyStep,
)
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.units import Quantity

METAL_C: Final = (-60.0, 600.0)
ANY_PRESSURE: Final = (0.0, 1e5)
ANY_TORQUE: Final = (0.0, 1e6)
ANY_ANGLE: Final = (-3600.0, 3600.0)


def cell(
    step: StepBase, item: CellItem | Numbered | AuthorPoint, ask: InputType, fastener: str | None = None, **rest: Any
) -> Cell:
    """Return a cell of a step: one of the program's own items, one of several of an item, or an author's point."""
    what = item.item if isinstance(item, Numbered) else item if isinstance(item, CellItem) else None
    key = "/".join(part for part in (step.id, str(item), fastener) if part)
    kind: StepKind = step.kind  # type: ignore[attr-defined]  # every kind of step has one; the base class has none
    return Cell(key=key, step=step.id, kind=kind, item=str(item), what=what, ask=ask, fastener=fastener, **rest)


def rounds(procedure: Procedure, step: RoundStep, item: CellItem | Numbered) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield each fastener in order with the cell that must come before it."""
    before: tuple[str, ...] = ()
    for name in procedure.orders[step.order].names():
        yield name, before
        before = () if step.free_order else (f"{step.id}/{item}/{name}",)


def typed(unit: str, quantity: Quantity, plausible: tuple[float, float]) -> dict[str, Any]:
    """Return what a typed value needs to know."""
    return {"quantity": quantity, "unit": unit, "plausible": plausible}


def ticks(step: StepBase, items: Sequence[Item], ask: InputType = InputType.TICK, **rest: Any) -> Iterator[Cell]:
    """Yield one cell for each of an author's points; v1 kinds keep their shape."""
    for item in items:
        extra = {**rest, **({"deliberate": True} if item.on_its_own_words else {})}
        yield cell(step, AuthorPoint(item.id), ask, text=printed(item), **extra)


def said(step: StepBase, item: CellItem | Numbered, text: str, ask: InputType = InputType.TICK, **rest: Any) -> Cell:
    """Return a cell that the author's words name."""
    return cell(step, item, ask, text=text, worded=True, **rest)


def people(step: CrankPositionStep | DeflectionStep | InchStep | TurnsFreelyStep) -> list[Cell]:
    """Everybody out, asked by name, where the author asks for it."""
    return [cell(step, CellItem.PEOPLE, InputType.TICK, deliberate=True)] if step.people_out else []


def each(
    procedure: Procedure, step: RoundStep, item: CellItem | Numbered, ask: InputType = InputType.TICK, **rest: Any
) -> Iterator[Cell]:
    """Yield one cell for each fastener of a round."""
    for name, before in rounds(procedure, step, item):
        needs = (*rest.get("needs", ()), *before)
        yield cell(step, item, ask, name, **{**rest, "needs": needs})


def guarded(
    step: StepBase,
    item: CellItem | Numbered,
    limits: Limits | None,
    unit: Measure,
    span: tuple[float, float],
    instrument: str,
    **rest: Any,
) -> Cell:
    """Return a measured value that is held against limits with a guard band."""
    sides = {} if limits is None else {name: m.value for name, m in limits if m is not None}
    rule = Rule.NONE if limits is None else Rule.GUARDED
    return cell(
        step,
        item,
        InputType.VALUE,
        rule=rule,
        tool_role=instrument,
        **sides,
        **typed(unit.unit, unit.quantity, span),
        **rest,
    )
