"""Orders of tightening: patterns, groups, and how evenly they load a joint."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from jorvek.core import checks
from jorvek.core.refusal import Refusal

Point = tuple[float, float]
Sequence = list[int] | list[list[int]]
"""Fastener numbers from 1, one by one or in groups."""

_SAME_MM: Final = 1e-6
_SAME_DEG: Final = 1e-9


@dataclass(frozen=True)
class Imbalance:
    """Eccentricity of the clamp after each step of an order.

    Attributes:
        e: distance of the resultant from the centre over the largest radius, after each step.
        e_max: largest.
        e_mean: mean.
        adjacent: steps that go to a nearest neighbour of the fastener before.
    """

    e: tuple[float, ...]
    e_max: float
    e_mean: float
    adjacent: int


def checked_points(xy: object) -> list[Point]:
    """Return positions in mm, no two at one place.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``; ``E_LEN`` for none or more than 400, or for a position
            without two coordinates; ``E_DUP`` for two at one place.
    """
    if not isinstance(xy, list | tuple):
        raise Refusal("E_TYPE", name="xy", got=str(xy))
    if not 1 <= len(xy) <= 400:
        raise Refusal("E_LEN", name="xy", got=len(xy))
    points: list[Point] = []
    for place in xy:
        pair = checks.numbers("xy", place, 2)
        if len(pair) != 2:
            raise Refusal("E_LEN", name="xy", got=len(pair))
        points.append((pair[0], pair[1]))
    for k, p in enumerate(points):
        if any(math.dist(p, q) <= _SAME_MM for q in points[:k]):
            raise Refusal("E_DUP", name="xy")
    return points


def circle_positions(n: int, pcd_mm: float, start_deg: float = 90.0, clockwise: bool = True) -> list[Point]:
    r"""Return the positions of studs on a pitch circle.

    Args:
        n: studs, 1 … 400.
        pcd_mm: pitch circle diameter in mm.
        start_deg: angle of the first stud, counter-clockwise from +x, in degrees.
        clockwise: sense of numbering as seen.

    Returns:
        Positions (x, y) in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Formula:
        x_k = \frac{D}{2} \cos \alpha_k
        y_k = \frac{D}{2} \sin \alpha_k
        \alpha_k = \alpha_0 \mp \frac{360° k}{n}

    Standing: mechanics.

    Source: geometry.
    """
    count, radius = checks.count("n", n, 1, 400), checks.positive("pcd_mm", pcd_mm) / 2.0
    start, turn = checks.number("start_deg", start_deg), -360.0 if clockwise else 360.0
    angles = [math.radians(start + turn * k / count) for k in range(count)]
    return [(_tidy(radius * math.cos(a), radius), _tidy(radius * math.sin(a), radius)) for a in angles]


def _tidy(value: float, scale: float) -> float:
    """A coordinate that is zero but for rounding is zero."""
    return 0.0 if abs(value) < 1e-14 * scale else value


def row_layout(rows: int, cols: int, dx_mm: float, dy_mm: float) -> list[Point]:
    r"""Return the positions of a rectangular pattern, row by row from the lower left.

    Args:
        rows: rows, 1 … 50.
        cols: columns, 1 … 200.
        dx_mm: distance between columns in mm.
        dy_mm: distance between rows in mm.

    Returns:
        Positions (x, y) in mm.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``.

    Standing: mechanics.

    Source: geometry.
    """
    r, c = checks.count("rows", rows, 1, 50), checks.count("cols", cols, 1, 200)
    dx, dy = checks.positive("dx_mm", dx_mm), checks.positive("dy_mm", dy_mm)
    return [(i * dx, j * dy) for j in range(r) for i in range(c)]


def _ring_distance(a: int, b: int, ring: int) -> int:
    return min(abs(a - b), ring - abs(a - b))


def _spread_order(ring: int) -> list[int]:
    """Places of a ring, each as far as can be from all before it.

    Ties go to the one farthest from the last, then to the lowest number.
    """
    done = [0]
    nearest = [_ring_distance(k, 0, ring) for k in range(ring)]
    for _ in range(ring - 1):
        left = [k for k in range(ring) if nearest[k] > 0]
        best = max(left, key=lambda k: (nearest[k], _ring_distance(k, done[-1], ring), -k))
        done.append(best)
        nearest = [min(nearest[k], _ring_distance(k, best, ring)) for k in range(ring)]
    return done


def star_sequence(n: int) -> list[int]:
    r"""Return a cross pattern on a circle, numbers from 1 clockwise.

    Args:
        n: studs on the circle, 1 … 400.

    Returns:
        The order.

    Raises:
        Refusal: ``E_TYPE``, ``E_RANGE``.

    Standing: model; quoted patterns of 8 to 32 studs come out the same.

    Source: derived here: opposed quads (n a multiple of 4), pairs (n even) or single studs, each
    next one as far as can be from those done.
    """
    count = checks.count("n", n, 1, 400)
    jumps = [0]
    if count % 2 == 0:
        jumps.append(count // 2)
    if count % 4 == 0:
        jumps += [count // 4, 3 * count // 4]
    return [base + jump + 1 for base in _spread_order(count // len(jumps)) for jump in jumps]


def group_sequence(n: int, m: int) -> list[list[int]]:
    r"""Return the order for m tools at once, evenly spread over the circle.

    Args:
        n: studs on the circle, 1 … 400.
        m: tools, 1 … n; n must be a multiple of it.

    Returns:
        Groups of numbers from 1.

    Raises:
        Refusal: ``E_TYPE``, ``E_RANGE``; ``E_GEOM`` when n is not a multiple of m.

    Standing: model.

    Source: derived here, groups spread as in ``star_sequence``.
    """
    count, tools = checks.count("n", n, 1, 400), checks.count("m", m, 1, 400)
    if count % tools:
        raise checks.contradiction("m", tools, "n", count)
    step = count // tools
    return [[base + k * step + 1 for k in range(tools)] for base in _spread_order(step)]


def _members(seq: object) -> list[list[int]]:
    """Return an order as groups of numbers from 1, none named twice."""
    if not isinstance(seq, list | tuple):
        raise Refusal("E_TYPE", name="seq", got=str(seq))
    if not seq:
        raise Refusal("E_LEN", name="seq", got=0)
    groups = [list(part) if isinstance(part, list | tuple) else [part] for part in seq]
    if any(not group for group in groups):
        raise Refusal("E_LEN", name="seq", got=0)
    flat = [checks.count("seq", k, 1, 400) for group in groups for k in group]
    if len(set(flat)) != len(flat):
        raise Refusal("E_DUP", name="seq")
    return groups


def reverse_sequence(seq: Sequence) -> Sequence:
    r"""Return an order backwards. Whether that is the loosening order is the author's statement.

    Args:
        seq: numbers from 1, one by one or in groups; groups keep their inner order.

    Returns:
        The same, last first.

    Raises:
        Refusal: ``E_TYPE``, ``E_RANGE``; ``E_LEN`` when empty; ``E_DUP`` for a number named twice.

    Standing: mechanics.

    Source: a list backwards.
    """
    _members(seq)
    return list(reversed(seq))  # type: ignore[return-value]  # the list holds what was put in


def _centre(points: list[Point]) -> Point:
    return sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points)


def _angle_deg(p: Point, centre: Point) -> float:
    x, y = p[0] - centre[0], p[1] - centre[1]
    if math.hypot(x, y) <= _SAME_MM:
        return 0.0
    angle = math.degrees(math.atan2(y, x)) % 360.0
    return 0.0 if 360.0 - angle < _SAME_DEG else angle


def _rings(points: list[Point], centre: Point) -> list[list[int]]:
    """Numbers (from 0) by equal distance from the centre, inner ring first."""
    by_radius = sorted(range(len(points)), key=lambda k: math.dist(points[k], centre))
    rings: list[list[int]] = []
    for k in by_radius:
        radius = math.dist(points[k], centre)
        if rings and radius - math.dist(points[rings[-1][0]], centre) <= _SAME_MM:
            rings[-1].append(k)
        else:
            rings.append([k])
    return rings


def _cross_ring(ring: list[int], points: list[Point], centre: Point, last: int | None) -> list[int]:
    """Each next fastener nearest to the point opposite the last one; ties by smallest angle."""
    left, order = sorted(ring, key=lambda k: _angle_deg(points[k], centre)), list[int]()
    while left:
        if last is None:
            chosen = left[0]
        else:
            opposite = (2.0 * centre[0] - points[last][0], 2.0 * centre[1] - points[last][1])
            least = min(math.dist(points[k], opposite) for k in left)
            chosen = next(k for k in left if math.dist(points[k], opposite) - least <= _SAME_MM)
        left.remove(chosen)
        order.append(chosen)
        last = chosen
    return order


def _spiral_ring(ring: list[int], points: list[Point], centre: Point, last: int | None) -> list[int]:
    """Counter-clockwise, going on from the angle of the last fastener."""
    start = 0.0 if last is None else _angle_deg(points[last], centre)

    def ahead(k: int) -> float:
        turn = (_angle_deg(points[k], centre) - start) % 360.0
        return 0.0 if 360.0 - turn < _SAME_DEG else turn

    return sorted(ring, key=ahead)


def spiral_sequence(xy: list[Point], mode: str = "cross") -> list[int]:
    r"""Return an order from the centre outwards for any layout.

    Args:
        xy: positions in mm, 1 … 400, no two at one place.
        mode: ``cross`` (each next one opposite the last) or ``spiral`` (counter-clockwise).

    Returns:
        Numbers from 1, as in xy.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN`` without positions; ``E_DUP`` for
            two at one place; ``E_TABLE`` for another mode.

    Standing: model.

    Source: derived here, rings of equal distance from the centroid, inner ring first.
    """
    word, points = checks.choice("mode", mode, ("cross", "spiral")), checked_points(xy)
    centre, order = _centre(points), list[int]()
    along = _cross_ring if word == "cross" else _spiral_ring
    for ring in _rings(points, centre):
        order += along(ring, points, centre, order[-1] if order else None)
    return [k + 1 for k in order]


def imbalance(xy: list[Point], seq: Sequence) -> Imbalance:
    r"""Return how far the clamp is off centre after each step of an order.

    Args:
        xy: positions in mm.
        seq: every number from 1 once, one by one or in groups.

    Returns:
        Eccentricity after each step as a share of the largest radius, and neighbouring steps.

    Raises:
        Refusal: ``E_TYPE``, ``E_FINITE``, ``E_RANGE``; ``E_LEN``; ``E_DUP`` for a number that is
            missing or named twice, or for two at one place.

    Formula:
        e_k = \frac{\left| \frac{1}{k} \sum_{i \le k} r_i - \bar r \right|}{R_{max}}

    Standing: model; all fasteners done count as equally loaded.

    Source: derived here.
    """
    points, groups = checked_points(xy), _members(seq)
    if sorted(k for group in groups for k in group) != list(range(1, len(points) + 1)):
        raise Refusal("E_DUP", name="seq")
    centre = _centre(points)
    reach = max(math.dist(p, centre) for p in points)
    done: list[Point] = []
    e: list[float] = []
    for group in groups:
        done += [points[k - 1] for k in group]
        e.append(math.dist(_centre(done), centre) / reach if reach > _SAME_MM else 0.0)
    firsts = [group[0] - 1 for group in groups]
    adjacent = sum(_is_neighbour(points, a, b) for a, b in pairwise(firsts))
    return Imbalance(tuple(e), max(e), sum(e) / len(e), adjacent)


def _is_neighbour(points: list[Point], a: int, b: int) -> bool:
    nearest = min(math.dist(points[a], p) for k, p in enumerate(points) if k != a)
    return math.dist(points[a], points[b]) <= nearest + _SAME_MM
