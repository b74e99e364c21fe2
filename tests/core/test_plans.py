"""Plans: proven answers, what every plan has to hold, bounds that hold, and problems that contradict themselves."""

from __future__ import annotations

import json
from itertools import pairwise, permutations, product
from pathlib import Path
from typing import Any, get_args

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from jorvek.casebook.plans import BadPlanFileError, plan_cases, planned_text, solve_case
from jorvek.core.plan.bounds import bounds, on_the_clock
from jorvek.core.plan.check import broken
from jorvek.core.plan.least_turning import least_turning
from jorvek.core.plan.problem import Problem, demand_sound
from jorvek.core.plan.result import Aim, Plan
from jorvek.core.plan.rule import by_tail, first_come
from jorvek.core.plan.turning import Circle
from jorvek.core.refusal import Refusal
from jorvek.planning.solve import plan

CASES = Path(__file__).parent / "cases"
KNOWN = [case for name in ("least-barring", "earliest-finish") for case in plan_cases(CASES / f"{name}.json")]
LONG_S = 1200.0
"""A problem of this size takes seconds; a machine that is ten times as busy has its time, too."""


@pytest.mark.parametrize("case", KNOWN, ids=lambda case: str(case["name"]))
def test_every_proven_answer_comes_out_exactly(case: dict[str, Any]) -> None:
    assert solve_case(case, case["name"], LONG_S).wrong is None


def asked(**changes: Any) -> Problem:
    usual: dict[str, Any] = {
        "cycle_deg": 720,
        "direction": "both",
        "start_deg": 0,
        "deg_per_minute": 6,
        "minutes_per_move": 10,
        "hands": 4,
        "work": [{"id": "head", "crank": [[90, 100]], "minutes": 60}],
    }
    return Problem.model_validate({**usual, **changes})


# ---- what every plan holds -------------------------------------------------------------------------------------------


def pieces() -> st.SearchStrategy[list[dict[str, Any]]]:
    angle = st.integers(0, 11).map(lambda k: k * 30)
    interval = st.tuples(angle, st.sampled_from([0, 10, 60])).map(lambda t: (t[0], t[0] + t[1]))
    one = st.fixed_dictionaries(
        {
            "crank": st.none() | st.lists(interval, min_size=1, max_size=2),
            "minutes": st.integers(0, 90),
            "hands": st.integers(0, 2),
            "uses": st.just({}) | st.just({"set": 1}),
            "turns": st.just(False),
        }
    )
    return st.lists(one, min_size=1, max_size=5)


@st.composite
def problems(draw: st.DrawFn) -> Problem:
    work = draw(pieces())
    for k, piece in enumerate(work):
        piece["id"] = f"w{k}"
        piece["after"] = draw(st.lists(st.sampled_from([f"w{j}" for j in range(k)]), max_size=1)) if k else []
        if k and draw(st.booleans()):
            piece["wait_after"] = {f"w{draw(st.integers(0, k - 1))}": draw(st.integers(0, 120))}
    spans = [{"id": f"s{j}", "from": f"w{j}", "to": f"w{j + 1}"} for j in range(0, len(work) - 1, 2)]
    return asked(
        work=work,
        cycle_deg=draw(st.sampled_from([360, 720])),
        direction=draw(st.sampled_from(["both", "forward"])),
        hands=draw(st.integers(2, 3)),
        sets={"set": 1},
        shift=draw(st.none() | st.just((420, 900))),
        open_spans=spans,
        never_open_together=[("s0", "s2"), ("s0", "not there")],
    )


def as_an_overhaul(problem: Problem) -> Problem:
    """The same as overhauls ask: moves in the shift, by their commander, and pieces that turn the crank themselves."""
    work = tuple(
        piece.model_copy(update={"turns": True, "crank": None}) if k % 3 == 2 else piece
        for k, piece in enumerate(problem.work)
    )
    shift = problem.shift or (360, 1320)
    return problem.model_copy(
        update={"work": work, "shift": shift, "move_hands": 1, "moves_in_shift": True, "not_before_min": 500}
    )


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(problems(), st.sampled_from(get_args(Aim)))
def test_a_plan_of_an_overhaul_holds_its_moves_too(problem: Problem, aim: Aim) -> None:
    asked_for = as_an_overhaul(problem)
    try:
        found = plan(asked_for, aim, seconds=0.5)
    except Refusal as refusal:
        assert refusal.code == "plan_never_ends"
        assume(False)
    assert not list(broken(asked_for, found))
    for part in bounds(asked_for, aim):
        assert part.value <= found.reached + 1e-6, part


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(problems())
def test_the_rule_and_the_solver_hold_every_demand_and_no_bound_is_above_the_best(problem: Problem) -> None:
    try:
        quick = [rule(problem) for rule in (by_tail, first_come)]
    except Refusal as refusal:
        # Spans of a random problem may wait for each other; then nothing can be planned at all.
        assert refusal.code == "plan_never_ends"
        assume(False)
    for one in quick:
        assert not list(broken(problem, one))
    best = plan(problem, seconds=LONG_S)
    assert not list(broken(problem, best))
    assert best.proven
    assert best.finish_min <= min(one.finish_min for one in quick)
    for part in bounds(problem, "earliest_finish"):
        assert part.value <= best.finish_min, part


@settings(max_examples=80, deadline=None)
@given(problems())
def test_the_least_turning_is_that_of_the_best_of_all_orders(problem: Problem) -> None:
    plain = problem.model_copy(update={"shift": None})
    found = least_turning(plain)
    every = list(of_all_orders(plain))
    if not every:
        assert found.order is None
    else:
        assert found.bound_deg == pytest.approx(min(every))


def of_all_orders(problem: Problem) -> Any:
    """The turning of every order that is allowed, at every choice of angles: slow, and plainly right."""
    circle = Circle(problem)
    spans = {span.id: (span.from_, span.to) for span in problem.open_spans}
    for order in permutations(problem.work):
        place = {piece.id: k for k, piece in enumerate(order)}
        if any(place[n] > place[p.id] for p in order for n in (*p.after, *p.wait_after)):
            continue
        pairs = [(spans[a], spans[b]) for a, b in problem.never_open_together if a in spans and b in spans]
        if any(place[a[0]] < place[b[1]] and place[b[0]] < place[a[1]] for a, b in pairs):
            continue
        choices = [circle.allowed(piece) for piece in order if piece.crank is not None]
        for points in product(*choices):
            way = (circle.start, *points)
            yield sum(circle.turning_deg(a, b) for a, b in pairwise(way))


def test_a_plan_that_was_tampered_with_does_not_pass() -> None:
    problem = asked(
        work=[
            {"id": "head", "crank": [[90, 100]], "minutes": 60, "hands": 2, "uses": {"set": 1}},
            {"id": "rod", "crank": [[300, 310]], "minutes": 30, "hands": 2, "after": ["head"], "uses": {"set": 1}},
            {"id": "lift", "minutes": 20, "hands": 3, "wait_after": {"head": 5}},
        ],
        sets={"set": 1},
        shift=[420, 900],
        open_spans=[{"id": "a", "from": "head", "to": "head"}, {"id": "b", "from": "rod", "to": "rod"}],
        never_open_together=[["a", "b"]],
    )
    best = plan(problem)
    by_name = {one.id: one for one in best.placed}

    def moved(name: str, **to: Any) -> list[str]:
        changed = {**by_name, name: by_name[name].model_copy(update=to)}
        return list(broken(problem, best.model_copy(update={"placed": tuple(changed.values())})))

    start = by_name["rod"].start_min
    assert not list(broken(problem, best))
    assert moved("rod", start_min=start - 90, end_min=start - 60), "before its head, its move and its neighbour"
    assert moved("rod", end_min=start + 29), "too short"
    assert moved("rod", angle_deg=90.0), "at another angle"
    assert moved("lift", start_min=by_name["head"].end_min + 4, end_min=by_name["head"].end_min + 24), "too soon"
    assert moved("lift", start_min=start, end_min=start + 20), "five hands of four"
    assert moved("head", start_min=100, end_min=160), "at night"
    assert list(broken(problem, best.model_copy(update={"placed": best.placed[:2]}))), "one is missing"


# ---- the circle and the clock ----------------------------------------------------------------------------------------


def test_an_interval_may_wrap_be_a_point_or_the_whole_circle() -> None:
    work = [
        {"id": "wraps", "crank": [[710, 730]]},
        {"id": "back", "crank": [[350, 10]]},
        {"id": "point", "crank": [[180, 180]]},
        {"id": "whole", "crank": [[5, 725]]},
    ]
    circle = Circle(asked(work=work))
    at = {p.id: {circle.points_deg[k] for k in circle.allowed(p)} for p in circle.problem.work}
    assert at["wraps"] == {710.0, 0.0, 5.0, 10.0}
    assert at["back"] == {350.0, 710.0, 0.0, 5.0, 10.0}
    assert at["point"] == {180.0}
    assert at["whole"] == set(circle.points_deg)


@pytest.mark.parametrize(
    ("direction", "one", "other", "minutes"),
    [("both", 0, 700, 14), ("forward", 0, 700, 127), ("both", 0, 0, 0), ("both", 0, 361, 70), ("forward", 700, 0, 14)],
)
def test_a_move_takes_its_preparation_and_its_turning_in_whole_minutes(
    direction: str, one: int, other: int, minutes: int
) -> None:
    circle = Circle(asked(direction=direction, start_deg=one, work=[{"id": "w", "crank": [[other, other]]}]))
    assert circle.move_min(circle.nearest(one), circle.nearest(other)) == minutes


@pytest.mark.parametrize(("minutes", "over"), [(0, 420), (1, 421), (480, 900), (481, 1861), (960, 2340)])
def test_work_is_over_at_the_earliest_by_the_shifts(minutes: int, over: int) -> None:
    assert on_the_clock(asked(shift=[420, 900]), minutes) == over


@pytest.mark.parametrize(("minutes", "over"), [(0, 800), (100, 900), (101, 1861), (580, 2340), (581, 3301)])
def test_what_is_over_of_today_is_over(minutes: int, over: int) -> None:
    assert on_the_clock(asked(shift=[420, 900], not_before_min=800), minutes) == over


# ---- bad input -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"work": [{"id": "a"}, {"id": "a"}]}, "plan_name_twice"),
        ({"work": [{"id": "a", "after": ["b"]}]}, "plan_no_such_work"),
        ({"open_spans": [{"id": "s", "from": "head", "to": "gone"}]}, "plan_no_such_work"),
        ({"work": [{"id": "a", "after": ["b"]}, {"id": "b", "wait_after": {"a": 5}}]}, "plan_loop"),
        ({"hands": 0}, "plan_no_hands"),
        ({"work": [{"id": "a", "uses": {"HT-52": 1}}]}, "plan_no_set"),
        ({"work": [{"id": "a", "crank": []}]}, "plan_no_position"),
        ({"shift": [420, 470]}, "plan_longer_than_a_shift"),
    ],
)
def test_a_problem_that_contradicts_itself_is_refused_with_what_it_is(changes: dict[str, Any], code: str) -> None:
    with pytest.raises(Refusal) as refused:
        demand_sound(asked(**changes))
    assert refused.value.code == code


def test_a_loop_is_told_by_its_names() -> None:
    ring = [{"id": f"w{k}", "after": [f"w{(k + 1) % 3}"]} for k in range(3)]
    with pytest.raises(Refusal) as refused:
        demand_sound(asked(work=[{"id": "before", "after": ["w0"]}, *ring]))
    assert refused.value.params["names"] == "w0 → w1 → w2 → w0"


@pytest.mark.parametrize(
    "wrong",
    [
        {"work": [{"id": "a", "minutes": 366 * 1440}]},
        {"work": [{"id": f"w{k}"} for k in range(1000)]},
        {"start_deg": float("nan")},
        {"work": []},
        {"cycle_deg": 540},
        {"deg_per_minute": 0},
    ],
)
def test_figures_that_cannot_be_are_refused_as_they_are_read(wrong: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        asked(**wrong)


def test_a_file_that_holds_no_problems_says_so(tmp_path: Path) -> None:
    for text in ("", "[]", '{"cases": 7}', '{"cases": [7]}'):
        file = tmp_path / "cases.json"
        file.write_text(text)
        with pytest.raises(BadPlanFileError):
            plan_cases(file)
    with pytest.raises(BadPlanFileError):
        plan_cases(tmp_path / "none.json")


def test_a_problem_in_a_file_gives_a_plan_as_text(tmp_path: Path) -> None:
    file = tmp_path / "problem.json"
    file.write_text(json.dumps(KNOWN[-1]["problem"]))
    made = Plan.model_validate_json(planned_text(file, LONG_S))
    assert made.finish_min == KNOWN[-1]["earliest_finish_min"]
    file.write_text("{}")
    with pytest.raises(BadPlanFileError, match="cycle_deg"):
        planned_text(file, LONG_S)


def test_a_wrong_answer_is_found() -> None:
    case = json.loads(json.dumps(KNOWN[0]))
    case["least_barring_deg"] += 1
    assert solve_case(case, "x", LONG_S).wrong == "another answer"
    case["problem"]["hands"] = 0
    assert "plan_no_hands" in str(solve_case(case, "x", LONG_S).wrong)
    assert solve_case({"problem": {}}, "x", LONG_S).wrong is not None


def waiting(**more: Any) -> Problem:
    """One long piece, then five that each wait for half a day after it; two people, eleven hours a day."""
    later = [(f"B{k}", minutes) for k, minutes in enumerate((180, 180, 120, 120, 120))]
    work = [{"id": "A", "minutes": 690}]
    work += [{"id": name, "minutes": minutes, "wait_after": {"A": 720}} for name, minutes in later]
    asked = {"cycle_deg": 720, "direction": "both", "start_deg": 0, "work": work, "hands": 2, "shift": (420, 1140)}
    return Problem.model_validate(asked | more)


def test_a_wait_passes_through_the_night_and_no_bound_lies_above_what_is_possible() -> None:
    """A ends at 18:30, the wait at 06:30; from 07:00 on two people do twelve hours of work: 2220 is possible."""
    problem = waiting()
    found = plan(problem, "earliest_finish", 20.0)
    assert found.finish_min == 2220
    assert found.proven
    assert all(part.value <= 2220 for part in found.bound_parts)
    chain = next(part for part in bounds(problem, "earliest_finish") if part.code == "longest_chain")
    assert (chain.value, chain.what[0]) == (1440 + 420 + 180, "A")


def test_a_piece_is_never_broken_off_at_the_end_of_a_shift_and_the_bound_knows_it() -> None:
    asked = {"cycle_deg": 720, "direction": "both", "start_deg": 0, "hands": 1, "shift": (420, 1140)}
    work = [{"id": "A", "minutes": 400}, {"id": "B", "minutes": 400, "after": ["A"]}]
    problem = Problem.model_validate(asked | {"work": work})
    chain = next(part for part in bounds(problem, "earliest_finish") if part.code == "longest_chain")
    assert chain.value == 1440 + 420 + 400
