"""No state of any shipped procedure is without a way on, and what the Bench offers is taken."""

from __future__ import annotations

import pytest

from tests.core.test_every_kind_of_run import WAYS
from tests.core.walk_of_states import Walker

MOVES = 110
"""What the daily tests walk of each procedure; ``./jorvek bench walk`` goes on for an hour."""


@pytest.mark.parametrize(("name", "way"), WAYS, ids=[f"{n}-{'-'.join(w.values())}" for n, w in WAYS])
def test_whatever_is_done_there_is_a_way_on_and_what_is_offered_is_taken(name: str, way: dict[str, str]) -> None:
    walker = Walker(name, way, seed=sum(map(ord, name)))
    for _ in range(MOVES):
        if not walker.step():
            break
    assert len(walker.seen) > 10
