"""Oil clearance of plain bearings, by diameters and by a squeezed strip."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean
from typing import Final

from jorvek.core import checks
from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.refusal import Refusal

_PLAUSIBLE_CLEARANCE_SHARE: Final = 0.02


@dataclass(frozen=True)
class BearingClearance:
    """Diametral oil clearance at 20 °C.

    Attributes:
        min_mm: smallest bore less largest journal; negative is an interference.
        max_mm: largest bore less smallest journal.
        mean_mm: difference of the means.
        interference: the smallest is negative.
    """

    min_mm: float
    max_mm: float
    mean_mm: float
    interference: bool


def _at_20(name: str, readings: list[float], T_C: float, alpha: float) -> list[float]:
    growth = 1.0 + alpha * (T_C - 20.0)
    return [checks.positive(name, x) / growth for x in checks.numbers(name, readings)]


def bearing_clearance(
    bore_mm: list[float],
    journal_mm: list[float],
    T_bore_C: float = 20.0,
    T_journal_C: float = 20.0,
    alpha_bore: float = STEEL_EXPANSION_PER_K,
    alpha_journal: float = STEEL_EXPANSION_PER_K,
) -> BearingClearance:
    r"""Return the oil clearance from diameters measured at their metal temperatures.

    The bore is that of the fitted shells with the cap tightened.

    Args:
        bore_mm: bore diameters in mm.
        journal_mm: journal diameters in mm.
        T_bore_C: metal temperature of the bore in °C.
        T_journal_C: metal temperature of the journal in °C.
        alpha_bore: expansion of the bore per kelvin, 0 … 1e-4.
        alpha_journal: expansion of the journal per kelvin, 0 … 1e-4.

    Returns:
        Clearance in mm at 20 °C.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for a clearance above 2 % of the
            diameter, either way); ``E_LEN`` without readings.

    Formula:
        D_{20} = \frac{D}{1 + \alpha (T - 20)}, \quad c_{min} = \min B_{20} - \max J_{20}

    Standing: mechanics.

    Source: linear expansion.
    """
    T_bore = checks.metal_temperature("T_bore_C", T_bore_C)
    T_journal = checks.metal_temperature("T_journal_C", T_journal_C)
    bore = _at_20("bore_mm", bore_mm, T_bore, checks.within("alpha_bore", alpha_bore, 0.0, 1e-4))
    journal = _at_20("journal_mm", journal_mm, T_journal, checks.within("alpha_journal", alpha_journal, 0.0, 1e-4))
    least, most = min(bore) - max(journal), max(bore) - min(journal)
    limit = _PLAUSIBLE_CLEARANCE_SHARE * fmean(journal)
    if max(abs(least), abs(most)) > limit:
        raise Refusal("E_RANGE", name="bore_mm", got=max(bore), low=min(journal) - limit, high=min(journal) + limit)
    return BearingClearance(least, most, fmean(bore) - fmean(journal), least < 0.0)


def _checked_strip(table: list[tuple[float, float]]) -> list[tuple[float, float]]:
    if not isinstance(table, list | tuple) or len(table) < 2:
        raise Refusal("E_LEN", name="table", got=len(table) if isinstance(table, list | tuple) else 0)
    rows = [checks.numbers("table", row, 2) for row in table]
    clean = [(checks.positive("table", row[0]), checks.positive("table", row[1])) for row in rows]
    if any(b[0] <= a[0] or b[1] >= a[1] for a, b in pairwise(clean)):
        raise Refusal("E_MONO", name="table")
    return clean


def strip_clearance(
    width_mm: float, table: list[tuple[float, float]] | None = None, strip_dia_mm: float | None = None
) -> float:
    r"""Return the clearance in mm from the width of a flattened plastic strip.

    Args:
        width_mm: flattened width in mm.
        table: printed scale of (width, clearance) in mm, wider for smaller clearance; linear
            between marks, nothing beyond them.
        strip_dia_mm: diameter of the strip in mm, for constant volume in place of the scale.

    Returns:
        The clearance in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for a strip that was not squeezed);
            ``E_DATA`` without scale and diameter, or with both; ``E_LEN`` for a scale of one mark;
            ``E_MONO`` for a scale out of order; ``E_TABLE`` beyond it.

    Formula:
        c = \frac{\pi d_0^2}{4 w}

    Standing: standard by the printed scale; constant volume is quoted and takes a rectangular bead.

    Source: derived here.
    """
    width = checks.positive("width_mm", width_mm)
    if (table is None) == (strip_dia_mm is None):
        raise Refusal("E_DATA", name="table")
    if strip_dia_mm is not None:
        strip = checks.positive("strip_dia_mm", strip_dia_mm)
        if width <= strip:
            raise Refusal("E_RANGE", name="width_mm", got=width, low=strip, high=None)
        return math.pi * strip**2 / (4.0 * width)
    assert table is not None
    marks = _checked_strip(table)
    for (w0, c0), (w1, c1) in pairwise(marks):
        if w0 <= width <= w1:
            return c0 + (c1 - c0) * (width - w0) / (w1 - w0)
    raise Refusal("E_TABLE", name="width_mm", got=width, allowed=f"{marks[0][0]:g} … {marks[-1][0]:g}")


def strip_width(clearance_mm: float, table: list[tuple[float, float]]) -> float:
    r"""Return the width in mm that a strip has at a clearance: the printed scale read backwards.

    Args:
        clearance_mm: clearance in mm.
        table: printed scale of (width, clearance) in mm, wider for smaller clearance.

    Returns:
        The width in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for a scale of one mark; ``E_MONO`` for a scale
            out of order; ``E_TABLE`` beyond it.

    Formula:
        w = w_0 + (w_1 - w_0) \frac{c - c_0}{c_1 - c_0}

    Standing: standard by the printed scale, linear between marks.

    Source: derived here.
    """
    clearance = checks.positive("clearance_mm", clearance_mm)
    marks = _checked_strip(table)
    for (w0, c0), (w1, c1) in pairwise(marks):
        if c1 <= clearance <= c0:
            return w0 + (w1 - w0) * (clearance - c0) / (c1 - c0)
    raise Refusal("E_TABLE", name="clearance_mm", got=clearance, allowed=f"{marks[-1][1]:g} … {marks[0][1]:g}")
