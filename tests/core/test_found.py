"""What several readings together tell of a fastener stands in the record, on the joint's plan and in the dossier."""

from __future__ import annotations

import pytest

from jorvek.core.run.log.cells import InputType
from jorvek.core.run.rules.progress import open_cells
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.found import found_of
from jorvek.core.run.views.joint_plan import plan_of
from jorvek.core.run.views.record import record_of
from jorvek.reports.record_sheet import found_words
from tests.core.paper_run import PaperRun, shipped
from tests.population import HEALTHY, Case, drawn

MAIN, WAY = "corvane-v10-main-tighten", {"clearance": "free"}
DRY = Case(one_dry=1.6)


def named_on(run: PaperRun) -> set[str]:
    return {head.name for head in plan_of(run.state).heads if head.named}


def dry_one(until: InputType | None = None) -> tuple[PaperRun, str]:
    """A joint in which the dry main bolt is named."""
    for seed in range(20):
        run, hands = drawn(shipped(MAIN), WAY, seed, DRY, until)
        odd = hands.groups["main-bolt"].odd
        if any(odd in one.names for one in found_of(run.state)):
            return run, odd
    raise AssertionError("no dry bolt was named in twenty joints")


def test_a_dry_bolt_is_named_in_the_record_and_on_the_plan_alike() -> None:
    run, odd = dry_one(InputType.TURN)
    record = record_of(run.events[0].run_id, run.state, "")
    assert record.found == found_of(run.state)
    told = next(one for one in record.found if odd in one.names)
    assert (told.code, told.group) == ("little", "Main bolt")
    assert odd in named_on(run)
    assert odd in found_words(told)
    assert "{" not in found_words(told)


def test_nobody_is_named_on_the_plan_while_a_round_is_being_pulled() -> None:
    run, odd = dry_one(InputType.TURN)
    assert odd in named_on(run), "the round is over"
    half = PaperRun(shipped(MAIN), **WAY)
    half.play("full-snug/pull/3")
    assert any(cell.ask is InputType.PULL for cell in open_cells(half.state))
    assert named_on(half) == set()


@pytest.mark.parametrize("seed", range(4))
def test_of_a_sound_joint_nothing_is_found(seed: int) -> None:
    run, _ = drawn(shipped(MAIN), WAY, seed, HEALTHY)
    assert found_of(run.state) == ()
    assert named_on(run) == set()


def test_a_dry_joint_is_found_as_a_whole() -> None:
    run, _ = drawn(shipped(MAIN), WAY, 2, Case(all_dry=1.6), InputType.TURN)
    whole = next(one for one in found_of(run.state) if one.group == "Main bolt")
    assert (whole.code, whole.names) == ("too_little", ())
    assert named_on(run) >= {"1", "2", "3", "4"}
    assert f"{whole.share_pct:.0f} %" in found_words(whole)


def test_a_soft_bolt_shows_by_its_torque_at_the_end_of_the_angle_and_no_load_is_vouched_for() -> None:
    soft, hands = drawn(shipped("corvane-v10-rod-tighten"), {}, 3, Case(soft_yield=0.7))
    odd = hands.groups["rod-bolt"].odd
    told = next(one for one in found_of(soft.state) if one.code == "disagrees")
    assert told.names == (odd,)
    held = estimate(soft.state, odd)
    assert held is not None
    assert held.F_N is None, "the angle alone would say what a good bolt holds"
    for seed in range(6):
        good, _ = drawn(shipped("corvane-v10-rod-tighten"), {}, seed, HEALTHY)
        assert [one for one in found_of(good.state) if one.code == "disagrees"] == []
