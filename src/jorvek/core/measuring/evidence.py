"""One clamp estimate from all evidence of the same moment, or none when it contradicts itself."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from jorvek.core import checks
from jorvek.core.measuring.quantiles import chi_squared_above
from jorvek.core.refusal import Refusal

_FARTHEST_RESIDUAL: Final = 2.0
_CHI2_TAIL: Final = 0.05


class EvidenceKind(StrEnum):
    """What speaks for a load."""

    TORQUE = "torque"
    ANGLE = "angle"
    PRESSURE = "pressure"
    STRETCH = "stretch"


class Agreement(StrEnum):
    """How pieces of evidence go together."""

    SINGLE = "single"
    AGREE = "agree"
    TWO_DISAGREE = "two_disagree"
    ONE_DISAGREES = "one_disagrees"
    NO_AGREEMENT = "no_agreement"


@dataclass(frozen=True)
class Evidence:
    """One piece of evidence for the load in one fastener at one moment.

    Attributes:
        kind: what it comes from.
        F_N: load it speaks for.
        u_N: its whole standard uncertainty in N, above zero.
        moment: name of the moment; only pieces of one moment are combined.
        shared_N: part of the standard uncertainty in N, with its sign, that comes from each named
            source (a gauge, a friction) which other pieces may have too.
        interval_N: limits of 95 % in N for skewed evidence, which is then not averaged.
    """

    kind: EvidenceKind
    F_N: float
    u_N: float
    moment: str
    shared_N: dict[str, float] = field(default_factory=dict)
    interval_N: tuple[float, float] | None = None


@dataclass(frozen=True)
class ClampEstimate:
    """What all evidence of one moment says together.

    Attributes:
        agreement: how the pieces go together.
        F_N: combined load, None when they contradict each other.
        u_N: its standard uncertainty, None likewise or for a lone skewed piece.
        low_N: lower limit of 95 %.
        high_N: upper limit of 95 %.
        disagreeing: places (from 0) of the pieces that do not fit.
        residuals: normalised residual of each piece.
        common_N: part of the standard uncertainty that comes from named sources, alike for all that share them; what
            is left tells fasteners of one joint apart.
    """

    agreement: Agreement
    F_N: float | None
    u_N: float | None
    low_N: float | None
    high_N: float | None
    disagreeing: tuple[int, ...]
    residuals: tuple[float, ...]
    common_N: float = 0.0


Array = NDArray[np.float64]


@dataclass(frozen=True)
class _Fit:
    """Combined value of some pieces, and how well each piece (used or not) fits it."""

    F: float
    u: float
    residuals: tuple[float, ...]
    agrees: bool
    common: float


def _covariance(pieces: list[Evidence]) -> Array:
    n = len(pieces)
    V = np.zeros((n, n))
    for i, a in enumerate(pieces):
        for j, b in enumerate(pieces):
            common = set(a.shared_N) & set(b.shared_N)
            V[i, j] = sum(a.shared_N[name] * b.shared_N[name] for name in common)
        V[i, i] = a.u_N**2
    return V


def _weights(V: Array) -> Array:
    solved = np.asarray(np.linalg.solve(V, np.ones(len(V))), dtype=np.float64)
    return np.asarray(solved / solved.sum(), dtype=np.float64)


def _useful(V: Array) -> list[int]:
    """Pieces that add something: a correlated piece with a negative weight only repeats another."""
    used = list(range(len(V)))
    while len(used) > 1:
        weights = _weights(V[np.ix_(used, used)])
        worst = int(np.argmin(weights))
        if weights[worst] >= 0.0:
            break
        del used[worst]
    return used


def _fit(pieces: list[Evidence]) -> _Fit:
    x, V = np.array([piece.F_N for piece in pieces]), _covariance(pieces)
    if float(np.linalg.eigvalsh(V).min()) <= 1e-12 * float(V.diagonal().max()):
        raise Refusal("E_DATA", name="shared_N")
    used = _useful(V)
    weights = np.zeros(len(x))
    weights[used] = _weights(V[np.ix_(used, used)])
    F, variance = float(weights @ x), float(weights @ V @ weights)
    # Variance of x_i − F; it is u_i² − u² for a piece that is in the mean, and holds for the others too.
    spread = V.diagonal() - 2.0 * (V @ weights) + variance
    away = x - F
    residuals = tuple(float(a / np.sqrt(s)) if s > 1e-18 * variance else 0.0 for a, s in zip(away, spread, strict=True))
    chi2 = float(away @ np.linalg.solve(V, away))
    within = len(x) < 2 or chi2 <= chi_squared_above(len(x) - 1, _CHI2_TAIL)
    agrees = within and all(abs(r) <= _FARTHEST_RESIDUAL for r in residuals)
    return _Fit(F, float(np.sqrt(variance)), residuals, agrees, _common(pieces, weights))


def _common(pieces: list[Evidence], weights: Array) -> float:
    """Return the part of the combined standard uncertainty that comes from named sources."""
    names = sorted({name for piece in pieces for name in piece.shared_N})
    sums = [sum(w * piece.shared_N.get(name, 0.0) for w, piece in zip(weights, pieces, strict=True)) for name in names]
    return float(np.sqrt(sum(one * one for one in sums)))


def _checked(pieces: list[Evidence]) -> list[Evidence]:
    if not pieces:
        raise Refusal("E_LEN", name="pieces", got=0)
    if len({piece.moment for piece in pieces}) > 1:
        raise Refusal("E_DATA", name="moment")
    for piece in pieces:
        checks.number("F_N", piece.F_N)
        u = checks.positive("u_N", piece.u_N)
        common = sum(checks.number("shared_N", part) ** 2 for part in piece.shared_N.values())
        if common > u * u * (1.0 + 1e-9):
            raise Refusal("E_RANGE", name="shared_N", got=common**0.5, low=0.0, high=u)
        if piece.interval_N is not None:
            low, high = (checks.number("interval_N", end) for end in piece.interval_N)
            if not low <= piece.F_N <= high:
                raise Refusal("E_RANGE", name="interval_N", got=piece.F_N, low=low, high=high)
    return pieces


def _odd_one_out(pieces: list[Evidence], residuals: tuple[float, ...]) -> int | None:
    """The one piece without which the others agree; None when that is not one piece."""
    cures = [k for k in range(len(pieces)) if _fit(pieces[:k] + pieces[k + 1 :]).agrees]
    if not cures:
        return None
    return max(cures, key=lambda k: abs(residuals[k]))


def _outside(interval: tuple[float, float], fit: _Fit) -> bool:
    """A combined value lies outside an interval, allowing for its own uncertainty."""
    return fit.F + 2.0 * fit.u < interval[0] or fit.F - 2.0 * fit.u > interval[1]


def _lone_interval(pieces: list[Evidence]) -> ClampEstimate:
    """Only skewed pieces: their common interval, or none."""
    lows, highs = zip(*(piece.interval_N for piece in pieces if piece.interval_N is not None), strict=True)
    low, high, none = max(lows), min(highs), (0.0,) * len(pieces)
    if low > high:
        bad = Agreement.TWO_DISAGREE if len(pieces) == 2 else Agreement.NO_AGREEMENT
        return ClampEstimate(bad, None, None, None, None, tuple(range(len(pieces))), none)
    good = Agreement.SINGLE if len(pieces) == 1 else Agreement.AGREE
    middle = pieces[0].F_N if len(pieces) == 1 else (low + high) / 2.0
    return ClampEstimate(good, middle, None, low, high, (), none)


def combine_evidence(pieces: list[Evidence]) -> ClampEstimate:
    r"""Combine all evidence of one moment on one fastener into one load, or say what disagrees.

    A contradiction is never averaged away: when the pieces do not fit, there is no value, and
    from three pieces on the one that does not fit is named if there is one. Skewed evidence is
    an interval that the others must meet; it is not averaged. A release pressure belongs to a
    later moment and is compared, not combined.

    Args:
        pieces: the evidence, all of one moment.

    Returns:
        Combined load in N with its uncertainty, or the pieces that disagree.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE`` (also for a shared part above the whole);
            ``E_LEN`` without evidence; ``E_DATA`` for pieces of several moments, or for two that
            are one and the same measurement.

    Formula:
        \hat F = \frac{1^T V^{-1} x}{1^T V^{-1} 1}, \quad u^2 = \frac{1}{1^T V^{-1} 1}
        r_i = \frac{x_i - \hat F}{\sqrt{u_i^2 - u^2}}
        |r_i| \le 2
        \chi^2 = (x - \hat F)^T V^{-1} (x - \hat F) \le \chi^2_{0.95,\,n-1}

    Standing: model.

    Source: inverse-variance weighting with covariance (generalised least squares); consistency
    test after common practice in key comparisons. A correlated piece whose weight would be
    negative repeats what another says better: it is tested but not averaged.
    """
    checked = _checked(pieces)
    plain = [k for k, piece in enumerate(checked) if piece.interval_N is None]
    if not plain:
        return _lone_interval(checked)
    fit = _fit([checked[k] for k in plain])
    residuals = [0.0] * len(checked)
    for k, r in zip(plain, fit.residuals, strict=True):
        residuals[k] = r
    if not fit.agrees:
        return _contradiction(checked, plain, fit, tuple(residuals))
    off = tuple(k for k, p in enumerate(checked) if p.interval_N is not None and _outside(p.interval_N, fit))
    if off:
        worst = Agreement.ONE_DISAGREES if len(checked) > 2 and len(off) == 1 else Agreement.NO_AGREEMENT
        agreement = Agreement.TWO_DISAGREE if len(checked) == 2 else worst
        named = tuple(range(len(checked))) if agreement is Agreement.TWO_DISAGREE else off
        return ClampEstimate(agreement, None, None, None, None, named, tuple(residuals))
    agreement = Agreement.SINGLE if len(checked) == 1 else Agreement.AGREE
    low, high = fit.F - 2.0 * fit.u, fit.F + 2.0 * fit.u
    return ClampEstimate(agreement, fit.F, fit.u, low, high, (), tuple(residuals), fit.common)


def _contradiction(pieces: list[Evidence], plain: list[int], fit: _Fit, residuals: tuple[float, ...]) -> ClampEstimate:
    if len(plain) == 2:
        agreement, named = Agreement.TWO_DISAGREE, tuple(plain)
    else:
        odd = _odd_one_out([pieces[k] for k in plain], fit.residuals)
        agreement = Agreement.NO_AGREEMENT if odd is None else Agreement.ONE_DISAGREES
        named = tuple(plain) if odd is None else (plain[odd],)
    return ClampEstimate(agreement, None, None, None, None, named, residuals)
