"""Uncertainty of a reckoned load, by the law of propagation and by drawing."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from jorvek.core import checks
from jorvek.core.bolting.stretch import STEEL_EXPANSION_PER_K
from jorvek.core.bolting.tensioner import newton_per_bar
from jorvek.core.bolting.thread import Thread
from jorvek.core.bolting.torque import pitch_lever_mm, thread_lever_mm, torque_lever_mm
from jorvek.core.refusal import Refusal

_DIVISORS: Final[dict[str, float]] = {
    "rectangular": math.sqrt(3.0),
    "triangular": math.sqrt(6.0),
    "u_shaped": math.sqrt(2.0),
}


@dataclass(frozen=True)
class UsualDoubt:
    """Relative standard uncertainties taken where nothing better is known.

    Attributes:
        area: of a tool's piston area.
        efficiency: of a tool's efficiency.
        transfer: of the reckoned share that stays after release.
        stiffness: of a stud's reckoned resilience.
    """

    area: float = 0.003
    efficiency: float = 0.01
    transfer: float = 0.03
    stiffness: float = 0.03


USUAL: Final = UsualDoubt()
SEED: Final = 20250918
"""Seed of the draws: the same numbers give the same answer every time."""


@dataclass(frozen=True)
class Combined:
    """Combined standard uncertainty.

    Attributes:
        u_c: combined standard uncertainty, in the unit of the contributions.
        U: expanded uncertainty k u_c.
        share_pct: share of each contribution in u_c², cross terms split evenly.
    """

    u_c: float
    U: float
    share_pct: tuple[float, ...]


@dataclass(frozen=True)
class LoadUncertainty:
    """A load and its uncertainty.

    Attributes:
        F_N: load.
        u_rel: relative standard uncertainty.
        U_rel_pct: relative expanded uncertainty in %.
        share_pct: share of each contribution.
    """

    F_N: float
    u_rel: float
    U_rel_pct: float
    share_pct: tuple[float, ...]


@dataclass(frozen=True)
class LoadInterval:
    """A load as an interval of 95 %, found by drawing.

    Attributes:
        low_N: 2.5 % of the draws lie below.
        median_N: half lie below.
        high_N: 97.5 % lie below.
        mean_N: mean of the draws.
        u_N: standard deviation of the draws.
    """

    low_N: float
    median_N: float
    high_N: float
    mean_N: float
    u_N: float


def std_uncertainty(half_width: float, dist: str = "rectangular", k: float = 2.0) -> float:
    r"""Return the standard uncertainty of a half width.

    Args:
        half_width: half width, or expanded uncertainty for ``normal``; zero or above, any unit.
        dist: ``rectangular``, ``triangular``, ``u_shaped`` or ``normal``.
        k: coverage factor of a ``normal`` one, above zero.

    Returns:
        u in the unit of the half width.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_TABLE`` for another distribution.

    Formula:
        u = \frac{a}{\sqrt{3}}, \quad \frac{a}{\sqrt{6}}, \quad \frac{a}{\sqrt{2}}, \quad \frac{U}{k}

    Standing: standard.

    Source: JCGM 100 (GUM), type B evaluation.
    """
    half, factor = checks.not_negative("half_width", half_width), checks.positive("k", k)
    word = checks.choice("dist", dist, (*_DIVISORS, "normal"))
    return half / (factor if word == "normal" else _DIVISORS[word])


def _correlation(corr: list[list[float]] | None, n: int) -> list[list[float]]:
    if corr is None:
        return [[1.0 if i == j else 0.0 for j in range(n)] for i in range(n)]
    if not isinstance(corr, list | tuple) or len(corr) != n:
        raise Refusal("E_LEN", name="corr", got=len(corr) if isinstance(corr, list | tuple) else 0)
    rows = [[checks.within("corr", r, -1.0, 1.0) for r in checks.numbers("corr", row)] for row in corr]
    if any(len(row) != n for row in rows):
        raise Refusal("E_LEN", name="corr", got=n)
    symmetric = all(abs(rows[i][j] - rows[j][i]) <= 1e-9 for i in range(n) for j in range(i))
    if not symmetric or any(abs(rows[i][i] - 1.0) > 1e-9 for i in range(n)):
        raise Refusal("E_DATA", name="corr")
    return rows


def gum_combine(contrib: list[tuple[float, float]], corr: list[list[float]] | None = None, k: float = 2.0) -> Combined:
    r"""Combine standard uncertainties by the law of propagation.

    Args:
        contrib: (sensitivity, standard uncertainty) of each input.
        corr: full matrix of correlation coefficients; None when independent.
        k: coverage factor, above zero.

    Returns:
        Combined and expanded uncertainty, and shares.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for an empty list or a matrix of
            the wrong size; ``E_DATA`` for a matrix that is none of correlations.

    Formula:
        u_c^2 = \sum_i (c_i u_i)^2 + 2 \sum_{i<j} c_i c_j u_i u_j r_{ij}, \quad U = k u_c

    Standing: standard.

    Source: JCGM 100 (GUM), clause 5.
    """
    if not isinstance(contrib, list | tuple) or not contrib:
        raise Refusal("E_LEN", name="contrib", got=0)
    pairs = [checks.numbers("contrib", pair, 2) for pair in contrib]
    v = [pair[0] * checks.not_negative("contrib", pair[1]) for pair in pairs]
    r, factor = _correlation(corr, len(v)), checks.positive("k", k)
    along = [v[i] * sum(r[i][j] * v[j] for j in range(len(v))) for i in range(len(v))]
    variance = sum(along)
    if variance < -1e-12 * sum(x * x for x in v):
        raise Refusal("E_DATA", name="corr")
    total = math.sqrt(max(0.0, variance))
    share = tuple(100.0 * a / variance if variance > 0.0 else 0.0 for a in along)
    return Combined(total, factor * total, share)


def _load(F_N: float, relative: Combined) -> LoadUncertainty:
    return LoadUncertainty(F_N, relative.u_c, 100.0 * relative.U, relative.share_pct)


def u_preload_torque(
    T_Nm: float,
    thread: Thread,
    mu_t: float,
    mu_b: float,
    Dkm_mm: float,
    u_T_rel: float,
    u_mu_t: float,
    u_mu_b: float,
    r_mu: float = 0.0,
    u_Dkm_mm: float = 0.0,
    k: float = 2.0,
) -> LoadUncertainty:
    r"""Return a preload from torque and its first-order uncertainty.

    First order understates a wide friction spread; ``monte_carlo_preload_torque`` gives the
    skewed interval.

    Args:
        T_Nm: torque in N·m.
        thread: the thread.
        mu_t: friction in the thread, 0 … 1.
        mu_b: friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        u_T_rel: relative standard uncertainty of the torque, a fraction.
        u_mu_t: standard uncertainty of mu_t.
        u_mu_b: standard uncertainty of mu_b.
        r_mu: correlation of the two, −1 … 1.
        u_Dkm_mm: standard uncertainty of the diameter in mm.
        k: coverage factor.

    Returns:
        Load, relative uncertainty, shares of torque, thread, face, diameter.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a bearing face inside the
            thread.

    Formula:
        \frac{\partial F}{F} = \frac{\partial T}{T} - \frac{1}{c} \partial c
        2\, \partial c = \frac{d_2}{\cos 30°} \partial \mu_t + D_{Km} \partial \mu_b + \mu_b \partial D_{Km}

    Standing: mechanics.

    Source: JCGM 100 on the three-term torque, derivatives taken here; checked against drawing.
    """
    lever = torque_lever_mm(thread, mu_t, mu_b, Dkm_mm)
    r = checks.within("r_mu", r_mu, -1.0, 1.0)
    parts = [
        (1.0, checks.not_negative("u_T_rel", u_T_rel)),
        (-thread_lever_mm(thread) / lever, checks.not_negative("u_mu_t", u_mu_t)),
        (-Dkm_mm / 2.0 / lever, checks.not_negative("u_mu_b", u_mu_b)),
        (-mu_b / 2.0 / lever, checks.not_negative("u_Dkm_mm", u_Dkm_mm)),
    ]
    corr = [[1.0, 0.0, 0.0, 0.0], [0.0, 1.0, r, 0.0], [0.0, r, 1.0, 0.0], [0.0, 0.0, 0.0, 1.0]]
    return _load(1000.0 * checks.positive("T_Nm", T_Nm) / lever, gum_combine(parts, corr, k))


def u_preload_angle(
    F_snug_N: float,
    u_Fsnug_rel: float,
    angle_deg: float,
    u_angle_deg: float,
    P_mm: float,
    delta_tot: float,
    u_delta_rel: float,
    k: float = 2.0,
) -> LoadUncertainty:
    r"""Return a preload from snug torque plus angle and its uncertainty, elastic range.

    Args:
        F_snug_N: snug load in N, zero or above.
        u_Fsnug_rel: relative standard uncertainty of it, a fraction.
        angle_deg: angle in degrees, above zero.
        u_angle_deg: standard uncertainty of it in degrees.
        P_mm: pitch in mm.
        delta_tot: resilience of bolt and parts together in mm/N.
        u_delta_rel: relative standard uncertainty of it, a fraction.
        k: coverage factor.

    Returns:
        Load, relative uncertainty, shares of snug load, angle, resilience.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        u_F^2 = (F_s u_{rel,s})^2 + \left( \frac{P u_\theta}{360° \delta} \right)^2 + (\Delta F\, u_{rel,\delta})^2

    Standing: mechanics.

    Source: JCGM 100 on the angle equation, derivatives taken here.
    """
    snug, angle = checks.not_negative("F_snug_N", F_snug_N), checks.positive("angle_deg", angle_deg)
    per_degree = checks.positive("P_mm", P_mm) / 360.0 / checks.positive("delta_tot", delta_tot)
    added = per_degree * angle
    load = snug + added
    parts = [
        (snug / load, checks.not_negative("u_Fsnug_rel", u_Fsnug_rel)),
        (per_degree / load, checks.not_negative("u_angle_deg", u_angle_deg)),
        (-added / load, checks.not_negative("u_delta_rel", u_delta_rel)),
    ]
    return _load(load, gum_combine(parts, None, k))


def u_preload_hydraulic(
    p_bar: float,
    A_mm2: float,
    n_stack: int,
    eta: float,
    ratio: float,
    u_p_bar: float,
    u_A_rel: float,
    u_eta_rel: float,
    u_ratio_rel: float,
    k: float = 2.0,
) -> LoadUncertainty:
    r"""Return a residual load from a tool pressure and its uncertainty.

    Args:
        p_bar: pressure in bar, above zero.
        A_mm2: effective piston area of one element in mm².
        n_stack: stacked elements on the stud, 1 … 10.
        eta: efficiency of the tool, 0.5 … 1.
        ratio: residual over tool load, 0.3 … 1.
        u_p_bar: standard uncertainty of the pressure in bar.
        u_A_rel: relative standard uncertainty of the area, a fraction.
        u_eta_rel: relative standard uncertainty of the efficiency, a fraction.
        u_ratio_rel: relative standard uncertainty of the ratio, a fraction.
        k: coverage factor.

    Returns:
        Load, relative uncertainty, shares of pressure, area, efficiency, ratio.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        \left( \frac{u_F}{F} \right)^2 = \left( \frac{u_p}{p} \right)^2 + u_A^2 + u_\eta^2 + u_r^2

    Standing: mechanics.

    Source: JCGM 100 on a product.
    """
    p, share = checks.positive("p_bar", p_bar), checks.within("ratio", ratio, 0.3, 1.0)
    parts = [
        (1.0 / p, checks.not_negative("u_p_bar", u_p_bar)),
        (1.0, checks.not_negative("u_A_rel", u_A_rel)),
        (1.0, checks.not_negative("u_eta_rel", u_eta_rel)),
        (1.0, checks.not_negative("u_ratio_rel", u_ratio_rel)),
    ]
    return _load(p * newton_per_bar(A_mm2, n_stack, eta) * share, gum_combine(parts, None, k))


def u_preload_elongation(
    dL_mm: float,
    delta: float,
    u_reading_mm: float,
    u_dT_K: float,
    L_mm: float,
    u_delta_rel: float,
    alpha: float = STEEL_EXPANSION_PER_K,
    k: float = 2.0,
) -> LoadUncertainty:
    r"""Return a load from a measured stretch and its uncertainty.

    Args:
        dL_mm: stretch in mm, above zero.
        delta: resilience of the stud end to end in mm/N.
        u_reading_mm: standard uncertainty of one length reading in mm; there are two.
        u_dT_K: standard uncertainty of the difference of metal temperature in K.
        L_mm: length of the stud in mm.
        u_delta_rel: relative standard uncertainty of the resilience, a fraction.
        alpha: expansion per kelvin, 0 … 1e-4.
        k: coverage factor.

    Returns:
        Load, relative uncertainty, shares of readings, temperature, resilience.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        u_{\Delta L}^2 = 2 u_{read}^2 + (\alpha L\, u_{\Delta T})^2
        \left( \frac{u_F}{F} \right)^2 = \left( \frac{u_{\Delta L}}{\Delta L} \right)^2 + u_{rel,\delta}^2

    Standing: mechanics.

    Source: JCGM 100, derivatives taken here.
    """
    stretch, resilience = checks.positive("dL_mm", dL_mm), checks.positive("delta", delta)
    warmth = checks.within("alpha", alpha, 0.0, 1e-4) * checks.positive("L_mm", L_mm)
    parts = [
        (math.sqrt(2.0) / stretch, checks.not_negative("u_reading_mm", u_reading_mm)),
        (warmth / stretch, checks.not_negative("u_dT_K", u_dT_K)),
        (-1.0, checks.not_negative("u_delta_rel", u_delta_rel)),
    ]
    return _load(stretch / resilience, gum_combine(parts, None, k))


def _lognormal(mean: float, u: float) -> tuple[float, float]:
    """Parameters of a quantity that cannot be negative, by its mean and standard uncertainty."""
    if mean == 0.0 or u == 0.0:
        return (math.log(mean) if mean > 0.0 else -math.inf), 0.0
    s2 = math.log1p((u / mean) ** 2)
    return math.log(mean) - s2 / 2.0, math.sqrt(s2)


def monte_carlo_preload_torque(
    T_Nm: float,
    thread: Thread,
    mu_t: float,
    mu_b: float,
    Dkm_mm: float,
    u_T_rel: float,
    u_mu_t: float,
    u_mu_b: float,
    r_mu: float = 0.0,
    draws: int = 100_000,
    seed: int = SEED,
) -> LoadInterval:
    r"""Return a preload from torque as an interval, by drawing torque and friction.

    Args:
        T_Nm: torque in N·m.
        thread: the thread.
        mu_t: mean friction in the thread, 0 … 1.
        mu_b: mean friction under nut or head, 0 … 1.
        Dkm_mm: mean diameter in mm of the bearing face that slides.
        u_T_rel: relative standard uncertainty of the torque, a fraction up to 0.3.
        u_mu_t: standard uncertainty of mu_t.
        u_mu_b: standard uncertainty of mu_b.
        r_mu: correlation of the two, −1 … 1.
        draws: number of draws, 1000 … 10 000 000.
        seed: seed of the draws.

    Returns:
        The interval of 95 %, median, mean and standard deviation in N.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a bearing face inside the
            thread.

    Formula:
        F_k = \frac{T_k}{\frac{P}{2\pi} + \mu_{t,k} \frac{d_2}{2 \cos 30°} + \mu_{b,k} \frac{D_{Km}}{2}}

    Standing: model: torque normal, friction lognormal because it cannot be negative.

    Source: JCGM 101 (propagation of distributions).
    """
    torque_lever_mm(thread, mu_t, mu_b, Dkm_mm)
    T, spread = checks.positive("T_Nm", T_Nm), checks.within("u_T_rel", u_T_rel, 0.0, 0.3)
    a, sa = _lognormal(mu_t, checks.not_negative("u_mu_t", u_mu_t))
    b, sb = _lognormal(mu_b, checks.not_negative("u_mu_b", u_mu_b))
    r, n = checks.within("r_mu", r_mu, -1.0, 1.0), checks.count("draws", draws, 1000, 10_000_000)
    z = np.random.default_rng(checks.count("seed", seed, 0, 2**31)).standard_normal((3, n))
    other = r * z[1] + math.sqrt(1.0 - r * r) * z[2]
    lever = np.exp(a + sa * z[1]) * thread_lever_mm(thread) + np.exp(b + sb * other) * (Dkm_mm / 2.0)
    loads = 1000.0 * T * (1.0 + spread * z[0]) / (lever + pitch_lever_mm(thread))
    low, median, high = (float(q) for q in np.quantile(loads, (0.025, 0.5, 0.975)))
    return LoadInterval(low, median, high, float(loads.mean()), float(loads.std()))
