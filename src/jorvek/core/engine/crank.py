"""Crank geometry: piston position and crank angle, and where each cylinder stands."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal

_SAME_DEG: Final = 1e-6
ROTATIONS: Final = ("clockwise", "counterclockwise")
"""Sense of turning, seen from the end from which bank A lies on the left."""


@dataclass(frozen=True)
class FiringAngles:
    """Where the cylinders of an engine fire.

    Attributes:
        cycle_deg: crank degrees of one working cycle, 360 or 720.
        angle_deg: firing angle of each cylinder in the cycle, from the first of the order.
        interval_deg: degrees from each firing to the next, in firing order.
        companions: cylinders that stand at top dead centre together, in groups.
    """

    cycle_deg: float
    angle_deg: dict[str, float]
    interval_deg: tuple[float, ...]
    companions: tuple[tuple[str, ...], ...]


def _rod(r_mm: float, l_mm: float) -> tuple[float, float]:
    r, rod = checks.positive("r_mm", r_mm), checks.positive("l_mm", l_mm)
    if rod <= r:
        raise checks.contradiction("l_mm", rod, "r_mm", r)
    return r, rod


def _displacement(r: float, rod: float, angle: float) -> float:
    # l − √(l² − r² sin²) written so that nothing cancels near top dead centre.
    drop = (r * math.sin(angle)) ** 2
    return 2.0 * r * math.sin(angle / 2.0) ** 2 + drop / (rod + math.sqrt(rod * rod - drop))


def piston_position(crank_deg: float, r_mm: float, l_mm: float) -> float:
    r"""Return how far a piston stands below top dead centre in mm.

    Args:
        crank_deg: crank angle from top dead centre in degrees.
        r_mm: crank radius in mm, half the stroke.
        l_mm: connecting-rod length in mm, above the radius.

    Returns:
        The displacement in mm, 0 … 2 r.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a rod no longer than the
            radius.

    Formula:
        s = r (1 - \cos \theta) + l - \sqrt{l^2 - r^2 \sin^2 \theta}

    Standing: mechanics.

    Source: slider–crank geometry. Checked: 0 at the top, the stroke at the bottom.
    """
    r, rod = _rod(r_mm, l_mm)
    return _displacement(r, rod, math.radians(checks.number("crank_deg", crank_deg)))


def crank_angle(s_mm: float, r_mm: float, l_mm: float) -> float:
    r"""Return the crank angle in degrees for a piston position, on the way down.

    Args:
        s_mm: displacement from top dead centre in mm, 0 … 2 r.
        r_mm: crank radius in mm.
        l_mm: connecting-rod length in mm, above the radius.

    Returns:
        The crank angle in degrees, 0 … 180; on the way up it is 360 less that.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_GEOM`` for a rod no longer than the
            radius.

    Formula:
        s(\theta) - s = 0, \quad 0 \le \theta \le \pi

    Standing: mechanics.

    Source: ``piston_position`` inverted by a bracketed root finder; the position rises steadily
    over half a turn, so there is one root.
    """
    r, rod = _rod(r_mm, l_mm)
    s = checks.within("s_mm", s_mm, 0.0, 2.0 * r)
    if s in (0.0, 2.0 * r):
        return 0.0 if s == 0.0 else 180.0
    # Read when it is wanted: it takes longer than all else that a command reads.
    from scipy.optimize import brentq  # type: ignore[import-untyped]  # the library has no types

    return math.degrees(float(brentq(lambda a: _displacement(r, rod, a) - s, 0.0, math.pi, xtol=1e-14)))


def _names(firing_order: list[str]) -> list[str]:
    if not firing_order:
        raise Refusal("E_LEN", name="firing_order", got=0)
    if len(set(firing_order)) != len(firing_order):
        raise Refusal("E_DUP", name="firing_order")
    return list(firing_order)


def _companions(angles: dict[str, float]) -> tuple[tuple[str, ...], ...]:
    groups: list[tuple[float, list[str]]] = []
    for name, angle in angles.items():
        for place, members in groups:
            turn = abs(angle - place) % 360.0
            if min(turn, 360.0 - turn) <= _SAME_DEG:
                members.append(name)
                break
        else:
            groups.append((angle, [name]))
    return tuple(tuple(members) for _, members in groups if len(members) > 1)


def _described(order: list[str], angles: dict[str, float], cycle: float) -> FiringAngles:
    rows = [angles[name] for name in order]
    gaps = tuple((b - a) % cycle or cycle for a, b in zip(rows, rows[1:] + rows[:1], strict=True))
    return FiringAngles(cycle, {name: angles[name] for name in order}, gaps, _companions(angles))


def _cycle(strokes: int) -> float:
    if checks.count("strokes", strokes, 2, 4) == 3:
        raise Refusal("E_RANGE", name="strokes", got=3, low=2, high=4)
    return 180.0 * strokes


def firing_angles(firing_order: list[str], strokes: int) -> FiringAngles:
    r"""Return where each cylinder of an evenly firing engine stands.

    Args:
        firing_order: cylinder names in firing order.
        strokes: 2 or 4.

    Returns:
        Firing angles, intervals, and companions that share a crank position.

    Raises:
        Refusal: ``E_TYPE``, ``E_RANGE``; ``E_LEN`` for an empty order; ``E_DUP`` for a cylinder
            named twice.

    Formula:
        \theta_k = k \cdot \frac{180°\, z}{n}

    Standing: mechanics.

    Source: even firing.
    """
    order, cycle = _names(firing_order), _cycle(strokes)
    return _described(order, {name: cycle * k / len(order) for k, name in enumerate(order)}, cycle)


def vee_firing_angles(
    firing_order: list[str], strokes: int, bank_angle_deg: float, rotation: str = "clockwise"
) -> FiringAngles:
    r"""Return where each cylinder of a vee with shared crankpins stands.

    Names are a bank letter, A or B, and a number; A3 and B3 share a pin. The pins are evenly
    spread; the second bank meets a pin one bank angle after the first (before it when turning
    the other way), in this turn or, with four strokes, the next: the firing order tells which.

    Args:
        firing_order: cylinder names in firing order, beginning with bank A.
        strokes: 2 or 4.
        bank_angle_deg: angle between the banks in degrees, above 0 and at most 180.
        rotation: ``clockwise`` or ``counterclockwise``, seen with bank A on the left.

    Returns:
        Firing angles, intervals, and companions that share a crank position.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``, ``E_DUP``, ``E_TABLE`` for
            names or a sense of turning that do not fit; ``pins_at_odds`` naming the pair when bank
            angle and firing order contradict each other.

    Formula:
        \theta_{B,i} = \theta_{A,i} \pm \beta + 360° m, \quad m \in \{0, 1\}

    Standing: mechanics.

    Source: derived here.
    """
    order, cycle = _names(firing_order), _cycle(strokes)
    bank = checks.positive("bank_angle_deg", bank_angle_deg, 180.0)
    sign = 1.0 if checks.choice("rotation", rotation, ROTATIONS) == "clockwise" else -1.0
    first = [name for name in order if name.startswith("A")]
    if {f"B{name[1:]}" for name in first} != set(order) - set(first) or order[0] not in first:
        raise Refusal("E_TABLE", name="firing_order", got=", ".join(order), allowed="A1 … An, B1 … Bn")
    angles = {name: cycle * k / len(first) for k, name in enumerate(first)}
    for name in set(order) - set(first):
        angles[name] = _second_bank(name, order, angles, sign * bank, cycle)
    if sorted(order, key=lambda name: angles[name]) != order:
        at_odds = next(b for a, b in pairwise(order) if angles[b] < angles[a])
        raise _at_odds(at_odds)
    return _described(order, angles, cycle)


def _second_bank(name: str, order: list[str], angles: dict[str, float], offset: float, cycle: float) -> float:
    """Firing angle of a cylinder in bank B: the turn in which it fits between its neighbours in A."""
    place = order.index(name)
    before = next(angles[order[k]] for k in range(place - 1, -1, -1) if order[k].startswith("A"))
    after = next((angles[other] for other in order[place:] if other.startswith("A")), cycle)
    for turn in (0.0, 360.0):
        angle = (angles[f"A{name[1:]}"] + offset + turn) % cycle
        if before - _SAME_DEG <= angle <= after + _SAME_DEG:
            return angle
    raise _at_odds(name)


def _at_odds(name: str) -> Refusal:
    """Name the two cylinders of a pin that bank angle and firing order do not allow together."""
    pair = f"A{name[1:]}", f"B{name[1:]}"
    return Refusal("pins_at_odds", first=pair[0], second=pair[1])
