"""Numbers as people read them: rounded to what the instrument can tell, in the wanted unit."""

from __future__ import annotations

import math
from typing import Final

from pydantic import BaseModel, ConfigDict

from jorvek.core.units import GLOSSARY_UNIT, Quantity, convert, symbol


class Figure(BaseModel):
    """A number ready to be shown."""

    model_config = ConfigDict(frozen=True)

    text: str
    unit: str


_DECIMALS: Final = {
    "mm": 3,
    "um": 0,
    "in": 4,
    "thou": 1,
    "bar": 0,
    "MPa": 1,
    "psi": 0,
    "degC": 1,
    "degF": 1,
    "N.m": 0,
    "lbf.ft": 1,
    "kN": 0,
    "%": 1,
    "1": 3,
}


_MOST_DECIMALS: Final = 3
_EXACT: Final = 1e-9


def stated_figure(value: float, quantity: Quantity, unit: str) -> Figure:
    """Return a target or a limit with the decimals that it was given: 8.5 is never shown as 8.

    A figure that was reckoned and has no short form is shown like a reading.
    """
    shown = convert(value, quantity, GLOSSARY_UNIT[quantity], unit)
    usual = _DECIMALS.get(unit, 0)
    for decimals in range(usual, max(usual, _MOST_DECIMALS) + 1):
        if abs(round(shown, decimals) - shown) <= _EXACT * max(1.0, abs(shown)):
            return _told(f"{shown:.{decimals}f}", unit)
    return figure(value, quantity, unit)


def apart_figure(value: float, quantity: Quantity, unit: str) -> Figure:
    """Return how far something lies from a limit: what lies beyond it never does so "by 0"."""
    usual = figure(value, quantity, unit)
    shown = convert(value, quantity, GLOSSARY_UNIT[quantity], unit)
    if shown == 0.0 or float(usual.text.replace("−", "-")) != 0.0:
        return usual
    return _told(f"{shown:.{1 - math.floor(math.log10(abs(shown)))}f}", unit)


def _told(text: str, unit: str) -> Figure:
    return Figure(text=text.replace("-", "−"), unit=symbol(unit))


def figure(value: float, quantity: Quantity, unit: str) -> Figure:
    """Return a value given in the glossary unit as a figure in ``unit``."""
    shown = convert(value, quantity, GLOSSARY_UNIT[quantity], unit)
    text = f"{shown:.{_DECIMALS.get(unit, 2)}f}"
    if unit == "deg":
        text = f"{shown:.1f}".removesuffix(".0")
    if float(text) == 0.0:
        text = text.lstrip("-")
    return Figure(text=text.replace("-", "−"), unit=symbol(unit))
