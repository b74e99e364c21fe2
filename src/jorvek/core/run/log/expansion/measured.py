"""Cells of gates: every point of a measurement, and what is worked out from them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, Final

from jorvek.core.procedure import steps as s
from jorvek.core.procedure.cell_items import WEBS, CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.parts import Limits
from jorvek.core.procedure.steps import measuring as m
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.expansion.base import METAL_C, cell, guarded, people, said, typed
from jorvek.core.units import Quantity

_SMALL: Final = (-50.0, 50.0)
_SIZE: Final = (0.0, 5000.0)


def _unit(limits: Limits) -> Measure:
    found = limits.lower or limits.upper
    assert found is not None
    return found


def _points(step: s.GateStep, points: tuple[str, ...], limits: Limits, span: tuple[float, float]) -> Iterator[Cell]:
    for k, point in enumerate(points, 1):
        yield guarded(step, CellItem.POINT.at(k), limits, _unit(limits), span, step.instrument, text=point, worded=True)


def _worked_out(step: s.GateStep, item: CellItem, limits: Limits, uses: tuple[str, ...]) -> Cell:
    """Return a figure that is worked out from readings and seen by a person."""
    sides: dict[str, Any] = {name: side.value for name, side in limits if side is not None}
    return cell(
        step,
        item,
        InputType.SEEN,
        rule=Rule.FORM,
        needs=uses,
        uses=uses,
        quantity=Quantity.LENGTH,
        unit=_unit(limits).unit,
        tool_role=step.instrument,
        **sides,
    )


def _form(step: s.GateStep, item: CellItem, upper: Measure, uses: tuple[str, ...]) -> Cell:
    return _worked_out(step, item, Limits(upper=upper), uses)


def _stand_out(_: Procedure, step: s.GateStep, gate: m.StandOut) -> Iterator[Cell]:
    points = list(_points(step, gate.points, gate.limits, _SMALL))
    yield from points
    yield _form(step, CellItem.WITHIN, gate.within, tuple(p.key for p in points))


def _blades(_: Procedure, step: s.GateStep, gate: m.Blades) -> Iterator[Cell]:
    for k, point in enumerate(gate.points, 1):
        if gate.go is not None:
            words = f"{point}: {gate.go.shown}"
            yield said(step, CellItem.GO.at(k), words, InputType.FEELER, rule=Rule.FEELER, choices=("enters",))
        if gate.no_go is not None:
            yield said(step, CellItem.NO_GO.at(k), f"{point}: {gate.no_go.shown}", InputType.FEELER, rule=Rule.FEELER)


_BOTH_WIDTHS_SINCE: Final = 3


def _strip(procedure: Procedure, step: s.GateStep, gate: m.StripClearance) -> Iterator[Cell]:
    if procedure.written_in < _BOTH_WIDTHS_SINCE:
        yield from _points(step, gate.points, gate.limits, (0.0, 5.0))
        return
    sides: dict[str, Any] = {name: side.value for name, side in gate.limits if side is not None}
    width = gate.scale[0].width
    for k, point in enumerate(gate.points, 1):
        before: tuple[str, ...] = ()
        for item in (CellItem.NARROWEST.at(k), CellItem.WIDEST.at(k)):
            read = cell(
                step,
                item,
                InputType.VALUE,
                rule=Rule.STRIP,
                text=point,
                needs=before,
                tool_role=step.instrument,
                **sides,
                **typed(width.unit, Quantity.LENGTH, (0.0, 20.0)),
            )
            before = (read.key,)
            yield read


def _diameters(_: Procedure, step: s.GateStep, gate: m.DiameterClearance) -> Iterator[Cell]:
    unit, uses = _unit(gate.limits), list[str]()
    for k, point in enumerate(gate.points, 1):
        for part in (CellItem.BORE, CellItem.JOURNAL):
            read = guarded(step, part.at(k), None, unit, _SIZE, step.instrument, text=point)
            uses.append(read.key)
            yield read
    for warm in (CellItem.BORE_TEMPERATURE, CellItem.JOURNAL_TEMPERATURE):
        read = cell(step, warm, InputType.VALUE, **typed("degC", Quantity.TEMPERATURE, METAL_C))
        uses.append(read.key)
        yield read
    yield _worked_out(step, CellItem.CLEARANCE, gate.limits, tuple(uses))


def _end_float(procedure: Procedure, step: s.GateStep, gate: m.EndFloat) -> Iterator[Cell]:
    unit, ways = _unit(gate.limits), {CellItem.FORWARD: list[str](), CellItem.AFT: list[str]()}
    for k in range(1, gate.times + 1):
        for way, earlier in ways.items():
            made = guarded(step, way.at(k), None, unit, _SMALL, step.instrument)
            if earlier and procedure.written_in >= _REPEATS_ASKED_SINCE:
                made = replace(made, rule=Rule.REPEAT, uses=tuple(earlier))
            earlier.append(made.key)
            yield made
    keys = [key for pair in zip(*ways.values(), strict=True) for key in pair]
    yield _worked_out(step, CellItem.FLOAT, gate.limits, tuple(keys))


_REPEATS_ASKED_SINCE: Final = 3


def _protrusion(_: Procedure, step: s.GateStep, gate: m.Protrusion) -> Iterator[Cell]:
    made = [
        guarded(step, CellItem.POINT.at(k), None, gate.spread, (-20.0, 20.0), step.instrument, text=point, worded=True)
        for k, point in enumerate(gate.points, 1)
    ]
    yield from made
    yield _form(step, CellItem.DIFFERENCE, gate.spread, tuple(c.key for c in made))


def _bore_form(_: Procedure, step: s.GateStep, gate: m.BoreForm) -> Iterator[Cell]:
    keys: list[str] = []
    for d, depth in enumerate(gate.depths, 1):
        for a, angle in enumerate(gate.angles, 1):
            words = f"{depth.shown}, {angle.shown}"
            made = guarded(
                step, CellItem.BORE.at(f"{d}.{a}"), None, gate.nominal, _SIZE, step.instrument, text=words, worded=True
            )
            keys.append(made.key)
            yield made
    for item, upper in (
        (CellItem.OVALITY, gate.ovality),
        (CellItem.TAPER, gate.taper),
        (CellItem.WEAR, gate.wear),
    ):
        yield _form(step, item, upper, tuple(keys))


def _straightness(_: Procedure, step: s.GateStep, gate: m.Straightness) -> Iterator[Cell]:
    made = [
        guarded(step, CellItem.POINT.at(k), None, gate.at_most, _SMALL, step.instrument, text=place.shown, worded=True)
        for k, place in enumerate(gate.points, 1)
    ]
    yield from made
    yield _form(step, CellItem.STRAIGHTNESS, gate.at_most, tuple(c.key for c in made))


def _level(_: Procedure, step: s.GateStep, gate: m.Level) -> Iterator[Cell]:
    yield from _points(step, gate.points, gate.limits, _SMALL)


def _side_float(_: Procedure, step: s.GateStep, gate: m.SideFloat) -> Iterator[Cell]:
    yield guarded(step, CellItem.SIDE_FLOAT, gate.limits, _unit(gate.limits), (0.0, 20.0), step.instrument)


GATES: Final[dict[type, Callable[[Procedure, s.GateStep, Any], Iterator[Cell]]]] = {
    m.StandOut: _stand_out,
    m.Blades: _blades,
    m.StripClearance: _strip,
    m.DiameterClearance: _diameters,
    m.EndFloat: _end_float,
    m.Protrusion: _protrusion,
    m.BoreForm: _bore_form,
    m.Straightness: _straightness,
    m.Level: _level,
    m.SideFloat: _side_float,
}


def gate(procedure: Procedure, step: s.GateStep) -> Iterator[Cell]:
    """Every reading of a gate, then what is worked out from them."""
    yield from GATES[type(step.gate)](procedure, step, step.gate)


def choose(_: Procedure, step: s.ChoosePartStep) -> Iterator[Cell]:
    """The part that the measurement chooses."""
    yield cell(step, CellItem.PART, InputType.CHOICE, rule=Rule.CHOSEN, choices=tuple(row.part for row in step.table))


def deflection(_: Procedure, step: s.DeflectionStep) -> Iterator[Cell]:
    """Everybody out, temperature and draught, five readings, and what they make."""
    yield from people(step)
    yield cell(
        step,
        CellItem.TEMPERATURE,
        InputType.VALUE,
        tool_role=step.thermometer,
        **typed("degC", Quantity.TEMPERATURE, METAL_C),
    )
    if step.draught:
        yield cell(step, CellItem.DRAUGHT, InputType.WORDS, text=step.throw)
    read = [guarded(step, web, None, step.vertical, _SMALL, step.instrument) for web in WEBS]
    yield from read
    uses = tuple(c.key for c in read)
    for item, most in (
        (CellItem.VERTICAL, step.vertical),
        (CellItem.HORIZONTAL, step.horizontal),
        (CellItem.CLOSES, step.closes_within),
    ):
        made: dict[str, Any] = {"quantity": Quantity.LENGTH, "unit": most.unit, "tool_role": step.instrument}
        lower = None if item is CellItem.CLOSES else -most.value
        yield cell(
            step, item, InputType.SEEN, rule=Rule.FORM, needs=uses, uses=uses, lower=lower, upper=most.value, **made
        )


def turns_freely(_: Procedure, step: s.TurnsFreelyStep) -> Iterator[Cell]:
    """Everybody out, then free, or a tight spot."""
    out = people(step)
    yield from out
    needs = tuple(c.key for c in out)
    yield cell(step, CellItem.TURNED, InputType.CHOICE, choices=("free", "tight_spot"), text=step.standard, needs=needs)
