"""Elastic interaction: what tightening one stud does to its neighbours."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from jorvek.core import checks
from jorvek.core.bolting.order import checked_points
from jorvek.core.refusal import Refusal

Array = NDArray[np.float64]

_SYMMETRY: Final = 1e-6
_ZERO_SHARE: Final = 1e-12


@dataclass(frozen=True)
class Pull:
    """One step: some studs are brought to their loads together.

    Attributes:
        studs: their numbers, from 0.
        loads_N: load that each is left with, in the same order.
        freed: the nuts are taken off instead; loads are then zero and stay zero.
    """

    studs: tuple[int, ...]
    loads_N: tuple[float, ...]
    freed: bool = False


@dataclass(frozen=True)
class TensioningResult:
    """Loads after a series of steps.

    Attributes:
        final_N: load of each stud at the end.
        history_N: loads of all studs after each step.
        slack: studs that were tightened and carry nothing at the end.
    """

    final_N: tuple[float, ...]
    history_N: tuple[tuple[float, ...], ...]
    slack: tuple[int, ...]


@dataclass(frozen=True)
class EqualResidual:
    """Loads to set in the last pass so that all studs end up at their targets.

    Attributes:
        set_loads_N: load to leave in each stud when its turn comes.
        group_mean_loads_N: mean of each group, which is what one shared hose can do.
        finals_with_group_mean_N: final loads if each group is set to its mean.
        max_error_pct: largest error of those against the target in %.
        check_final_N: final loads by the full simulation of the individual set loads.
        linear_ok: no stud goes slack on the way, so that the solution holds.
        max_set_over_target: largest set load over its target.
    """

    set_loads_N: tuple[float, ...]
    group_mean_loads_N: tuple[float, ...]
    finals_with_group_mean_N: tuple[float, ...]
    max_error_pct: float
    check_final_N: tuple[float, ...]
    linear_ok: bool
    max_set_over_target: float


@dataclass(frozen=True)
class SinglePass:
    """Loads after one pass by the neighbour rule.

    Attributes:
        final_N: load of each stud.
        lost_contact: studs that carry nothing.
    """

    final_N: tuple[float, ...]
    lost_contact: tuple[int, ...]


def compliance_geom(xy: list[tuple[float, float]], delta_P: float, lam_mm: float) -> list[list[float]]:
    r"""Return the compliance matrix of a joint that falls off with distance.

    Args:
        xy: positions of the studs in mm.
        delta_P: resilience of the parts under one stud in mm/N.
        lam_mm: length in mm over which it falls off; calibrate it on one measured tightening.

    Returns:
        Joint deflection at stud i per load at stud j in mm/N, one row per stud.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without studs; ``E_DUP`` for two
            studs at one place.

    Formula:
        C_{ij} = \delta_P\, e^{-r_{ij} / \lambda}

    Standing: model; it cannot show a neighbour gaining load.

    Source: derived here; positive definite for any layout.
    """
    points = np.array(checked_points(xy), dtype=np.float64)
    stiffness, length = checks.positive("delta_P", delta_P), checks.positive("lam_mm", lam_mm)
    apart = np.linalg.norm(points[:, None, :] - points[None, :, :], axis=2)
    result: list[list[float]] = (stiffness * np.exp(-apart / length)).tolist()
    return result


def _stud_matrix(delta_S: float | list[float], C: list[list[float]]) -> tuple[Array, Array]:
    """Return (resilience of each stud, compliance matrix), checked."""
    if not isinstance(C, list | tuple) or not C:
        raise Refusal("E_LEN", name="C", got=0)
    rows = [checks.numbers("C", row) for row in C]
    n = len(rows)
    if any(len(row) != n for row in rows):
        raise Refusal("E_LEN", name="C", got=n)
    matrix = np.array(rows, dtype=np.float64)
    if float(np.abs(matrix - matrix.T).max()) > _SYMMETRY * float(np.abs(matrix).max()):
        raise Refusal("E_DATA", name="C")
    if isinstance(delta_S, list | tuple):
        own = [checks.positive("delta_S", value) for value in delta_S]
        if len(own) != n:
            raise Refusal("E_LEN", name="delta_S", got=len(own))
    else:
        own = [checks.positive("delta_S", delta_S)] * n
    studs = np.array(own, dtype=np.float64)
    if float(np.linalg.eigvalsh(matrix + np.diag(studs)).min()) <= 0.0:
        raise Refusal("E_DATA", name="C")
    return studs, matrix


def _indices(name: str, values: object, n: int) -> tuple[int, ...]:
    if not isinstance(values, list | tuple):
        raise Refusal("E_TYPE", name=name, got=str(values))
    if not values:
        raise Refusal("E_LEN", name=name, got=0)
    numbers = tuple(checks.count(name, value, 0, n - 1) for value in values)
    if len(set(numbers)) != len(numbers):
        raise Refusal("E_DUP", name=name)
    return numbers


def pull(studs: list[int], load: float | list[float], n: int, freed: bool = False) -> Pull:
    """Return a checked step.

    Args:
        studs: numbers of the studs, from 0.
        load: one load in N for all, or one for each.
        n: studs in the joint.
        freed: the nuts are taken off.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for lists of unlike length;
            ``E_DUP`` for a stud named twice.
    """
    chosen = _indices("studs", studs, n)
    if isinstance(load, list | tuple):
        loads = tuple(checks.not_negative("load", value) for value in load)
    else:
        loads = (checks.not_negative("load", load),) * len(chosen)
    if len(loads) != len(chosen):
        raise Refusal("E_LEN", name="load", got=len(loads))
    return Pull(chosen, (0.0,) * len(chosen) if freed else loads, freed)


def _settle(flexibility: Array, seat: Array) -> Array:
    """Loads F >= 0 with flexibility·F >= seat, one of both exact for each stud.

    Studs that would have to push let go; one that lets go may be needed again. Least-index
    pivoting ends for a positive definite matrix (Murty); the common case is one solve.
    """
    # Read when it is wanted: most commands reckon no group.
    from scipy.linalg import cho_factor, cho_solve  # type: ignore[import-untyped]  # the library has no types

    loads: Array = cho_solve(cho_factor(flexibility, check_finite=False), seat, check_finite=False)
    if float(loads.min()) >= 0.0:
        return loads
    carrying = np.ones(len(seat), dtype=bool)
    tolerance = _ZERO_SHARE * float(np.abs(seat).max())
    while True:
        gap = flexibility @ loads - seat
        wrong = np.flatnonzero((carrying & (loads < 0.0)) | (~carrying & (gap < -tolerance)))
        if not len(wrong):
            return loads
        carrying[wrong[0]] = not carrying[wrong[0]]
        index = np.flatnonzero(carrying)
        loads = np.zeros(len(seat))
        if len(index):
            loads[index] = np.linalg.solve(flexibility[np.ix_(index, index)], seat[index])


class _Joint:
    """Loads and nut positions of a joint while steps are done on it."""

    def __init__(self, studs: Array, matrix: Array) -> None:
        self.flexibility = matrix + np.diag(studs)
        self.seat = np.zeros(len(studs))
        self.tight = np.zeros(len(studs), dtype=bool)
        self.loads = np.zeros(len(studs))

    def do(self, step: Pull) -> None:
        """Bring the studs of a step to their loads; the other tight nuts keep their places."""
        moved = np.array(step.studs)
        held = self.tight.copy()
        held[moved] = False
        fixed = np.zeros(len(self.loads))
        fixed[moved] = step.loads_N
        rest = np.flatnonzero(held)
        self.loads = fixed
        if len(rest):
            block = self.flexibility[np.ix_(rest, rest)]
            reach = self.seat[rest] - self.flexibility[np.ix_(rest, moved)] @ fixed[moved]
            self.loads[rest] = _settle(block, reach)
        self.tight[moved] = not step.freed
        self.seat[moved] = self.flexibility[moved] @ self.loads


def simulate_tensioning(delta_S: float | list[float], C: list[list[float]], steps: list[Pull]) -> TensioningResult:
    r"""Return the loads of all studs as they are tightened or freed group by group.

    Each tight stud keeps its nut where it was left; a step brings its studs to given residual
    loads together, and every other tight stud changes load as the joint gives. No stud pushes.

    Args:
        delta_S: resilience of the studs in mm/N, one for all or one for each.
        C: compliance matrix of the joint in mm/N, symmetric.
        steps: steps in order, as ``pull`` makes them.

    Returns:
        Loads in N after each step and at the end.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for lists of unlike length;
            ``E_DUP`` for a stud named twice in a step; ``E_DATA`` for a matrix that is not
            symmetric and positive with the studs.

    Formula:
        \delta_{S,i} F_i + \sum_j C_{ij} F_j = u_i, \quad F_i \ge 0

    Standing: mechanics; the compliance is a model.

    Source: derived here (linear complementarity per step). Checked: all studs pulled together
    interact in nothing.
    """
    joint = _Joint(*_stud_matrix(delta_S, C))
    history: list[tuple[float, ...]] = []
    for step in steps:
        joint.do(step)
        history.append(tuple(float(F) for F in joint.loads))
    final = history[-1] if history else tuple(0.0 for _ in joint.loads)
    slack = tuple(int(i) for i in np.flatnonzero(joint.tight) if final[i] <= 0.0)
    return TensioningResult(final, tuple(history), slack)


def interaction_coefficients(
    delta_S: float | list[float], C: list[list[float]], tight: list[int], moved: list[int]
) -> list[list[float]]:
    r"""Return the change of load of tight studs per change of load of the studs being pulled.

    Args:
        delta_S: resilience of the studs in mm/N, one for all or one for each.
        C: compliance matrix of the joint in mm/N, symmetric.
        tight: studs that keep their nuts, from 0.
        moved: studs being pulled, from 0, none of them tight.

    Returns:
        One row per tight stud, one column per pulled stud, without unit; negative is a loss.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``; ``E_DUP`` for a stud in both
            lists; ``E_DATA`` for a bad matrix.

    Formula:
        K = -(C_{II} + \operatorname{diag} \delta_S)^{-1} C_{IJ}

    Standing: mechanics; the compliance is a model.

    Source: derived here; known as elastic interaction coefficients from gasketed joints.
    """
    studs, matrix = _stud_matrix(delta_S, C)
    n = len(studs)
    still, pulled = _indices("tight", tight, n), _indices("moved", moved, n)
    if set(still) & set(pulled):
        raise Refusal("E_DUP", name="moved")
    block = (matrix + np.diag(studs))[np.ix_(still, still)]
    result: list[list[float]] = (-np.linalg.solve(block, matrix[np.ix_(still, pulled)])).tolist()
    return result


def _targets(target_N: float | list[float], n: int) -> Array:
    if isinstance(target_N, list | tuple):
        values = [checks.positive("target_N", value) for value in target_N]
        if len(values) != n:
            raise Refusal("E_LEN", name="target_N", got=len(values))
        return np.array(values)
    return np.full(n, checks.positive("target_N", target_N))


def _partition(groups: list[list[int]], n: int) -> list[tuple[int, ...]]:
    if not isinstance(groups, list | tuple):
        raise Refusal("E_TYPE", name="final_groups", got=str(groups))
    checked = [_indices("final_groups", group, n) for group in groups]
    members = sorted(stud for group in checked for stud in group)
    if members != list(range(n)):
        raise Refusal("E_DUP", name="final_groups")
    return checked


def _affine(joint: _Joint, groups: list[tuple[int, ...]]) -> tuple[Array, Array]:
    """Final loads as b + M x of the set loads x, all studs staying tight."""
    n = len(joint.loads)
    b, M = joint.loads.copy(), np.zeros((n, n))
    tight = joint.tight.copy()
    for group in groups:
        moved = np.array(group)
        change = np.eye(n)[moved] - M[moved]
        drop = b[moved].copy()
        held = tight.copy()
        held[moved] = False
        rest = np.flatnonzero(held)
        if len(rest):
            K = -np.linalg.solve(joint.flexibility[np.ix_(rest, rest)], joint.flexibility[np.ix_(rest, moved)])
            b[rest] -= K @ drop
            M[rest] += K @ change
        b[moved], M[moved] = 0.0, np.eye(n)[moved]
        tight[moved] = True
    return b, M


def loads_for_equal_residual(
    delta_S: float | list[float],
    C: list[list[float]],
    prior_steps: list[Pull],
    final_groups: list[list[int]],
    target_N: float | list[float],
) -> EqualResidual:
    r"""Return the loads to set in the last pass so that every stud ends at its target.

    Args:
        delta_S: resilience of the studs in mm/N, one for all or one for each.
        C: compliance matrix of the joint in mm/N, symmetric.
        prior_steps: what was done before, as ``pull`` makes it.
        final_groups: groups of the last pass in order; each stud in exactly one.
        target_N: wanted load in N, one for all or one for each.

    Returns:
        Set loads, what one hose per group can do, and the check by simulation.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``; ``E_DUP`` for a stud that is
            missing or named twice; ``E_DATA`` for a bad matrix.

    Formula:
        F_{final} = b + M x, \quad x = M^{-1} (F_{target} - b)

    Standing: mechanics; the compliance is a model.

    Source: derived here. Checked by running the set loads through the simulation.
    """
    studs, matrix = _stud_matrix(delta_S, C)
    n = len(studs)
    groups, target = _partition(final_groups, n), _targets(target_N, n)
    joint = _Joint(studs, matrix)
    for step in prior_steps:
        joint.do(step)
    b, M = _affine(joint, groups)
    x = np.linalg.solve(M, target - b)
    means = np.array([float(x[list(group)].mean()) for group in groups])
    shared = np.empty(n)
    for group, mean in zip(groups, means, strict=True):
        shared[list(group)] = mean
    with_means = b + M @ shared
    smallest = float("inf")
    for group in groups:
        joint.do(Pull(group, tuple(max(0.0, float(x[i])) for i in group)))
        smallest = min(smallest, float(joint.loads[joint.tight].min()))
    good = smallest > 0.0 and bool(np.allclose(joint.loads, target, rtol=1e-6)) and bool((x > 0.0).all())
    return EqualResidual(
        set_loads_N=tuple(float(v) for v in x),
        group_mean_loads_N=tuple(float(v) for v in means),
        finals_with_group_mean_N=tuple(float(v) for v in with_means),
        max_error_pct=float(100.0 * np.max(np.abs(with_means - target) / target)),
        check_final_N=tuple(float(v) for v in joint.loads),
        linear_ok=good,
        max_set_over_target=float(np.max(x / target)),
    )


def eicm_single_pass(n: int, order: list[list[int]], loads_N: list[float], k_neighbour: list[float]) -> SinglePass:
    r"""Return the loads of a ring after one pass from loose, by a neighbour rule.

    Args:
        n: studs on the ring, 1 … 400.
        order: groups in order, studs from 0, each in exactly one.
        loads_N: load in N that each stud is set to.
        k_neighbour: change of a tight stud's load per load set in its first, second … neighbour,
            each −1 … 0.2; none beyond the list.

    Returns:
        Final loads; a stud that would have to push carries nothing.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` for too few loads; ``E_DUP`` for
            a stud that is missing or named twice.

    Formula:
        F_i = F_{set,i} + \sum_{j\ after\ i} k_{m(i,j)} F_{set,j}, \quad m = \min(|i-j|,\ n-|i-j|)

    Standing: model; holds for the first pass from loose only.

    Source: derived here after the idea of elastic interaction coefficients.
    """
    count = checks.count("n", n, 1, 400)
    loads = [checks.not_negative("loads_N", F) for F in checks.numbers("loads_N", loads_N)]
    if len(loads) != count:
        raise Refusal("E_LEN", name="loads_N", got=len(loads))
    factors = [checks.within("k_neighbour", k, -1.0, 0.2) for k in checks.numbers("k_neighbour", k_neighbour, 0)]
    groups = _partition(order, count)
    final, done = [0.0] * count, list[int]()
    for group in groups:
        for j in group:
            for i in done:
                away = min(abs(i - j), count - abs(i - j))
                if away <= len(factors):
                    final[i] += factors[away - 1] * loads[j]
            final[j] = loads[j]
        done += group
    lost = tuple(i for i, F in enumerate(final) if F <= 0.0 < loads[i])
    return SinglePass(tuple(max(0.0, F) for F in final), lost)
