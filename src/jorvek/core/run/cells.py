"""A procedure unrolled into the single calls that a run consists of."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, replace
from enum import StrEnum
from typing import Any, Final

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.procedure import steps as s
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.units import Quantity


class Ask(StrEnum):
    """What a call asks the mechanic for."""

    TICK = "tick"
    VALUE = "value"
    FEELER = "feeler"
    TOOL = "tool"
    SEEN = "seen"
    SIGNATURE = "signature"


class Rule(StrEnum):
    """How an answer is judged."""

    NONE = "none"
    SETTING = "setting"
    GROWTH = "growth"
    STRETCH = "stretch"
    SPREAD = "spread"
    GUARDED = "guarded"
    FEELER = "feeler"


@dataclass(frozen=True)
class Cell:
    """One thing to be recorded, with a key that never changes.

    Attributes:
        key: ``step/item`` or ``step/item/fastener``.
        step: step id.
        kind: kind of the step.
        item: what within the step.
        fastener: position name, None when it concerns all.
        ask: what is asked for.
        rule: how the answer is judged.
        quantity: of a value, None otherwise.
        unit: the author's unit, shown first.
        target: aim in the glossary unit.
        lower: lower limit in the glossary unit.
        upper: upper limit in the glossary unit.
        plausible: physical range outside which a reading is refused, glossary unit.
        tool_role: role of the instrument or tool.
        needs: cells that must be filled before this one, besides all earlier steps.
        uses: cells whose answers this one's judgement rests on.
        gone_after: once this cell is filled, this one's moment has passed.
        wait_s: time that must pass after the needed cell.
        deliberate: asks for a touch on its own words, never for the space bar.
        text: the author's words.
        cautions: the author's warnings for this step.
    """

    key: str
    step: str
    kind: str
    item: str
    ask: Ask
    rule: Rule = Rule.NONE
    fastener: str | None = None
    quantity: Quantity | None = None
    unit: str | None = None
    target: float | None = None
    lower: float | None = None
    upper: float | None = None
    plausible: tuple[float, float] | None = None
    tool_role: str | None = None
    needs: tuple[str, ...] = ()
    uses: tuple[str, ...] = ()
    gone_after: str | None = None
    wait_s: float = 0.0
    deliberate: bool = False
    text: str | None = None
    cautions: tuple[str, ...] = ()


METAL_C: Final = (-60.0, 600.0)
_LENGTH_SHARE: Final = 0.2


def expand(procedure: Procedure) -> tuple[Cell, ...]:
    """Unroll a procedure into cells, in working order.

    The same procedure always gives the same cells; their fingerprint is kept in the run's
    first event.
    """
    cells = [cell for step in procedure.steps for cell in _step_cells(procedure, step)]
    return tuple(_with_moments(cells))


def cells_hash(cells: tuple[Cell, ...]) -> str:
    """Return the fingerprint of an expansion."""
    return sha256_hex(canonical_text(json.loads(json.dumps([asdict(c) for c in cells]))))


def _step_cells(procedure: Procedure, step: s.Step) -> Iterator[Cell]:
    maker = _MAKERS[type(step)]
    for cell in maker(procedure, step):
        yield replace(cell, cautions=step.cautions)


def _with_moments(cells: list[Cell]) -> Iterator[Cell]:
    """Mark the cells whose moment passes: before the first load, before the release."""
    first_raise = next((c.key for c in cells if c.kind == "tension" and c.item == "raise"), None)
    relieve = next((c.key for c in cells if c.kind == "relieve"), None)
    gone = {"stud_length": first_raise, "thread_above_nut": first_raise, "tension": relieve}
    for cell in cells:
        yield replace(cell, gone_after=gone.get(cell.kind))


def _cell(step: s.StepBase, item: str, ask: Ask, fastener: str | None = None, **rest: Any) -> Cell:
    key = "/".join(part for part in (step.id, item, fastener) if part)
    kind = str(step.kind)  # type: ignore[attr-defined]
    return Cell(key=key, step=step.id, kind=kind, item=item, ask=ask, fastener=fastener, **rest)


def _round(procedure: Procedure, step: s.RoundStep, item: str) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield each fastener in order with the cell that must come before it."""
    before: tuple[str, ...] = ()
    for name in procedure.orders[step.order]:
        yield name, before
        before = () if step.free_order else (f"{step.id}/{item}/{name}",)


def _value(measure_unit: str, quantity: Quantity, plausible: tuple[float, float]) -> dict[str, Any]:
    return {"quantity": quantity, "unit": measure_unit, "plausible": plausible}


def _confirm(_: Procedure, step: s.ConfirmStep) -> Iterator[Cell]:
    for item in step.items:
        yield _cell(step, item.id, Ask.TICK, text=item.text)


def _tool_issue(_: Procedure, step: s.ToolIssueStep) -> Iterator[Cell]:
    for tool in step.tools:
        yield _cell(step, tool.role, Ask.TOOL, text=tool.title, tool_role=tool.role)


def _length_pair(procedure: Procedure, step: s.StudLengthStep | s.StretchStep) -> Iterator[tuple[Cell, Cell]]:
    """Yield the temperature and the bare length call of each stud."""
    new = procedure.fasteners.free_length
    span = ((1 - _LENGTH_SHARE) * new.value, (1 + _LENGTH_SHARE) * new.value)
    for name, before in _round(procedure, step, "length"):
        temperature = _cell(
            step,
            "temperature",
            Ask.VALUE,
            name,
            needs=before,
            tool_role=step.thermometer,
            **_value("degC", Quantity.TEMPERATURE, METAL_C),
        )
        yield (
            temperature,
            _cell(
                step,
                "length",
                Ask.VALUE,
                name,
                needs=(temperature.key,),
                uses=(temperature.key,),
                tool_role=step.instrument,
                **_value(new.unit, Quantity.LENGTH, span),
            ),
        )


def _stud_length(procedure: Procedure, step: s.StudLengthStep) -> Iterator[Cell]:
    for temperature, length in _length_pair(procedure, step):
        yield temperature
        yield replace(length, rule=Rule.GROWTH, upper=step.growth_limit.value)


def _stretch(procedure: Procedure, step: s.StretchStep) -> Iterator[Cell]:
    lengths: list[str] = []
    for temperature, length in _length_pair(procedure, step):
        first = tuple(f"{step.before}/{item}/{length.fastener}" for item in ("temperature", "length"))
        yield temperature
        yield replace(
            length,
            rule=Rule.STRETCH,
            uses=(*length.uses, *first),
            target=step.target.value,
            lower=step.lower.value,
            upper=step.upper.value,
        )
        lengths.append(length.key)
    yield _cell(
        step,
        "spread",
        Ask.SEEN,
        rule=Rule.SPREAD,
        needs=tuple(lengths),
        uses=tuple(lengths),
        quantity=Quantity.LENGTH,
        unit=step.spread_at_most.unit,
        upper=step.spread_at_most.value,
        tool_role=step.instrument,
    )


def _thread_above(procedure: Procedure, step: s.ThreadAboveStep) -> Iterator[Cell]:
    span = (0.0, procedure.fasteners.free_length.value)
    for name, before in _round(procedure, step, "thread"):
        yield _cell(
            step,
            "thread",
            Ask.VALUE,
            name,
            rule=Rule.GUARDED,
            needs=before,
            lower=step.at_least.value,
            tool_role=step.instrument,
            **_value(step.at_least.unit, Quantity.LENGTH, span),
        )


def _seat(procedure: Procedure, step: s.SeatToolStep) -> Iterator[Cell]:
    for name, before in _round(procedure, step, "seat"):
        yield _cell(step, "seat", Ask.TICK, name, needs=before, tool_role=step.tools)


def _ceiling(_: Procedure, step: s.CeilingStep) -> Iterator[Cell]:
    top = step.ceiling
    yield _cell(
        step,
        "prove",
        Ask.VALUE,
        rule=Rule.SETTING,
        target=top.value,
        lower=top.value * (1 - step.within.value / 100),
        upper=top.value,
        tool_role=step.gauge,
        deliberate=True,
        **_value(top.unit, Quantity.PRESSURE, (0.0, 1e5)),
    )


def _vent(_: Procedure, step: s.VentStep) -> Iterator[Cell]:
    for point in step.points:
        yield _cell(step, point.id, Ask.TICK, text=point.text)


def _tension(procedure: Procedure, step: s.TensionStep) -> Iterator[Cell]:
    low, high = band_of(step.pressure, step.band)
    pressure = {
        "rule": Rule.SETTING,
        "tool_role": step.gauge,
        "target": step.pressure.value,
        **_value(step.pressure.unit, Quantity.PRESSURE, (0.0, 1e5)),
    }
    clear = _cell(step, "clear", Ask.TICK, deliberate=True)
    raise_ = _cell(step, "raise", Ask.VALUE, needs=(clear.key,), lower=low, upper=high, **pressure)
    hold = _cell(step, "hold", Ask.TICK, needs=(raise_.key,), wait_s=step.hold.value)
    yield from (clear, raise_, hold)
    nuts = [
        _cell(step, "nut", Ask.TICK, name, needs=(hold.key, *before), text=step.nut_bar.text)
        for name, before in _round(procedure, step, "nut")
    ]
    yield from nuts
    lowest = _cell(
        step, "lowest", Ask.VALUE, needs=tuple(n.key for n in nuts), uses=(raise_.key,), lower=low, **pressure
    )
    yield lowest
    if step.feeler is not None:
        for name, before in _round(procedure, step, "feeler"):
            words = f"{step.feeler.blade.text} {step.feeler.at}"
            yield _cell(step, "feeler", Ask.FEELER, name, rule=Rule.FEELER, needs=(lowest.key, *before), text=words)


def _relieve(_: Procedure, step: s.RelieveStep) -> Iterator[Cell]:
    yield _cell(
        step,
        "zero",
        Ask.VALUE,
        rule=Rule.SETTING,
        target=0.0,
        lower=0.0,
        upper=step.zero_below.value,
        tool_role=step.gauge,
        deliberate=True,
        **_value(step.zero_below.unit, Quantity.PRESSURE, (0.0, 1e5)),
    )


def _remove(procedure: Procedure, step: s.RemoveToolStep) -> Iterator[Cell]:
    for name, before in _round(procedure, step, "off"):
        yield _cell(step, "off", Ask.TICK, name, needs=before)


def _hold_point(procedure: Procedure, step: s.HoldPointStep) -> Iterator[Cell]:
    covered = [k.key for other in procedure.steps if other.id in step.covers for k in _step_cells(procedure, other)]
    yield _cell(step, "sign", Ask.SIGNATURE, uses=tuple(covered), deliberate=True)


def band_of(target: Measure, band: Measure) -> tuple[float, float]:
    """Return the limits of a symmetric band in percent, in the glossary unit of the target."""
    share = band.value / 100.0
    return target.value * (1 - share), target.value * (1 + share)


_MAKERS: Final[dict[type[s.StepBase], Callable[[Procedure, Any], Iterator[Cell]]]] = {
    s.ConfirmStep: _confirm,
    s.ToolIssueStep: _tool_issue,
    s.StudLengthStep: _stud_length,
    s.ThreadAboveStep: _thread_above,
    s.SeatToolStep: _seat,
    s.CeilingStep: _ceiling,
    s.VentStep: _vent,
    s.TensionStep: _tension,
    s.RelieveStep: _relieve,
    s.RemoveToolStep: _remove,
    s.StretchStep: _stretch,
    s.HoldPointStep: _hold_point,
}
