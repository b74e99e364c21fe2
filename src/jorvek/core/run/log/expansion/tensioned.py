"""Cells of steps with hydraulic tensioners, and of the lengths that prove them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from jorvek.core.procedure import steps as s
from jorvek.core.procedure.cell_items import AuthorPoint, CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.parts import limits_of
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.expansion.base import ANY_PRESSURE, METAL_C, cell, each, rounds, typed
from jorvek.core.units import Quantity

_LENGTH_SHARE = 0.2
_FAR_OFF_MM = 5.0
"""No gauge is set further off than that; more is another bar, or a digit."""
_EACH_NUT_SINCE = 3
"""The format since which the low check pressure is proved nut by nut; logs of older documents keep their one call."""


Lengths = s.StudLengthStep | s.StretchStep
_METAL = typed("degC", Quantity.TEMPERATURE, METAL_C)


def _temperature(step: Lengths, name: str | None, **rest: Any) -> Cell:
    return cell(step, CellItem.TEMPERATURE, InputType.VALUE, name, tool_role=step.thermometer, **_METAL, **rest)


def _length_pairs(procedure: Procedure, step: Lengths, first: tuple[Cell, ...]) -> Iterator[tuple[Cell, ...]]:
    """Yield the temperature, where each stud has its own, and the bare length call of each stud."""
    common = next((c for c in first if c.what is CellItem.TEMPERATURE), None)
    set_to = tuple(c.key for c in first if c.what is CellItem.STANDARD_BEFORE)
    for name, before in rounds(procedure, step, CellItem.LENGTH):
        new = procedure.group_of(name).free_length
        span = ((1 - _LENGTH_SHARE) * new.value, (1 + _LENGTH_SHARE) * new.value)
        if isinstance(step, s.StretchStep) and step.datum != "end_to_end":
            span = (0.0, span[1])
        temperature = common or _temperature(step, name, needs=before)
        length = cell(
            step,
            CellItem.LENGTH,
            InputType.VALUE,
            name,
            needs=(temperature.key, *set_to, *(before if common else ())),
            uses=(temperature.key,),
            tool_role=step.instrument,
            **typed(new.unit, Quantity.LENGTH, span),
        )
        yield (length,) if common else (temperature, length)


def _first(step: Lengths) -> tuple[Cell, ...]:
    """Return what is read once before the first stud: the gauge on its bar, the temperature of all."""
    found = [] if step.setting_bar is None else [_standard(step, step.setting_bar, CellItem.STANDARD_BEFORE)]
    return (*found, _temperature(step, None)) if step.one_temperature else tuple(found)


def _standard(step: Lengths, standard: s.SettingStandard, item: CellItem, needs: tuple[str, ...] = ()) -> Cell:
    shows, within = standard.shows.value, standard.within.value
    return cell(
        step,
        item,
        InputType.VALUE,
        rule=Rule.SETTING,
        needs=needs,
        target=shows,
        lower=shows - within,
        upper=shows + within,
        tool_role=step.instrument,
        **typed(standard.shows.unit, Quantity.LENGTH, (shows - _FAR_OFF_MM, shows + _FAR_OFF_MM)),
    )


def _last(step: Lengths, lengths: tuple[str, ...]) -> Iterator[Cell]:
    """Yield the gauge on its bar once more: what moved in between has moved all that was read."""
    if step.setting_bar is not None:
        yield _standard(step, step.setting_bar, CellItem.STANDARD_AFTER, lengths)


def stud_length(procedure: Procedure, step: s.StudLengthStep) -> Iterator[Cell]:
    """Temperature and free length of each stud."""
    first = _first(step)
    yield from first
    lengths: list[str] = []
    for *temperature, length in _length_pairs(procedure, step, first):
        yield from temperature
        yield replace(length, rule=Rule.GROWTH, upper=step.growth_limit.value)
        lengths.append(length.key)
    yield from _last(step, tuple(lengths))


def stretch(procedure: Procedure, step: s.StretchStep) -> Iterator[Cell]:
    """Temperature and length of each loaded stud, then the spread."""
    if step.joint_at is not None:
        yield cell(
            step, CellItem.JOINT_TEMPERATURE, InputType.VALUE, text=step.joint_at, tool_role=step.thermometer, **_METAL
        )
    first = _first(step)
    yield from first
    free = (one for one in procedure.steps if one.id == step.before)
    alike = any(isinstance(one, s.StudLengthStep) and one.one_temperature for one in free)
    lengths: list[str] = []
    for *temperature, length in _length_pairs(procedure, step, first):
        at_rest = (
            f"{step.before}/{CellItem.TEMPERATURE}" + ("" if alike else f"/{length.fastener}"),
            f"{step.before}/{CellItem.LENGTH}/{length.fastener}",
        )
        yield from temperature
        yield replace(
            length,
            rule=Rule.STRETCH,
            uses=(*length.uses, *at_rest),
            target=step.target.value,
            lower=step.lower.value,
            upper=step.upper.value,
        )
        lengths.append(length.key)
    yield from _last(step, tuple(lengths))
    yield cell(
        step,
        CellItem.SPREAD,
        InputType.SEEN,
        rule=Rule.SPREAD,
        needs=tuple(lengths),
        uses=tuple(lengths),
        quantity=Quantity.LENGTH,
        unit=step.spread_at_most.unit,
        upper=step.spread_at_most.value,
        tool_role=step.instrument,
    )


def thread_above(procedure: Procedure, step: s.ThreadAboveStep) -> Iterator[Cell]:
    """Thread standing above each nut."""
    for name, before in rounds(procedure, step, CellItem.THREAD):
        span = (0.0, procedure.group_of(name).free_length.value)
        yield cell(
            step,
            CellItem.THREAD,
            InputType.VALUE,
            name,
            rule=Rule.GUARDED,
            needs=before,
            lower=step.at_least.value,
            tool_role=step.instrument,
            **typed(step.at_least.unit, Quantity.LENGTH, span),
        )


def seat(procedure: Procedure, step: s.SeatToolStep) -> Iterator[Cell]:
    """Each tool seated; for loosening, each backed off."""
    yield from each(procedure, step, CellItem.SEAT, tool_role=step.tools)
    if step.back_off is not None:
        for name in procedure.orders[step.order].names():
            yield cell(
                step,
                CellItem.BACK_OFF,
                InputType.TICK,
                name,
                needs=(f"{step.id}/seat/{name}",),
                text=step.back_off.shown,
            )


def _pressure(measure: Measure, gauge: str, **limits: float | None) -> dict[str, Any]:
    return {
        "rule": Rule.SETTING,
        "tool_role": gauge,
        **limits,
        **typed(measure.unit, Quantity.PRESSURE, ANY_PRESSURE),
    }


def ceiling(_: Procedure, step: s.CeilingStep) -> Iterator[Cell]:
    """The ceiling proved on the gauge."""
    top = step.ceiling
    lower = top.value * (1 - step.within.value / 100)
    limits = _pressure(top, step.gauge, target=top.value, lower=lower, upper=top.value)
    yield cell(step, CellItem.PROVE, InputType.VALUE, deliberate=True, **limits)


def vent(_: Procedure, step: s.VentStep) -> Iterator[Cell]:
    """Each vent point."""
    for point in step.points:
        yield cell(step, AuthorPoint(point.id), InputType.TICK, text=point.text)


def tension(procedure: Procedure, step: s.TensionStep) -> Iterator[Cell]:
    """People clear, peak, hold, each nut, lowest pressure, each feeler."""
    low, high = limits_of(step.pressure, step.band)
    clear = cell(step, CellItem.CLEAR, InputType.TICK, deliberate=True)
    peak = _pressure(step.pressure, step.gauge, target=step.pressure.value, lower=low, upper=high)
    raise_ = cell(step, CellItem.RAISE, InputType.VALUE, needs=(clear.key,), **peak)
    hold = cell(step, CellItem.HOLD, InputType.TICK, needs=(raise_.key,), wait_s=step.hold.value)
    yield from (clear, raise_, hold)
    nuts = list(each(procedure, step, CellItem.NUT, needs=(hold.key,), text=step.nut_bar.text))
    yield from nuts
    least = _pressure(step.pressure, step.gauge, target=step.pressure.value, lower=low)
    lowest = cell(step, CellItem.LOWEST, InputType.VALUE, needs=tuple(n.key for n in nuts), uses=(raise_.key,), **least)
    yield lowest
    if step.feeler is not None:
        words = f"{step.feeler.blade.text} {step.feeler.at}"
        yield from each(
            procedure, step, CellItem.FEELER, InputType.FEELER, rule=Rule.FEELER, needs=(lowest.key,), text=words
        )


def loosen(procedure: Procedure, step: s.LoosenPressureStep) -> Iterator[Cell]:
    """People clear, then for each nut the pressure at which it came free, turned back, and tried again low."""
    clear = cell(step, CellItem.CLEAR, InputType.TICK, deliberate=True)
    yield clear
    names = procedure.orders[step.order].names()
    free = [
        cell(
            step,
            CellItem.FREE,
            InputType.VALUE,
            name,
            rule=Rule.RELEASE,
            needs=(clear.key,),
            target=None if step.expected is None else step.expected.value,
            tool_role=step.gauge,
            **typed((step.expected or step.step).unit, Quantity.PRESSURE, ANY_PRESSURE),
        )
        for name in names
    ]
    yield from free
    back = [
        cell(step, CellItem.TURN_BACK, InputType.TICK, f.fastener, needs=(f.key,), text=step.turn_back.shown)
        for f in free
    ]
    yield from back
    if step.check_at is None:
        return
    turned = tuple(b.key for b in back)
    if procedure.written_in < _EACH_NUT_SINCE:
        yield cell(step, CellItem.FREE_LOW, InputType.TICK, needs=turned, text=step.check_at.shown)
        return
    for name in names:
        yield cell(step, CellItem.FREE_LOW, InputType.TICK, name, needs=turned, text=step.check_at.shown)


def relieve(procedure: Procedure, step: s.RelieveStep) -> Iterator[Cell]:
    """Zero on the gauge; after loosening, the nuts tried again."""
    limits = _pressure(step.zero_below, step.gauge, target=0.0, lower=0.0, upper=step.zero_below.value)
    zero = cell(step, CellItem.ZERO, InputType.VALUE, deliberate=True, **limits)
    yield zero
    if step.nuts_free is not None:
        for name in procedure.orders[step.nuts_free].names():
            yield cell(step, CellItem.FREE_ZERO, InputType.TICK, name, needs=(zero.key,))


def remove(procedure: Procedure, step: s.RemoveToolStep) -> Iterator[Cell]:
    """Each tool off."""
    yield from each(procedure, step, CellItem.OFF)


def feeler(procedure: Procedure, step: s.FeelerStep) -> Iterator[Cell]:
    """A blade tried at each fastener."""
    words = f"{step.blade.shown} {step.at}"
    yield from each(procedure, step, CellItem.FEELER, InputType.FEELER, rule=Rule.FEELER, text=words)
