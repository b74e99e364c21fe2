"""What a question of the Reckoner is made of: fields to fill in, figures that answer, steps that say why."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from pydantic import BaseModel, ConfigDict

from jorvek.core.reckoner.admissible import ADMISSIBLE
from jorvek.core.refusal import Refusal
from jorvek.core.units import GLOSSARY_UNIT, UNIT_NAMES, Quantity, convert, read_number, symbol


class Group(StrEnum):
    """Where a field stands on the page."""

    ASK = "ask"
    STUD = "stud"
    TOOL = "tool"
    DOUBT = "doubt"


class Condition(BaseModel):
    """A choice that must be made elsewhere."""

    model_config = ConfigDict(frozen=True)

    field: str
    choice: str


class Field(BaseModel):
    """One thing to fill in.

    Attributes:
        name: the core's name for it, also its place in the message catalogue.
        quantity: what it measures; None for a plain number or a choice.
        unit: unit of the default.
        units: units it may be given in.
        default: text it starts with.
        choices: words to choose from; empty for a number.
        group: where it stands.
        shown_if: choice that must be made for it to count.
    """

    model_config = ConfigDict(frozen=True)

    name: str
    quantity: Quantity | None
    unit: str
    units: tuple[str, ...]
    default: str
    choices: tuple[str, ...] = ()
    group: Group
    shown_if: Condition | None = None


@dataclass(frozen=True)
class Step:
    """One line of the why: a formula and the numbers that go into it.

    Attributes:
        name: place in the message catalogue.
        formula: formula in LaTeX, left side, ``=``, right side.
        values: number for each symbol of the right side.
        result: what comes out, in the unit.
        unit: unit name, or empty.
    """

    name: str
    formula: str
    values: dict[str, float]
    result: float
    unit: str

    def with_numbers(self) -> str:
        """Return the formula with its numbers put in, and the result."""
        left, _, right = self.formula.partition("=")
        symbols = sorted(self.values, key=len, reverse=True)
        # A letter inside a command or another symbol is not the symbol of that letter.
        pattern = "|".join(rf"(?<![A-Za-z\\]){re.escape(s)}(?![A-Za-z_])" for s in symbols)
        filled = re.sub(pattern, lambda m: latex_number(self.values[m.group()]), right)
        unit = rf"\ \text{{{symbol(self.unit)}}}" if self.unit else ""
        return rf"{left.strip()} = {filled.strip()} = {latex_number(self.result)}{unit}"


@dataclass(frozen=True)
class Told:
    """One figure of an answer, in the glossary unit of its quantity.

    Attributes:
        name: place in the message catalogue.
        value: the number.
        quantity: what it measures; None for a plain number.
        spread: half width of its uncertainty (k = 2), None when it has none.
        low: lower end of a skewed range.
        high: upper end.
        counted: a number of turns or flats, shown with common fractions.
    """

    name: str
    value: float
    quantity: Quantity | None
    spread: float | None = None
    low: float | None = None
    high: float | None = None
    counted: bool = False


@dataclass(frozen=True)
class Reckoning:
    """An answer.

    Attributes:
        told: figures, the one asked for first.
        notes: cautions and findings, places in the message catalogue.
        why: steps.
        picture: numbers the drawing is made from.
    """

    told: tuple[Told, ...]
    notes: tuple[str, ...]
    why: tuple[Step, ...]
    picture: dict[str, float]


Inputs = dict[str, float | str]
"""Values by field: numbers in glossary units (a ratio as a fraction), choices as words."""


@dataclass(frozen=True)
class Question:
    """One thing a person wants to know.

    Attributes:
        name: place in the message catalogue.
        fields: what to fill in.
        answer: from values to the answer.
    """

    name: str
    fields: tuple[Field, ...]
    answer: Callable[[Inputs], Reckoning]


class Shown(BaseModel):
    """A figure as it is shown."""

    model_config = ConfigDict(frozen=True)

    name: str
    text: str
    unit: str = ""
    quantity: Quantity | None = None
    unit_name: str = ""
    units: tuple[str, ...] = ()
    spread: str | None = None
    low: str | None = None
    high: str | None = None


OFFERED: Final[dict[Quantity, tuple[str, ...]]] = {
    Quantity.PRESSURE: ("bar", "MPa", "psi", "kgf/cm2"),
    Quantity.TORQUE: ("N.m", "lbf.ft", "kgf.m", "lbf.in"),
    Quantity.FORCE: ("kN", "N", "tf", "lbf", "kgf"),
    Quantity.LENGTH: ("mm", "um", "in", "thou"),
    Quantity.ANGLE: ("deg", "turn"),
    Quantity.STRESS: ("MPa", "GPa", "N/mm2"),
}
"""Units that are met on the job; all others that measure the same are still read."""
_SHOWN_UNIT: Final = {Quantity.FORCE: "kN"}
_SIGNIFICANT: Final = 4
_FINEST: Final = {
    "mm": 3, "um": 0, "in": 4, "thou": 1, "mil": 1, "bar": 0, "MPa": 1, "psi": 0, "kN": 1, "N": 0, "N.m": 1, "%": 1,
    "deg": 1,
}  # fmt: skip
"""Decimals beyond which a unit means nothing on the job."""
_FRACTIONS: Final = {0.0: "", 1 / 4: "¼", 1 / 3: "⅓", 1 / 2: "½", 2 / 3: "⅔", 3 / 4: "¾"}
_FRACTION_SLACK: Final = 0.004


def latex_number(value: float) -> str:
    """Return a number with four significant digits, powers of ten written out."""
    if value == 0.0:
        return "0"
    exponent = math.floor(math.log10(abs(value)))
    if -4 < exponent < 7:
        whole, _, rest = rounded(value).partition(".")
        return f"{int(whole):,}".replace(",", r"\,") + (f".{rest}" if rest else "")
    return rf"{value / 10.0**exponent:.3f} \cdot 10^{{{exponent}}}"


def rounded(value: float) -> str:
    """Return a number with four significant digits, no power of ten and no idle zeros."""
    if value == 0.0:
        return "0"
    decimals = max(0, _SIGNIFICANT - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:.{min(decimals, 7)}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def fraction_text(value: float) -> str:
    """Return a count with its common fraction, for example 1½; as a decimal where there is none."""
    whole = math.floor(value + _FRACTION_SLACK)
    for part, glyph in _FRACTIONS.items():
        if abs(value - whole - part) <= _FRACTION_SLACK:
            return f"{whole or ''}{glyph}" if glyph else str(whole)
    return rounded(value)


def offered(quantity: Quantity) -> tuple[str, ...]:
    """Return the units to choose from for a quantity."""
    return OFFERED.get(quantity, tuple(UNIT_NAMES[quantity]))


def field(
    name: str,
    quantity: Quantity | None,
    unit: str,
    default: str,
    group: Group = Group.ASK,
    shown_if: tuple[str, str] | None = None,
) -> Field:
    """Return a field for a number."""
    units = offered(quantity) if quantity is not None else ()
    only = None if shown_if is None else Condition(field=shown_if[0], choice=shown_if[1])
    return Field(name=name, quantity=quantity, unit=unit, units=units, default=default, group=group, shown_if=only)


def choice(name: str, choices: tuple[str, ...], group: Group = Group.ASK) -> Field:
    """Return a field for one of some words, the first to begin with."""
    return Field(name=name, quantity=None, unit="", units=(), default=choices[0], choices=choices, group=group)


def read(spec: Field, text: str, unit: str) -> float | str:
    """Return what was put into a field, in the glossary unit.

    Raises:
        Refusal: ``E_TYPE`` when it is no number, ``E_TABLE`` for another word, ``E_UNIT`` or
            ``E_DIM`` for another unit, ``E_RANGE`` for what no bolt can have; ``params`` carry the field's name.
    """
    if spec.choices:
        if text not in spec.choices:
            raise Refusal("E_TABLE", name=spec.name, got=text[:40], allowed=", ".join(spec.choices))
        return text
    try:
        number = read_number(text, spec.quantity)
    except Refusal as refusal:
        raise Refusal(refusal.code, **{**refusal.params, "name": spec.name}) from refusal
    value = number
    if spec.quantity is not None:
        value = convert(number, spec.quantity, unit, GLOSSARY_UNIT[spec.quantity])
    value = value / 100.0 if spec.quantity is Quantity.RATIO else value
    low, high = ADMISSIBLE[spec.name]
    if not low <= value <= high:
        ends = {name: _end(spec, end, unit) for name, end in (("low", low), ("high", high))}
        raise Refusal("E_RANGE", name=spec.name, got=_as_typed(spec, text, unit), **ends)
    return value


def _as_typed(spec: Field, text: str, unit: str) -> str:
    plain = text.strip()[:40].replace("-", "−")
    return plain if spec.quantity is None else f"{plain} {symbol(unit)}"


def _end(spec: Field, value: float, unit: str) -> str:
    """Return an end of what is allowed as a person typed: in their unit, a share in percent."""
    if spec.quantity is None:
        return rounded(value)
    shown = 100.0 * value if spec.quantity is Quantity.RATIO else value
    turned = convert(shown, spec.quantity, GLOSSARY_UNIT[spec.quantity], unit)
    return f"{rounded(turned)} {symbol(unit)}"


def show(told: Told, wanted: dict[Quantity, str]) -> Shown:
    """Return a figure in the unit a person wants.

    Raises:
        Refusal: ``E_UNIT`` or ``E_DIM`` for a unit that does not fit.
    """
    if told.quantity is None:
        text = fraction_text(told.value) if told.counted else rounded(told.value)
        return Shown(name=told.name, text=text.replace("-", "−"))
    quantity, base = told.quantity, GLOSSARY_UNIT[told.quantity]
    unit = wanted.get(quantity, _SHOWN_UNIT.get(quantity, base))
    scale = 100.0 if quantity is Quantity.RATIO else 1.0

    def turned(value: float) -> float:
        return convert(scale * value, quantity, base, unit)

    value = turned(told.value)
    spread = None if told.spread is None else turned(told.value + told.spread) - value
    decimals = _decimals(value, spread, unit)
    return Shown(
        name=told.name,
        text=_fixed(value, decimals),
        unit=symbol(unit),
        quantity=quantity,
        unit_name=unit,
        units=offered(quantity),
        spread=None if spread is None else _fixed(spread, decimals),
        low=None if told.low is None else _fixed(turned(told.low), decimals),
        high=None if told.high is None else _fixed(turned(told.high), decimals),
    )


def _decimals(value: float, spread: float | None, unit: str) -> int:
    """Four significant digits, never finer than two digits of the uncertainty or than the job."""
    finest = _FINEST.get(unit, 3)
    sizes = [spread] if value == 0.0 else [value / 100.0, spread]
    wanted = [1 - math.floor(math.log10(abs(size))) for size in sizes if size]
    return min(finest, max(0, min(wanted, default=finest)))


def _fixed(value: float, decimals: int) -> str:
    text = f"{value:.{decimals}f}"
    if float(text) == 0.0:
        text = text.lstrip("-")
    return text.replace("-", "−")
