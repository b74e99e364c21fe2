"""Admissible arguments: each check returns the number or refuses it.

Booleans are not numbers; zero is a value; NaN and infinity never enter a formula.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from jorvek.core.refusal import Refusal

LARGEST: Final = 1e20
"""No size, load or time of an engine is larger, in any unit used here; no power of it overflows."""

SMALLEST: Final = 1e-20
"""No quantity that must be above zero is smaller."""


def number(name: str, value: object) -> float:
    """Return ``value`` as a finite float.

    Raises:
        Refusal: ``E_TYPE`` when it is no number, ``E_FINITE`` when NaN or infinite, ``E_RANGE``
            beyond ``LARGEST``.
    """
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise Refusal("E_TYPE", name=name, got=str(value))
    try:
        result = float(value)
    except OverflowError:
        result = math.inf
    if not math.isfinite(result):
        raise Refusal("E_FINITE", name=name, got=str(value)[:40])
    if abs(result) > LARGEST:
        raise Refusal("E_RANGE", name=name, got=result, low=-LARGEST, high=LARGEST)
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


def positive(name: str, value: object, high: float | None = None) -> float:
    """Return a finite number above zero, and at most ``high`` when given.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, or ``E_RANGE`` when zero, below, or above ``high``.
    """
    result = number(name, value)
    if result < SMALLEST or (high is not None and result > high):
        raise Refusal("E_RANGE", name=name, got=result, low=0.0, high=high)
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


def choice(name: str, value: object, allowed: Sequence[str]) -> str:
    """Return one of the ``allowed`` words.

    Raises:
        Refusal: ``E_TYPE`` when not a text, ``E_TABLE`` when it is another word.
    """
    if not isinstance(value, str):
        raise Refusal("E_TYPE", name=name, got=str(value))
    if value not in allowed:
        raise Refusal("E_TABLE", name=name, got=value, allowed=", ".join(allowed))
    return value


def numbers(name: str, values: object, at_least: int = 1) -> list[float]:
    """Return a list of finite numbers with no fewer than ``at_least`` entries.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, or ``E_LEN`` when too short.
    """
    if not isinstance(values, list | tuple):
        raise Refusal("E_TYPE", name=name, got=str(values))
    if len(values) < at_least:
        raise Refusal("E_LEN", name=name, got=len(values))
    return [number(name, value) for value in values]


def rising(name: str, values: Sequence[float]) -> None:
    """Refuse values that do not rise from one to the next.

    Raises:
        Refusal: ``E_MONO``.
    """
    if any(b <= a for a, b in pairwise(values)):
        raise Refusal("E_MONO", name=name)


def metal_temperature(name: str, value: object) -> float:
    """Return a metal temperature in °C between −60 and 600.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE`` or ``E_RANGE``.
    """
    return within(name, value, -60.0, 600.0)


def friction(name: str, value: object) -> float:
    """Return a friction coefficient between 0 and 1.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE`` or ``E_RANGE``.
    """
    return within(name, value, 0.0, 1.0)


def contradiction(name: str, got: float, against: str, other: float) -> Refusal:
    """Return the refusal of two numbers that cannot both be true of one part."""
    return Refusal("E_GEOM", name=name, got=got, against=against, other=other)
