"""Whether one of a few like readings stands out, by a scatter pooled over them and over earlier ones of their kind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean
from typing import Final, Literal

from jorvek.core import checks
from jorvek.core.measuring.quantiles import student_t

FEWEST_FREE: Final = 6
"""Degrees of freedom below which a scatter is not known well enough to tell anything by it."""
FALSE_ALARMS: Final = 0.015
"""Share of sound sets in which any reading is said to stand out, before gauges with coarse steps add theirs."""

Side = Literal["low", "high"]


@dataclass(frozen=True)
class StandsOut:
    """Which readings of a set stand out from their like.

    Attributes:
        told: False where there are too few readings to tell.
        sides: for each reading, on which side it stands out, None where it does not.
        scatter: pooled relative standard deviation; None where nothing is told.
    """

    told: bool
    sides: tuple[Side | None, ...]
    scatter: float | None


def _squares(values: Sequence[float]) -> tuple[float, int]:
    """Return the sum of squared relative deviations from their mean, and its degrees of freedom."""
    if len(values) < 2:
        return 0.0, 0
    middle = fmean(values)
    return sum((v / middle - 1.0) ** 2 for v in values), len(values) - 1


def stands_out(values: Sequence[float], earlier: Sequence[Sequence[float]] = (), grain: float = 0.0) -> StandsOut:
    r"""Tell which readings of a set stand out.

    Each is held against the mean of the others, with a scatter pooled over those others and over earlier sets of
    the same kind: it never widens its own limit.

    Args:
        values: the readings, all above zero, any unit.
        earlier: earlier sets of like readings, each about a mean of its own.
        grain: relative width of the interval in which a reading lies, zero or above.

    Returns:
        What stands out, or that too few are there to tell.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        |x_i / \bar x_{-i} - 1| > t_{\nu}\, s \sqrt{1 + 1/(n-1)}

    Standing: model; the share of false alarms is chosen.

    Source: prediction limit of the normal distribution with pooled variance, over n readings (Bonferroni).
    """
    own = [checks.positive("values", v) for v in values]
    before = [_squares([checks.positive("earlier", v) for v in one]) for one in earlier]
    width = checks.not_negative("grain", grain) / 12.0**0.5
    sides: list[Side | None] = []
    scatters: list[float] = []
    for k, value in enumerate(own):
        others = own[:k] + own[k + 1 :]
        squares, free = (sum(part) for part in zip(_squares(others), *before, strict=True))
        if len(others) < 2 or free < FEWEST_FREE:
            return StandsOut(False, (None,) * len(own), None)
        scatter = max((squares / free) ** 0.5, width)
        t = student_t(free, 1.0 - FALSE_ALARMS / (2.0 * len(own)))
        away = value / fmean(others) - 1.0
        far = abs(away) > t * scatter * (1.0 + 1.0 / len(others)) ** 0.5
        sides.append(("low" if away < 0.0 else "high") if far else None)
        scatters.append(scatter)
    return StandsOut(True, tuple(sides), fmean(scatters) if scatters else None)
