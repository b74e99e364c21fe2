"""Numbers as people read them: rounded to what the instrument can tell, in the wanted unit."""

from __future__ import annotations

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
}


def figure(value: float, quantity: Quantity, unit: str) -> Figure:
    """Return a value given in the glossary unit as a figure in ``unit``."""
    shown = convert(value, quantity, GLOSSARY_UNIT[quantity], unit)
    text = f"{shown:.{_DECIMALS.get(unit, 2)}f}"
    if unit == "deg":
        text = f"{shown:.1f}".removesuffix(".0")
    if float(text) == 0.0:
        text = text.lstrip("-")
    return Figure(text=text.replace("-", "−"), unit=symbol(unit))
