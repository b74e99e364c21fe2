"""Torque–angle curves: where the joint came together, how stiff it is, whether it yielded."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from jorvek.core import checks
from jorvek.core.refusal import Refusal

Array = NDArray[np.float64]

_DWELL_DEG: Final = 0.5
_LEAST_SAMPLES: Final = 10
_LEAST_PREVAILING_BINS: Final = 6
_MOST_BINS: Final = 4000
_WIDENINGS: Final = (1.0, 1.5, 2.0, 3.0)


@dataclass(frozen=True)
class CurveReading:
    """What a torque–angle curve shows. Snug and yield are known to half a window at best.

    Attributes:
        gradient_Nm_per_deg: slope of the straight part.
        snug_angle_deg: where the straight part begins.
        yield_angle_deg: where the slope has fallen off for good, None when it has not; a possible
            yield, for a person to look at the curve.
        prevailing_Nm: running torque before the faces met, None when there was none to see.
        theta_zero_deg: where the straight line meets the running torque.
    """

    gradient_Nm_per_deg: float
    snug_angle_deg: float
    yield_angle_deg: float | None
    prevailing_Nm: float | None
    theta_zero_deg: float


@dataclass(frozen=True)
class _Zone:
    """Straight part found with one window: slopes by bin and the run of bins that is straight."""

    slopes: Array
    start: int
    stop: int
    regular: bool


def _samples(angle_deg: list[float], torque_Nm: list[float], bin_deg: float) -> tuple[Array, Array]:
    angles = np.array(checks.numbers("angle_deg", angle_deg), dtype=np.float64)
    torques = np.array(checks.numbers("torque_Nm", torque_Nm), dtype=np.float64)
    if len(angles) != len(torques):
        raise Refusal("E_LEN", name="torque_Nm", got=len(torques))
    if len(angles) < _LEAST_SAMPLES:
        raise Refusal("E_LEN", name="angle_deg", got=len(angles))
    highest = np.maximum.accumulate(angles)
    if float(np.max(highest - angles)) > _DWELL_DEG:
        raise Refusal("E_MONO", name="angle_deg")
    if highest[-1] - highest[0] < _LEAST_SAMPLES * bin_deg:
        raise Refusal("E_DATA", name="angle_deg")
    if highest[-1] - highest[0] > _MOST_BINS * bin_deg:
        raise Refusal("E_RANGE", name="angle_deg", got=float(highest[-1]), low=None, high=_MOST_BINS * bin_deg)
    return highest, torques


def _binned(angles: Array, torques: Array, bin_deg: float) -> tuple[Array, Array]:
    """Mean angle and median torque per bin, empty bins filled, then a running median of five."""
    index = np.floor((angles - angles[0]) / bin_deg + 1e-9).astype(int)
    bins = int(index[-1]) + 1
    centres = angles[0] + (np.arange(bins) + 0.5) * bin_deg
    medians = np.full(bins, np.nan)
    edges = np.searchsorted(index, np.arange(bins + 1))
    for k in range(bins):
        inside = slice(edges[k], edges[k + 1])
        if edges[k] < edges[k + 1]:
            centres[k], medians[k] = angles[inside].mean(), np.median(torques[inside])
    filled = ~np.isnan(medians)
    medians = np.interp(centres, centres[filled], medians[filled])
    padded = np.pad(medians, 2, mode="edge")
    return centres, np.median(np.lib.stride_tricks.sliding_window_view(padded, 5), axis=1)


def _median_slope(x: Array, y: Array) -> float:
    """Median of the slopes of all pairs of points (Theil–Sen), deaf to outliers."""
    i, j = np.triu_indices(len(x), 1)
    return float(np.median((y[j] - y[i]) / (x[j] - x[i])))


def _slopes(x: Array, y: Array, window: int) -> Array:
    """Median pair slope in a window centred at each bin; the ends use the first and last window."""
    xs = np.lib.stride_tricks.sliding_window_view(x, window)
    ys = np.lib.stride_tricks.sliding_window_view(y, window)
    i, j = np.triu_indices(window, 1)
    local = np.median((ys[:, j] - ys[:, i]) / (xs[:, j] - xs[:, i]), axis=1)
    half = window // 2
    return np.concatenate([np.full(half, local[0]), local, np.full(len(x) - len(local) - half, local[-1])])


def _longest_run(flags: NDArray[np.bool_]) -> tuple[int, int]:
    """Return the longest run of true flags as (start, stop)."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    starts, stops = edges[::2], edges[1::2]
    best = int(np.argmax(stops - starts))
    return int(starts[best]), int(stops[best])


def _zone(x: Array, y: Array, window: int) -> _Zone:
    slopes = _slopes(x, y, window)
    top = float(np.quantile(slopes, 0.98))
    if top <= 0.0:
        raise Refusal("E_DATA", name="torque_Nm")
    typical = float(np.median(slopes[slopes >= 0.5 * top]))
    steep = slopes >= 0.7 * typical
    start, stop = _longest_run(steep)
    run = slopes[start:stop]
    spread = float(np.median(np.abs(run - np.median(run))))
    regular = (stop - start) >= 0.7 * int(steep.sum()) and spread <= 0.1 * typical
    return _Zone(slopes, start, stop, regular)


def _straight_part(x: Array, y: Array, win_deg: float, bin_deg: float) -> tuple[_Zone, int]:
    """Widen the window until the straight part is one regular run."""
    span = len(x)
    base = max(5, round(win_deg / bin_deg))
    zone, window = None, base
    for factor in _WIDENINGS:
        candidate = min(round(base * factor), max(base, span // 4), span)
        if zone is not None and candidate == window:
            break
        window = candidate
        zone = _zone(x, y, window)
        if zone.regular:
            break
    assert zone is not None
    return zone, window


def _line(x: Array, y: Array, zone: _Zone) -> tuple[float, float]:
    """Slope and intercept of the straight part, its ends cut off."""
    cut = max(0, round(0.05 * (zone.stop - zone.start)))
    inner = slice(zone.start + cut, max(zone.start + cut + 3, zone.stop - cut))
    slope = _median_slope(x[inner], y[inner])
    return slope, float(np.median(y[inner] - slope * x[inner]))


def _first_sustained(flags: NDArray[np.bool_], start: int, length: int) -> int | None:
    for k in range(start, len(flags) - length + 1):
        if flags[k : k + length].all():
            return k
    return None


def analyse_torque_angle(
    angle_deg: list[float],
    torque_Nm: list[float],
    bin_deg: float = 1.0,
    win_deg: float = 15.0,
    yield_frac: float = 0.5,
    snug_frac: float = 0.8,
    confirm_deg: float = 5.0,
) -> CurveReading:
    r"""Read slope, snug point, possible yield and running torque off a torque–angle curve.

    Medians throughout, so that stick-slip and single wild samples do not decide. A yield found is
    a possible yield; one inside the last half window is not seen.

    Args:
        angle_deg: angle of each sample in degrees, in order of time; it may dwell but not fall by
            more than 0.5°.
        torque_Nm: torque of each sample in N·m.
        bin_deg: width of a bin in degrees, above 0 and at most 10.
        win_deg: width of the window for local slopes in degrees.
        yield_frac: yield where the slope falls to this share, 0.1 … 0.9.
        snug_frac: snug where the slope first reaches this share, 0.1 … 0.95.
        confirm_deg: how long the slope must stay down, in degrees.

    Returns:
        The reading.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for a curve of more than 4000 bins);
            ``E_LEN`` for lists of unlike or too small length; ``E_MONO`` for an angle that runs
            back; ``E_DATA`` when no straight part can be found.

    Formula:
        G = \operatorname{median}_{i < j} \frac{T_j - T_i}{\theta_j - \theta_i}

    Standing: model; only the fall of the slope as a sign of yield is common practice.

    Source: derived here; Theil–Sen estimator. Snug and yield are resolved to about half the
    window, and a few elastic curves in a hundred give a false yield under strong stick-slip.
    """
    width = checks.positive("bin_deg", bin_deg, 10.0)
    window_deg = checks.positive("win_deg", win_deg, 90.0)
    falls, reaches = checks.within("yield_frac", yield_frac, 0.1, 0.9), checks.within("snug_frac", snug_frac, 0.1, 0.95)
    confirm = max(1, round(checks.positive("confirm_deg", confirm_deg, 90.0) / width))
    x, y = _binned(*_samples(angle_deg, torque_Nm, width), width)
    zone, _window = _straight_part(x, y, window_deg, width)
    slope, intercept = _line(x, y, zone)
    if slope <= 0.0 or slope * (x[zone.stop - 1] - x[zone.start]) <= 0.05 * (float(np.ptp(y)) or 1.0):
        raise Refusal("E_DATA", name="torque_Nm")
    low = zone.slopes < 0.1 * slope
    leading = int(np.argmin(low)) if not low.all() else len(low)
    prevailing = float(np.median(y[: leading // 2])) if leading >= _LEAST_PREVAILING_BINS else None
    run = zone.slopes[zone.start : zone.stop]
    snug = zone.start + int(np.argmax(run >= reaches * slope)) if (run >= reaches * slope).any() else zone.start
    off = _first_sustained(zone.slopes <= falls * slope, zone.start, confirm)
    return CurveReading(
        gradient_Nm_per_deg=slope,
        snug_angle_deg=float(x[snug]),
        yield_angle_deg=None if off is None else float(x[off]),
        prevailing_Nm=prevailing,
        theta_zero_deg=((prevailing or 0.0) - intercept) / slope,
    )
