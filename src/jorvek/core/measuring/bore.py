"""Form of bores, straightness of lines, offsets of axes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal

_PLAUSIBLE_DIAMETER_SHARE: Final = 0.05


@dataclass(frozen=True)
class BoreForm:
    """Form of a bore from diameters by depth and angle.

    Attributes:
        ovality_mm: largest less smallest diameter at each depth.
        ovality_max_mm: largest of these.
        ovality_fourier_mm: second harmonic at each depth, None without evenly spread angles.
        taper_mm: largest less smallest diameter along each angle.
        taper_max_mm: largest of these.
        taper_signed_mm: mean diameter at the first depth less that at the last.
        mean_D_mm: mean diameter.
        max_D_mm: largest.
        min_D_mm: smallest.
        max_at: depth in mm and angle in degrees of the largest.
        wear_max_mm: largest less nominal, None without a nominal.
    """

    ovality_mm: tuple[float, ...]
    ovality_max_mm: float
    ovality_fourier_mm: tuple[float, ...] | None
    taper_mm: tuple[float, ...]
    taper_max_mm: float
    taper_signed_mm: float
    mean_D_mm: float
    max_D_mm: float
    min_D_mm: float
    max_at: tuple[float, float]
    wear_max_mm: float | None


@dataclass(frozen=True)
class Straightness:
    """Straightness of a line by three methods.

    Attributes:
        end_point_mm: against the line through the ends.
        least_squares_mm: against the least-squares line.
        min_zone_mm: least width of two parallel lines that hold all points.
    """

    end_point_mm: float
    least_squares_mm: float
    min_zone_mm: float


@dataclass(frozen=True)
class AxisOffsets:
    """Offsets of an axis from opposite radial readings.

    Attributes:
        offset_mm: offset at each depth.
        dD_mm: change of diameter at each depth.
    """

    offset_mm: tuple[float, ...]
    dD_mm: tuple[float, ...]


def _second_harmonic(row: list[float], angles: list[float]) -> float:
    n = len(row)
    A = 2.0 / n * sum(D * math.cos(2.0 * math.radians(t)) for D, t in zip(row, angles, strict=True))
    B = 2.0 / n * sum(D * math.sin(2.0 * math.radians(t)) for D, t in zip(row, angles, strict=True))
    return 2.0 * math.hypot(A, B)


def _evenly_spread(angles: list[float]) -> bool:
    step = 180.0 / len(angles)
    return len(angles) >= 3 and all(abs(b - a - step) <= 1e-6 for a, b in pairwise(angles))


def _grid(D: object, depths: int, angles: int) -> list[list[float]]:
    if not isinstance(D, list | tuple) or len(D) != depths:
        raise Refusal("E_LEN", name="D", got=len(D) if isinstance(D, list | tuple) else 0)
    rows = [[checks.positive("D", x) for x in checks.numbers("D", row)] for row in D]
    if any(len(row) != angles for row in rows):
        raise Refusal("E_LEN", name="D", got=angles)
    flat = [x for row in rows for x in row]
    if max(flat) - min(flat) > _PLAUSIBLE_DIAMETER_SHARE * max(flat):
        raise Refusal("E_RANGE", name="D", got=min(flat), low=0.95 * max(flat), high=max(flat))
    return rows


def bore_form(
    depths_mm: list[float], angles_deg: list[float], D: list[list[float]], nominal_mm: float | None = None
) -> BoreForm:
    r"""Return ovality, taper and wear of a bore.

    Ovality is a difference of diameters; half of it is the radial value of ISO 1101.

    Args:
        depths_mm: depths in mm, rising.
        angles_deg: angles in degrees, rising, 0 … below 180 (a diameter at 0 is the one at 180).
        D: diameters in mm by depth and angle.
        nominal_mm: nominal diameter in mm, for wear.

    Returns:
        The form in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for diameters more than 5 % apart);
            ``E_LEN`` for a grid of the wrong shape; ``E_MONO`` for depths or angles out of order.

    Formula:
        o = 2 \sqrt{A^2 + B^2}
        A = \frac{2}{n} \sum_k D_k \cos 2 \theta_k
        B = \frac{2}{n} \sum_k D_k \sin 2 \theta_k

    Standing: mechanics.

    Source: derived here; Fourier series over half a turn. Checked: an ellipse D̄ + a cos 2θ has
    ovality 2a by both ways.
    """
    depths, angles = checks.numbers("depths_mm", depths_mm), checks.numbers("angles_deg", angles_deg)
    checks.rising("depths_mm", depths)
    checks.rising("angles_deg", angles)
    if angles[0] < 0.0 or angles[-1] >= 180.0:
        raise Refusal("E_RANGE", name="angles_deg", got=angles[-1], low=0.0, high=180.0)
    rows = _grid(D, len(depths), len(angles))
    nominal = None if nominal_mm is None else checks.positive("nominal_mm", nominal_mm)
    columns = [list(column) for column in zip(*rows, strict=True)]
    ovality = tuple(max(row) - min(row) for row in rows)
    taper = tuple(max(column) - min(column) for column in columns)
    largest, i, j = max((x, -i, -j) for i, row in enumerate(rows) for j, x in enumerate(row))
    harmonic = tuple(_second_harmonic(row, angles) for row in rows) if _evenly_spread(angles) else None
    return BoreForm(
        ovality_mm=ovality,
        ovality_max_mm=max(ovality),
        ovality_fourier_mm=harmonic,
        taper_mm=taper,
        taper_max_mm=max(taper),
        taper_signed_mm=fmean(rows[0]) - fmean(rows[-1]),
        mean_D_mm=fmean(x for row in rows for x in row),
        max_D_mm=largest,
        min_D_mm=min(x for row in rows for x in row),
        max_at=(depths[-i], angles[-j]),
        wear_max_mm=None if nominal is None else largest - nominal,
    )


def _hull(points: list[tuple[float, float]], sign: float) -> list[tuple[float, float]]:
    """Upper (sign 1) or lower (sign −1) edge of the convex hull of points in order of z."""
    edge: list[tuple[float, float]] = []
    for p in points:
        while len(edge) >= 2 and sign * _turn(edge[-2], edge[-1], p) >= 0.0:
            edge.pop()
        edge.append(p)
    return edge


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _width(z: list[float], dev: list[float], slope: float) -> float:
    height = [d - slope * x for x, d in zip(z, dev, strict=True)]
    return max(height) - min(height)


def straightness(z_mm: list[float], dev_mm: list[float]) -> Straightness:
    r"""Return the straightness of a line from deviations square to it.

    Args:
        z_mm: places along the line in mm, rising.
        dev_mm: deviations in mm, one for each place.

    Returns:
        Peak to valley in mm by end points, least squares and minimum zone.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for fewer than three places (two are always
            in line) or lists of unlike length; ``E_MONO`` for places out of order.

    Formula:
        s = \min_k \left[ \max_i (y_i - k z_i) - \min_i (y_i - k z_i) \right]

    Standing: mechanics for small slopes.

    Source: ISO 12780 for the idea; derived here: the least strip has one line along an edge of
    the convex hull.
    """
    z, dev = checks.numbers("z_mm", z_mm, 3), checks.numbers("dev_mm", dev_mm, 3)
    if len(z) != len(dev):
        raise Refusal("E_LEN", name="dev_mm", got=len(dev))
    checks.rising("z_mm", z)
    ends = (dev[-1] - dev[0]) / (z[-1] - z[0])
    middle = fmean(z)
    fit = sum((x - middle) * d for x, d in zip(z, dev, strict=True)) / sum((x - middle) ** 2 for x in z)
    points = list(zip(z, dev, strict=True))
    edges = [pair for sign in (1.0, -1.0) for pair in pairwise(_hull(points, sign))]
    slopes = [(b[1] - a[1]) / (b[0] - a[0]) for a, b in edges]
    return Straightness(_width(z, dev, ends), _width(z, dev, fit), min(_width(z, dev, k) for k in slopes))


def axis_offsets(r_A_mm: list[float], r_B_mm: list[float]) -> AxisOffsets:
    r"""Return axis offsets from opposite radial readings at each depth.

    Args:
        r_A_mm: readings in mm on one side.
        r_B_mm: readings in mm on the opposite side.

    Returns:
        Offset and change of diameter in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without readings or for lists of
            unlike length.

    Formula:
        e = \frac{r_A - r_B}{2}, \quad \Delta D = r_A + r_B

    Standing: mechanics.

    Source: geometry.
    """
    a, b = checks.numbers("r_A_mm", r_A_mm), checks.numbers("r_B_mm", r_B_mm)
    if len(a) != len(b):
        raise Refusal("E_LEN", name="r_B_mm", got=len(b))
    pairs = list(zip(a, b, strict=True))
    return AxisOffsets(tuple((x - y) / 2.0 for x, y in pairs), tuple(x + y for x, y in pairs))
