"""What is said of joints from a population of their own, of which the simulated joint of the product knows nothing.

A sample of the table that ``./jorvek bench rates`` prints in full: few joints here, with limits so wide that chance
passes them once in thousands of runs; what is measured with hundreds stands in the bench.
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.definition import define
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.moved_as_expected import MovedAsExpected, moved_as_expected
from tests.core.paper_run import shipped
from tests.population import HEALTHY, Case, Group, drawn, interval, resampled

MAIN, HEAD, ROD = "corvane-v10-main-tighten", "corvane-v10-head-tighten", "corvane-v10-rod-tighten"
WAYS: dict[str, dict[str, str]] = {MAIN: {"clearance": "free"}, HEAD: {"tool": "bar"}, ROD: {}}


def judged(name: str, seed: int, case: Case) -> tuple[MovedAsExpected, str]:
    """What movement says of the first group before it is turned by angle, and the bolt in which a fault was sown."""
    run, hands = drawn(shipped(name), WAYS[name], seed, case, InputType.TURN)
    first = run.state.definition.procedure.fasteners[0].id
    return moved_as_expected(run.state)[0], hands.groups[first].odd


@pytest.mark.parametrize(("name", "joints"), [(MAIN, 25), (HEAD, 3), (ROD, 25)])
def test_of_sound_joints_hardly_one_has_a_bolt_named(name: str, joints: int) -> None:
    found = [judged(name, seed, HEALTHY)[0] for seed in range(joints)]
    assert sum(bool(one.little or one.much) for one in found) <= 1 + joints // 12
    assert {one.verdict for one in found} <= {"as_expected", "either"}


@pytest.mark.parametrize(("name", "joints"), [(MAIN, 20), (HEAD, 3)])
def test_one_dry_bolt_is_named_and_it_is_the_dry_one(name: str, joints: int) -> None:
    found = [judged(name, seed, Case(one_dry=1.6)) for seed in range(joints)]
    assert sum(odd in one.little for one, odd in found) >= 0.7 * joints
    assert sum(bool(set(one.little) - {odd}) for one, odd in found) <= 1


def test_a_gasket_that_seats_names_nobody() -> None:
    found = [judged(HEAD, seed, Case(gasket_deg=(20.0, 5.0)))[0] for seed in range(3)]
    assert [one.little + one.much for one in found] == [()] * 3


def test_what_a_dry_joint_really_holds_lies_within_what_is_stated() -> None:
    inside = list[tuple[int, int]]()
    for seed in range(12):
        run, hands = drawn(shipped(MAIN), WAYS[MAIN], seed, Case(all_dry=1.6))
        group = hands.groups["main-bolt"]
        held = [estimate(run.state, name) for name in group.names]
        known = [(h, true) for h, true in zip(held, group.load_N, strict=True) if h is not None and h.F_N and h.u_N]
        if known:
            inside.append(
                (sum(bool(abs((h.F_N or 0.0) - true) <= 2.0 * (h.u_N or 0.0)) for h, true in known), len(known))
            )
    assert sum(hits for hits, _ in inside) >= 0.85 * sum(whole for _, whole in inside)


# ---- the population itself, against the textbook -------------------------------------------------------------------


def exact_group() -> Group:
    made = Group(define(shipped(MAIN), WAYS[MAIN]), "main-bolt", HEALTHY, np.random.default_rng(3), 1.0)
    made.beds_mm = np.zeros(4)
    return made


def test_a_pull_of_the_population_leaves_torque_over_lever_and_moves_by_what_gives() -> None:
    group = exact_group()
    moved = group.pull("1", 100.0)
    load = 1000.0 * 100.0 / group.lever_mm[0]
    assert group.load_N[0] == pytest.approx(load)
    assert moved == pytest.approx(360.0 / group.pitch_mm * load * (group.bolt[0] + group.joint[0, 0]))
    assert group.pull("1", 90.0) == 0.0, "what holds more does not move"


def test_an_angle_of_the_population_is_a_straight_line_until_it_yields() -> None:
    group = exact_group()
    group.pull("1", 100.0)
    before = float(group.load_N[0])
    group.turn("1", 10.0)
    gained = 10.0 / 360.0 * group.pitch_mm / (group.bolt[0] + group.joint[0, 0])
    assert group.load_N[0] - before == pytest.approx(gained)
    group.turn("1", 360.0)
    assert group.yields_N[0] < group.load_N[0] < 1.2 * group.yields_N[0]
    assert group.grown[0] > 0.0


def test_shares_come_with_the_interval_that_a_sample_leaves() -> None:
    share, low, high = interval([True] * 5 + [False] * 195)
    assert (share, round(low, 1), round(high, 1)) == (2.5, 1.1, 5.7)
    share, low, high = resampled([(4, 4)] * 50 + [(3, 4)] * 50, np.random.default_rng(1))
    assert share == pytest.approx(87.5)
    assert low < 87.5 < high
    assert math.isclose(high - low, 2 * 1.96 * 12.5 / 10.0, rel_tol=0.2)
