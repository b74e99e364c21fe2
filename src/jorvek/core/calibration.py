"""What an instrument shows against what is true."""

from __future__ import annotations

import math
from itertools import pairwise

from jorvek.core import checks
from jorvek.core.refusal import Refusal

Points = list[tuple[float, float]]
"""Calibration points (shown, true), rising in both."""


def _interpolate(x: float, points: list[tuple[float, float]]) -> float:
    if not points[0][0] <= x <= points[-1][0]:
        raise Refusal("E_TABLE", name="calibration", got=x, allowed=f"{points[0][0]:g} … {points[-1][0]:g}")
    for (x0, y0), (x1, y1) in pairwise(points):
        if x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return points[-1][1]


def _checked(points: Points) -> Points:
    if not isinstance(points, list | tuple):
        raise Refusal("E_TYPE", name="points", got=str(points))
    if len(points) < 2:
        raise Refusal("E_LEN", name="calibration", got=len(points))
    rows = [checks.numbers("points", point, 2) for point in points]
    clean = [(row[0], row[1]) for row in rows]
    if any(b[0] <= a[0] or b[1] <= a[1] for a, b in pairwise(clean)):
        raise Refusal("E_MONO", name="calibration")
    return clean


def true_value(shown: float, points: Points) -> float:
    """Return the true value for what the instrument shows.

    Args:
        shown: reading of the instrument.
        points: calibration points (shown, true), at least two, rising in both.

    Returns:
        The true value, linear between points, in the unit of the points.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_LEN`` with fewer than two points; ``E_MONO``
            when they do not rise; ``E_TABLE`` outside the points (no extrapolation).

    Source: derived here (polyline through the certificate's points).
    """
    return _interpolate(checks.number("shown", shown), _checked(points))


def shown_for(true: float, points: Points) -> float:
    """Return what the instrument must show for a wanted true value; inverse polyline.

    Args:
        true: wanted true value.
        points: calibration points (shown, true), at least two, rising in both.

    Returns:
        The reading to aim for, in the unit of the points.

    Raises:
        Refusal: as ``true_value``.

    Source: derived here.
    """
    swapped = [(b, a) for a, b in _checked(points)]
    return _interpolate(checks.number("true", true), swapped)


def class_uncertainty(full_scale: float, class_pct: float) -> float:
    """Return the expanded uncertainty (k = 2) of a gauge of a given class.

    Args:
        full_scale: full scale in the gauge's unit, above zero.
        class_pct: accuracy class in % of full scale, 0 … 10.

    Returns:
        U = 2 · class · full scale / √3, in the gauge's unit.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Source: EN 837-1 for the class as an error bound of full scale; JCGM 100 (rectangular).
    """
    bound = checks.positive("full_scale", full_scale) * checks.within("class_pct", class_pct, 0.0, 10.0) / 100.0
    return 2.0 * bound / math.sqrt(3.0)
