"""Admissible arguments: each check returns the number or refuses it.

Booleans are not numbers; zero is a value; NaN and infinity never enter a formula.
"""

from __future__ import annotations

import math

from jorvek.core.refusal import Refusal


def number(name: str, value: object) -> float:
    """Return ``value`` as a finite float.

    Raises:
        Refusal: ``E_TYPE`` when it is no number, ``E_FINITE`` when NaN or infinite.
    """
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise Refusal("E_TYPE", name=name, got=str(value))
    result = float(value)
    if not math.isfinite(result):
        raise Refusal("E_FINITE", name=name, got=str(value))
    return result


def within(name: str, value: object, low: float, high: float) -> float:
    """Return a finite number in the closed range ``low`` … ``high``.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, or ``E_RANGE`` when outside.
    """
    result = number(name, value)
    if not low <= result <= high:
        raise Refusal("E_RANGE", name=name, got=result, low=low, high=high)
    return result


def positive(name: str, value: object) -> float:
    """Return a finite number above zero.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, or ``E_RANGE`` when zero or below.
    """
    result = number(name, value)
    if result <= 0:
        raise Refusal("E_RANGE", name=name, got=result, low=0.0, high=None)
    return result


def not_negative(name: str, value: object) -> float:
    """Return a finite number of zero or above.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, or ``E_RANGE`` when negative.
    """
    result = number(name, value)
    if result < 0:
        raise Refusal("E_RANGE", name=name, got=result, low=0.0, high=None)
    return result


def count(name: str, value: object, low: int, high: int) -> int:
    """Return a whole number in the closed range ``low`` … ``high``.

    Raises:
        Refusal: ``E_TYPE`` when not an integer, ``E_RANGE`` when outside.
    """
    if isinstance(value, bool) or not isinstance(value, int):
        raise Refusal("E_TYPE", name=name, got=str(value))
    if not low <= value <= high:
        raise Refusal("E_RANGE", name=name, got=value, low=low, high=high)
    return value


def metal_temperature(name: str, value: object) -> float:
    """Return a metal temperature in °C between −60 and 600.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE`` or ``E_RANGE``.
    """
    return within(name, value, -60.0, 600.0)
