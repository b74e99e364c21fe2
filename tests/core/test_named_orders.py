"""Orders made by rule: whatever the joint looks like, each fastener stands in them once and where the rule says."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.procedure.fasteners import FastenerGroup, Position
from jorvek.core.procedure.orders import Made, Order, OrderBook, Place, make
from jorvek.core.refusal import Refusal
from tests.core.paper_run import shipped

GROUP = shipped("corvane-v10-head-tighten").fasteners[0]
CIRCLES = ("cross", "centre_out", "spiral", "along_rows", "centre_row_first", "alternating_sides")


def position(name: str, x_mm: float, y_mm: float, side: str | None = None) -> Position:
    said = {"name": name, "x": f"{x_mm:.3f} mm", "y": f"{y_mm:.3f} mm"}
    return Position.model_validate(said | ({"side": side} if side else {}))


def circle(n: int) -> list[Position]:
    turns = [2 * math.pi * k / n for k in range(n)]
    return [position(str(k + 1), 300 * math.cos(a), 300 * math.sin(a)) for k, a in enumerate(turns)]


def rows(along: int, across: int) -> list[Position]:
    """Fasteners in rows along an engine, named by row and place."""
    return [position(f"{r}x{c}", 120.0 * c, 90.0 * r) for r in range(across) for c in range(along)]


def book(positions: list[Position], **orders: Order) -> OrderBook:
    group: FastenerGroup = GROUP.model_copy(update={"id": "all", "positions": tuple(positions)})
    return OrderBook([group], orders)


def made(rule: str, positions: list[Position], count: int | None = None) -> tuple[Place, ...]:
    return make(Made.model_validate({"rule": rule, "group": "all", "count": count}), book(positions))


def flat(sequence: tuple[Place, ...]) -> list[str]:
    return list(Order(sequence=sequence).names())


@pytest.mark.parametrize("rule", CIRCLES)
@given(st.integers(4, 32), st.integers(2, 9), st.integers(1, 5))
def test_every_rule_names_every_fastener_once_on_circles_and_in_rows(
    rule: str, n: int, along: int, across: int
) -> None:
    for positions in (circle(n), rows(along, across)):
        if rule == "cross" and len(positions) < 3:
            continue
        assert sorted(flat(made(rule, positions))) == sorted(p.name for p in positions)


@given(st.integers(1, 8), st.integers(1, 6))
def test_tools_that_go_round_together_stand_evenly_on_the_circle(groups: int, tools: int) -> None:
    n = groups * tools
    if n < 2:
        return
    places = made("spread_groups", circle(n), tools)
    assert len(places) == groups
    for place in places:
        numbers = sorted(int(name) for name in place)
        assert {b - a for a, b in pairwise(numbers)} <= {groups}
        assert len(numbers) == tools


@given(st.integers(2, 9), st.integers(1, 6))
def test_rows_near_the_middle_line_come_first_and_each_from_its_centre(along: int, across: int) -> None:
    positions = rows(along, across)
    at = {p.name: (p.x.value, p.y.value) for p in positions}
    order = flat(made("centre_row_first", positions))
    off_middle = [abs(at[name][1] - 90.0 * (across - 1) / 2) for name in order]
    assert off_middle == sorted(off_middle)
    for distance in set(off_middle):
        band = [at[n][0] for n, d in zip(order, off_middle, strict=True) if d == distance]
        from_centre = [abs(x - 120.0 * (along - 1) / 2) for x in band]
        assert from_centre == sorted(from_centre)
    lines = flat(made("along_rows", positions))
    assert lines == [f"{r}x{c}" for r in range(across) for c in range(along)]


@given(st.lists(st.booleans(), min_size=1, max_size=24))
def test_sides_alternate_as_long_as_both_have_any_left(banks: list[bool]) -> None:
    positions = [position(str(k), 10.0 * k, 0.0, "bank-a" if a else "bank-b") for k, a in enumerate(banks)]
    side = {p.name: p.side for p in positions}
    sides = [side[name] for name in flat(made("alternating_sides", positions))]
    shared = 2 * min(banks.count(True), banks.count(False))
    assert all(a != b for a, b in pairwise(sides[:shared]))
    assert len(set(sides[shared:])) <= 1


@given(st.permutations([str(k) for k in range(1, 13)]), st.integers(1, 12))
def test_orders_made_from_an_order_keep_what_they_are_made_from(names: list[str], k: int) -> None:
    whole = Order(sequence=tuple(names))
    few = [position(n, 1.0, 1.0) for n in names if int(n) <= k]
    known = book(few, whole=whole)
    back = Made(rule="reverse_of", of="whole")
    turned = make(back, known)
    assert flat(turned) == names[::-1]
    assert make(back, book(few, whole=Order(sequence=turned))) == whole.sequence
    assert flat(make(Made(rule="first_of", of="whole", count=k), known)) == names[:k]
    assert flat(make(Made(rule="only_group", of="whole", group="all"), known)) == [n for n in names if int(n) <= k]


def test_what_stands_together_stays_together_backwards() -> None:
    pairs = Order(sequence=(("1", "3"), ("2", "4"), "5"))
    assert make(Made(rule="reverse_of", of="whole"), book(circle(5), whole=pairs)) == ("5", ("2", "4"), ("1", "3"))


@pytest.mark.parametrize(
    ("said", "code"),
    [
        ({"rule": "cross", "group": "nobody"}, "order_rule_group"),
        ({"rule": "cross"}, "order_rule_group"),
        ({"rule": "reverse_of", "of": "nothing"}, "order_rule_source"),
        ({"rule": "only_group", "group": "all"}, "order_rule_source"),
        ({"rule": "first_of", "of": "whole"}, "order_rule_count"),
        ({"rule": "first_of", "of": "whole", "count": 0}, "order_rule_count"),
        ({"rule": "spread_groups", "group": "all"}, "order_rule_count"),
        ({"rule": "spread_groups", "group": "all", "count": 5}, "E_GEOM"),
    ],
)
def test_a_rule_that_makes_nothing_says_what_it_lacks(said: dict[str, object], code: str) -> None:
    whole = Order(sequence=("1", "2"))
    with pytest.raises(Refusal) as refused:
        make(Made.model_validate(said), book(circle(8), whole=whole))
    assert refused.value.code == code
