"""A plan that lives: followed to the minute while nothing changes, pushed by what does, with a reason and a name."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from jorvek.core.plan.check import broken
from jorvek.core.plan.crew import Timed
from jorvek.core.plan.follow import follow
from jorvek.core.plan.people import named
from jorvek.core.plan.pins import demand_pins_hold
from jorvek.core.plan.problem import Away, Held, PieceOfWork, Problem
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.core.plan.why import reasons
from jorvek.core.refusal import Refusal
from jorvek.planning.solve import plan
from tests.core.test_plans import as_an_overhaul, asked, problems
from tests.core.whole_engine import complete


@st.composite
def lived(draw: st.DrawFn) -> Problem:
    """A problem as overhauls ask it, with holds of the crank and something that is away for a while."""
    problem = as_an_overhaul(draw(problems()))
    # Of what takes no time nobody can say what comes first.
    whole = tuple(p.model_copy(update={"minutes": max(1, p.minutes)}) for p in problem.work)
    # What is open is shut after it was opened.
    shuts = {span.to: span.from_ for span in problem.open_spans}
    whole = tuple(p.model_copy(update={"after": (*p.after, shuts[p.id])}) if p.id in shuts else p for p in whole)
    problem = problem.model_copy(update={"work": whole})
    still = [p.id for p in problem.work if not p.turns]
    holds: tuple[Held, ...] = ()
    for one, other in pairwise(still):
        mine, theirs = (next(p for p in problem.work if p.id == n) for n in (one, other))
        if mine.crank == theirs.crank and draw(st.booleans()):
            between = (one, *(("inched",) if draw(st.booleans()) else ()), other)
            work = tuple(p.model_copy(update={"after": between[-2:-1]}) if p.id == other else p for p in problem.work)
            if len(between) > 2:
                # What stands in the sweep keeps everybody from turning the crank but whoever put it there.
                work = (*work, PieceOfWork(id="inched", crank=None, after=(one,), minutes=30, turns=True))
            problem = problem.model_copy(update={"work": work, "never_open_together": ()})
            holds = tuple(Held.model_validate({"from": a, "to": b}) for a, b in pairwise(between))
            break
    start = draw(st.integers(0, 3000))
    what = draw(st.sampled_from(["hands", "set"]))
    away = (Away(what=what, from_min=start, to_min=start + draw(st.integers(1, 2000)), count=1),)
    return problem.model_copy(update={"holds": holds, "away": away if draw(st.booleans()) else ()})


def quick(problem: Problem) -> Timed:
    try:
        return by_tail(problem)
    except Refusal as refusal:
        assert refusal.code == "plan_never_ends"
        assume(False)
        raise


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(lived())
def test_rules_and_followers_hold_who_is_away_and_where_the_crank_is_held(problem: Problem) -> None:
    made = quick(problem)
    assert not list(broken(problem, made))
    tight = follow(problem, made.placed, made.moves)
    assert not list(broken(problem, tight))
    assert tight.finish_min <= made.finish_min, "nothing waits for nothing"
    assert follow(problem, tight.placed, tight.moves) == tight, "followed to the minute while nothing changes"


@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(lived())
def test_every_piece_stands_where_it_does_for_a_reason(problem: Problem) -> None:
    """Whatever stands a minute sooner breaks something; and what it breaks is what is told."""
    made = quick(problem)
    laid = follow(problem, made.placed, made.moves)
    told = reasons(problem, laid)
    for one in laid.placed:
        sooner = one.model_copy(update={"start_min": one.start_min - 1, "end_min": one.end_min - 1})
        moved = Timed(tuple(sooner if p.id == one.id else p for p in laid.placed), laid.moves, laid.at)
        minutes = next(p.minutes for p in problem.work if p.id == one.id)
        if minutes:
            assert list(broken(problem, moved)), f"{one.id} could start sooner"
            assert told[one.id].code != "none", one


@settings(max_examples=100, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(lived(), st.data())
def test_what_takes_longer_pushes_what_hangs_on_it_and_nothing_before(problem: Problem, data: st.DataObject) -> None:
    laid = follow(problem, quick(problem).placed)
    slow = data.draw(st.sampled_from(laid.placed))
    longer = next(p.minutes for p in problem.work if p.id == slow.id) + data.draw(st.integers(1, 90))
    assume(longer <= 400)
    work = tuple(p.model_copy(update={"minutes": longer}) if p.id == slow.id else p for p in problem.work)
    later = problem.model_copy(update={"work": work})
    pushed = follow(later, laid.placed, laid.moves)
    assert not list(broken(later, pushed))
    # Whoever is over before it begins hears nothing of it.
    before = {p.id: p for p in laid.placed if p.end_min <= slow.start_min and p.start_min < slow.start_min}
    assert {p.id: p for p in pushed.placed if p.id in before} == before


@settings(max_examples=100, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(lived())
def test_nobody_is_in_two_places_and_as_many_come_as_are_wanted(problem: Problem) -> None:
    laid = follow(problem, quick(problem).placed)
    who, moves = named(problem, laid, lambda name: name)
    spans = [(p.start_min, p.end_min, who[p.id]) for p in laid.placed]
    spans += [(m.start_min, m.end_min, moves[k]) for k, m in enumerate(laid.moves)]
    for piece in problem.work:
        # Somebody who is away is not there to be named; how many are is held by the plan.
        if not problem.away:
            assert len(who[piece.id]) == piece.hands
    for k, (start, end, mine) in enumerate(spans):
        for other_start, other_end, theirs in spans[k + 1 :]:
            assert not (start < other_end and other_start < end and set(mine) & set(theirs))


def test_the_same_people_stay_with_a_job() -> None:
    work = [
        {"id": f"{job} {k}", "minutes": 60, "after": [f"{job} {k - 1}"] if k else []}
        for job in ("a", "b") for k in range(4)
    ]  # fmt: skip
    problem = asked(work=work, hands=2)
    laid = follow(problem, by_tail(problem).placed)
    who, _ = named(problem, laid, lambda name: name[0])
    assert len({who[f"a {k}"] for k in range(4)}) == 1
    assert {who["a 0"], who["b 0"]} == {(0,), (1,)}


# ---- least barring, for whole engines --------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["unit-5", "tender"])
def test_with_the_least_turning_first_the_crank_is_turned_less_and_the_engine_is_done_later(name: str) -> None:
    problem = complete(name)[3]
    turned = plan(problem, "least_barring", seconds=2.0)
    soon = by_tail(problem)
    assert not list(broken(problem, turned))
    assert turned.barring_deg < soon.barring_deg
    assert turned.bound <= turned.barring_deg
    assert turned.bound >= 360 * 0.9, "a bound that says something"
    assert 0.0 <= turned.gap < 0.6


def test_two_phases_at_one_angle_keep_the_crank_between_them() -> None:
    """Rod and piston: the pin was set and proved for both; barred away between, it would be set and proved again."""
    work: list[dict[str, Any]] = [
        {"id": "rod 1", "crank": [[180, 190]], "minutes": 60, "hands": 2},
        {"id": "rod 2", "crank": [[180, 190]], "minutes": 60, "after": ["rod 1"], "wait_after": {"rod 1": 120}},
        {"id": "head 1", "crank": [[0, 10]], "minutes": 30},
    ]
    usual = {"work": work, "shift": (360, 1320), "not_before_min": 360, "start_deg": 180}
    free = by_tail(asked(**usual))
    held = asked(**usual, holds=[{"from": "rod 1", "to": "rod 2"}])
    assert len(free.moves) == 2, "barred away while it waits, and back"
    kept = by_tail(held)
    assert len(kept.moves) == 1
    assert list(broken(held, free))
    assert not list(broken(held, kept))


# ---- what people put in its place ------------------------------------------------------------------------------------


def pinned(**pins: int) -> Problem:
    work: list[dict[str, Any]] = [
        {"id": "head", "crank": [[0, 10]], "minutes": 60, "hands": 2, "uses": {"set": 1}},
        {"id": "rod", "crank": [[180, 190]], "minutes": 60, "hands": 2, "uses": {"set": 1}},
        {"id": "liner", "minutes": 60, "hands": 2, "after": ["head"]},
        {"id": "clean", "minutes": 30},
    ]
    for piece in work:
        piece["pinned_min"] = pins.get(piece["id"])
    return asked(work=work, sets={"set": 1}, shift=(360, 1320), not_before_min=360, move_hands=1, moves_in_shift=True)


@pytest.mark.parametrize(
    "pins",
    [{"rod": 360 + 40}, {"rod": 600}, {"liner": 420}, {"liner": 700, "rod": 500}, {"clean": 1290}, {"head": 1800}],
)
def test_what_a_person_put_there_stays_there(pins: dict[str, int]) -> None:
    problem = pinned(**pins)
    demand_pins_hold(problem)
    for made in (by_tail(problem), plan(problem, seconds=1.0), follow(problem, by_tail(problem).placed)):
        assert not list(broken(problem, made))
        at = {one.id: one.start_min for one in made.placed}
        assert {name: at[name] for name in pins} == pins


@pytest.mark.parametrize(
    ("pins", "code"),
    [
        ({"clean": 300}, "plan_pin_past"),
        ({"clean": 1291}, "plan_pin_shift"),
        ({"liner": 419}, "plan_pins_chain"),
        ({"head": 600, "liner": 659}, "plan_pins_chain"),
        ({"head": 600, "rod": 659}, "plan_pins_share"),
        ({"head": 600, "rod": 660 + 38}, "plan_pins_crank"),
    ],
)
def test_the_fewest_that_cannot_all_hold_are_named(pins: dict[str, int], code: str) -> None:
    problem = pinned(**pins)
    with pytest.raises(Refusal) as refused:
        demand_pins_hold(problem)
    assert refused.value.code == code
    told = {str(value) for value in refused.value.params.values()}
    assert set(pins) <= told | {"clean"} if code != "plan_pins_chain" else "liner" in told
    # Without any one of those that are named nothing is proven any more.
    for name in pins:
        rest = {other: at for other, at in pins.items() if other != name}
        demand_pins_hold(pinned(**rest))


def test_a_pin_at_the_very_limit_is_held() -> None:
    for pins in ({"liner": 420}, {"head": 600, "rod": 660 + 39}, {"clean": 1290}):
        demand_pins_hold(pinned(**pins))


def test_away_where_it_is_pinned_is_told() -> None:
    problem = pinned(head=600).model_copy(
        update={"away": (Away(what="set", from_min=640, to_min=700), Away(what="hands", from_min=0, to_min=5))}
    )
    with pytest.raises(Refusal) as refused:
        demand_pins_hold(problem)
    assert (refused.value.code, refused.value.params["what"]) == ("plan_pin_away", "set")


def test_work_waits_until_whoever_is_away_comes_back() -> None:
    problem = asked(hands=1, away=[{"what": "hands", "from_min": 0, "to_min": 5000}], shift=(360, 1320))
    made = first_come(problem)
    assert made.placed[0].start_min >= 5000
    assert follow(problem, made.placed).placed[0].start_min == 5000, "the crank was turned before"
