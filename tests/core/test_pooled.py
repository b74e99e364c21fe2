"""One stud that has lost a tenth, told from its neighbours by what joints like it have shown before."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.measuring.pooled import FEWEST_FREE, StandsOut, stands_out
from jorvek.core.refusal import Refusal

STEP = 20.0 / 1000.0


def released(chance: random.Random, n: int, scatter: float, relaxed: float = 0.0) -> list[float]:
    """Release pressures of a joint in the middle of their steps; the first stud has relaxed."""
    true = [1000.0 * chance.gauss(1.0, scatter) * (1.0 - relaxed if k == 0 else 1.0) for k in range(n)]
    return [20.0 * (bar // 20.0) + 10.0 for bar in true]


def rate(n: int, scatter: float, relaxed: float, before: int, tries: int = 400) -> tuple[float, float]:
    """Return how often the relaxed stud is named, and how often a joint names a sound one."""
    chance, found, wrong = random.Random(5), 0, 0
    for _ in range(tries):
        earlier = [released(chance, n, scatter) for _ in range(before)]
        told = stands_out(released(chance, n, scatter, relaxed), earlier, STEP)
        found += told.sides[0] == "low"
        wrong += any(told.sides[1:]) if relaxed else any(told.sides)
    return found / tries, wrong / tries


@pytest.mark.parametrize(("n", "before"), [(8, 4), (4, 12), (12, 3)])
def test_a_stud_that_lost_a_tenth_is_found_where_there_is_enough_to_pool(n: int, before: int) -> None:
    found, _ = rate(n, 0.02, 0.10, before)
    assert found >= 0.8
    _, alarms = rate(n, 0.02, 0.0, before)
    assert alarms <= 0.03, "2 % are allowed, and 400 tries scatter"


def test_where_there_is_nothing_to_pool_it_says_too_few() -> None:
    assert stands_out([1000.0, 990.0, 1010.0, 900.0]) == StandsOut(False, (None,) * 4, None)
    assert stands_out([]).told
    assert not stands_out([900.0, 1000.0], [[1000.0, 1010.0]] * 20).told, "two have no like to be held against"


@pytest.mark.parametrize(("earlier", "told"), [(3, False), (4, True)])
def test_six_degrees_of_freedom_are_enough_and_five_are_not(earlier: int, told: bool) -> None:
    """Four studs leave two others with one between them ... each earlier pair brings one more."""
    pairs = [[1000.0, 1010.0]] * earlier
    assert stands_out([1000.0, 1005.0, 995.0, 1002.0], pairs).told is told
    assert FEWEST_FREE == 2 + 4


def test_the_one_that_is_off_does_not_widen_its_own_limit() -> None:
    calm = [[1000.0, 1004.0, 996.0, 1001.0]] * 3
    told = stands_out([400.0, 1000.0, 1003.0, 998.0], calm, STEP)
    assert told.sides[0] == "low"


@given(st.lists(st.floats(100.0, 2000.0), min_size=3, max_size=12), st.floats(0.5, 20.0))
def test_the_unit_does_not_matter(values: list[float], unit: float) -> None:
    earlier = [[1000.0, 1010.0, 990.0, 1005.0]] * 4
    plain = stands_out(values, earlier, 0.02)
    scaled = stands_out([v * unit for v in values], [[v * 3.0 for v in one] for one in earlier], 0.02)
    assert plain.told == scaled.told
    assert sum(side is not None for side in plain.sides) == pytest.approx(
        sum(side is not None for side in scaled.sides), abs=1
    )


def test_a_pressure_of_nothing_is_refused() -> None:
    with pytest.raises(Refusal):
        stands_out([0.0, 1.0, 2.0])
