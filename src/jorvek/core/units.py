"""Quantities with units: read once at the edge, one unit per quantity inside.

The unit inside the core is the one in every name (``pressure_bar``, ``length_mm`` …).
Factors come from *pint*; this module decides only which names are accepted where.
"""

from __future__ import annotations

import math
import re
from enum import StrEnum
from functools import cache, lru_cache
from typing import Any, Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal


class Quantity(StrEnum):
    """What kind of thing a number measures."""

    LENGTH = "length"
    PRESSURE = "pressure"
    TORQUE = "torque"
    ANGLE = "angle"
    FORCE = "force"
    TEMPERATURE = "temperature"
    AREA = "area"
    STRESS = "stress"
    TIME = "time"
    RATIO = "ratio"
    FRICTION = "friction"
    TEMPERATURE_DIFFERENCE = "temperature_difference"


GLOSSARY_UNIT: Final[dict[Quantity, str]] = {
    Quantity.LENGTH: "mm",
    Quantity.PRESSURE: "bar",
    Quantity.TORQUE: "N.m",
    Quantity.ANGLE: "deg",
    Quantity.FORCE: "N",
    Quantity.TEMPERATURE: "degC",
    Quantity.AREA: "mm2",
    Quantity.STRESS: "MPa",
    Quantity.TIME: "s",
    Quantity.RATIO: "%",
    Quantity.FRICTION: "1",
    Quantity.TEMPERATURE_DIFFERENCE: "K_diff",
}
"""The unit that the core reckons in."""

UNIT_NAMES: Final[dict[Quantity, dict[str, str]]] = {
    Quantity.LENGTH: {
        "mm": "millimeter",
        "um": "micrometer",
        "m": "meter",
        "in": "inch",
        "thou": "thou",
        "mil": "thou",
    },
    Quantity.PRESSURE: {
        "bar": "bar",
        "Pa": "pascal",
        "MPa": "megapascal",
        "psi": "psi",
        "kgf/cm2": "kgf / centimeter ** 2",
        "N/mm2": "newton / millimeter ** 2",
    },
    Quantity.TORQUE: {
        "N.m": "newton * meter",
        "kN.m": "kilonewton * meter",
        "N.mm": "newton * millimeter",
        "lbf.ft": "lbf * foot",
        "lbf.in": "lbf * inch",
        "kgf.m": "kgf * meter",
        "kgf.cm": "kgf * centimeter",
    },
    Quantity.ANGLE: {
        "deg": "degree",
        "rad": "radian",
        "turn": "turn",
        # A flat of a hexagon, a point of a twelve-point head: which one is part of the name.
        "flats6": "turn / 6",
        "flats12": "turn / 12",
    },
    Quantity.FORCE: {
        "N": "newton",
        "kN": "kilonewton",
        "lbf": "lbf",
        "kgf": "kgf",
        "tf": "1000 * kgf",
        "tonf_us": "2000 * lbf",
        "tonf_uk": "2240 * lbf",
    },
    Quantity.TEMPERATURE: {"degC": "degC", "degF": "degF", "K": "kelvin"},
    Quantity.AREA: {"mm2": "millimeter ** 2", "cm2": "centimeter ** 2"},
    Quantity.STRESS: {"MPa": "megapascal", "N/mm2": "newton / millimeter ** 2", "GPa": "gigapascal"},
    Quantity.TIME: {"s": "second", "min": "minute", "h": "hour", "d": "day"},
    Quantity.RATIO: {"%": "percent"},
    Quantity.FRICTION: {"1": "dimensionless"},
    Quantity.TEMPERATURE_DIFFERENCE: {"K_diff": "kelvin", "degC_diff": "delta_degC", "degF_diff": "delta_degF"},
}
"""Accepted unit names per quantity. Anything else is refused, never guessed."""

_SYMBOLS: Final = {
    "degC": "°C",
    "degF": "°F",
    "deg": "°",
    "um": "µm",
    "mm2": "mm²",
    "cm2": "cm²",
    "N/mm2": "N/mm²",
    "kgf/cm2": "kgf/cm²",
    "K_diff": "K",
    "flats6": "flats of 6",
    "flats12": "flats of 12",
    "degC_diff": "°C",
    "degF_diff": "°F",
    "1": "",
    "tonf_us": "US tonf",
    "tonf_uk": "UK tonf",
}
_ABSOLUTE_ZERO_C: Final = -273.15
_DEFINITIONS: Final = (
    *("micro- = 1e-6", "milli- = 1e-3", "centi- = 1e-2", "kilo- = 1e3", "mega- = 1e6", "giga- = 1e9"),
    *("meter = [length]", "gram = [mass]", "second = [time]", "kelvin = [temperature]; offset: 0", "radian = []"),
    *("minute = 60 * second", "hour = 60 * minute", "day = 24 * hour"),
    f"turn = 2 * {math.pi!r} * radian",
    f"degree = {math.pi!r} / 180 * radian",
    "percent = 0.01",
    "degC = kelvin; offset: 273.15",
    "degF = 5 / 9 * kelvin; offset: 233.15 + 200 / 9",
    # Exact by definition: the yard, the grain, standard gravity.
    *("yard = 0.9144 * meter", "foot = yard / 3", "inch = yard / 36", "thou = 1e-3 * inch"),
    *("grain = 64.79891 * milligram", "pound = 7e3 * grain", "gravity = 9.80665 * meter / second ** 2"),
    *("newton = kilogram * meter / second ** 2", "kgf = gravity * kilogram", "lbf = gravity * pound"),
    *("pascal = newton / meter ** 2", "bar = 1e5 * pascal", "psi = lbf / inch ** 2"),
)
"""What the names stand for (NIST SP 811, appendix B.8); reading the whole list of the library takes half a second."""


@cache
def _registry() -> Any:
    """Return the library's units; it is read with the first conversion, which many commands never make."""
    import pint

    registry: Any = pint.UnitRegistry(None, cache_folder=None)
    for line in _DEFINITIONS:
        registry.define(line)
    return registry


def symbol(unit: str) -> str:
    """Return the printed form of a unit name, for example ``°C`` for ``degC``."""
    return _SYMBOLS.get(unit, unit.replace(".", "·"))


def symbols() -> dict[str, str]:
    """Return the printed form of every unit name that may be typed."""
    return {name: symbol(name) for names in UNIT_NAMES.values() for name in names}


def check_unit(quantity: Quantity, unit: str) -> None:
    """Refuse a unit that does not measure ``quantity``.

    Raises:
        Refusal: ``E_DIM`` when the unit measures something else, ``E_UNIT`` when unknown.
    """
    if unit in UNIT_NAMES[quantity]:
        return
    known_elsewhere = any(unit in names for names in UNIT_NAMES.values())
    allowed = ", ".join(UNIT_NAMES[quantity])
    raise Refusal("E_DIM" if known_elsewhere else "E_UNIT", unit=unit, allowed=allowed)


@lru_cache(maxsize=512)
def _line(quantity: Quantity, unit_from: str, unit_to: str) -> tuple[float, float]:
    """Return (factor, offset) so that ``to = factor * from + offset``."""
    check_unit(quantity, unit_from)
    check_unit(quantity, unit_to)
    if unit_from == unit_to:
        return 1.0, 0.0
    source, target = UNIT_NAMES[quantity][unit_from], UNIT_NAMES[quantity][unit_to]
    if quantity is Quantity.TEMPERATURE:
        zero = float(_registry().Quantity(0.0, source).to(target).magnitude)
        hundred = float(_registry().Quantity(100.0, source).to(target).magnitude)
        return (hundred - zero) / 100.0, zero
    factor = (_registry().parse_expression(source) / _registry().parse_expression(target)).to("")
    return float(factor.magnitude), 0.0


def convert(value: float, quantity: Quantity, unit_from: str, unit_to: str) -> float:
    """Convert a value of ``quantity`` from one accepted unit to another.

    Args:
        value: the number in ``unit_from``.
        quantity: what is measured.
        unit_from: unit name, one of ``UNIT_NAMES[quantity]``.
        unit_to: unit name, one of ``UNIT_NAMES[quantity]``.

    Returns:
        The number in ``unit_to``; the very same number when the units are the same.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_UNIT``, ``E_DIM``; ``E_RANGE`` below absolute zero.

    Source: NIST SP 811, exact factors, as held by the *pint* library.
    """
    checked = checks.number("value", value)
    factor, offset = _line(quantity, unit_from, unit_to)
    result = checked if unit_from == unit_to else factor * checked + offset
    if quantity is Quantity.TEMPERATURE:
        to_c, off_c = _line(quantity, unit_to, "degC")
        if to_c * result + off_c < _ABSOLUTE_ZERO_C - 1e-9:
            raise Refusal("E_RANGE", name="temperature", got=value, low=_ABSOLUTE_ZERO_C, high=None)
    return result


def convert_named(value: float, u_from: str, u_to: str) -> float:
    r"""Convert a value between two units that measure the same.

    A temperature needs the offset, a difference of temperatures must not have it: they are
    different units here. Names that mean different things to different people (a bare ton, kg
    for a force, ft-lb) are refused.

    Args:
        value: the number in ``u_from``.
        u_from: unit name.
        u_to: unit name.

    Returns:
        The number in ``u_to``.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_UNIT`` for an unknown or ambiguous name; ``E_DIM``
            for units of different kinds; ``E_RANGE`` below absolute zero.

    Formula:
        y = \frac{f_{from}}{f_{to}}\, x

    Standing: standard.

    Source: NIST SP 811, exact factors.
    """
    checked = checks.number("value", value)
    homes = [{q for q, names in UNIT_NAMES.items() if unit in names} for unit in (u_from, u_to)]
    for unit, home in zip((u_from, u_to), homes, strict=True):
        if not home:
            allowed = ", ".join(sorted({name for names in UNIT_NAMES.values() for name in names}))
            raise Refusal("E_UNIT", unit=str(unit)[:40], allowed=allowed)
    common = [q for q in Quantity if q in homes[0] & homes[1]]
    if not common:
        raise Refusal("E_DIM", unit=u_to, allowed=", ".join(UNIT_NAMES[min(homes[0])]))
    return convert(checked, common[0], u_from, u_to)


_NUMBER = re.compile(r"[+\-−]?[0-9]+([.,][0-9]+)?")


_THOUSANDS = re.compile(r"[+\-−]?[1-9][0-9]{0,2},[0-9]{3}")


def read_number(text: str, quantity: Quantity | None = None) -> float:
    """Read a typed number with either decimal separator.

    Args:
        text: what was typed, for example ``612,034`` or ``612.034``.
        quantity: what it measures. Only lengths are read to three decimals: anywhere else a comma with three digits
            after it may as well part the thousands, and is refused.

    Returns:
        The number.

    Raises:
        Refusal: ``E_TYPE`` when it is not one plain number; ``thousands`` for ``1,000``; a text holding both
            separators is refused because its meaning is not certain.
    """
    cleaned = text.strip()
    if len(cleaned) > 24 or not _NUMBER.fullmatch(cleaned):
        raise Refusal("E_TYPE", name="value", got=cleaned[:40])
    if quantity is not Quantity.LENGTH and _THOUSANDS.fullmatch(cleaned):
        whole, _, rest = cleaned.partition(",")
        raise Refusal("thousands", got=cleaned, whole=f"{whole}{rest}", part=f"{whole}.{rest}")
    return float(cleaned.replace(",", ".").replace("−", "-"))


_MEASURE = re.compile(r"([+\-−]?[0-9]+(?:\.[0-9]+)?) ([A-Za-z%][A-Za-z0-9./%]*)")


def read_measure(text: str, quantity: Quantity) -> tuple[float, str]:
    """Read a written number with its unit, as procedure documents carry it.

    Args:
        text: for example ``1000 bar``: a number, one space, a unit name.
        quantity: what it must measure.

    Returns:
        The number and the unit name, unconverted.

    Raises:
        Refusal: ``E_UNIT`` when there is no number with a unit, or an unknown one;
            ``E_DIM`` when the unit measures something else.
    """
    match = _MEASURE.fullmatch(text)
    if match is None:
        allowed = ", ".join(UNIT_NAMES[quantity])
        raise Refusal("E_UNIT", unit=text[:40], allowed=allowed)
    check_unit(quantity, match.group(2))
    return read_number(match.group(1)), match.group(2)
