"""Dry bolts, a wrench that lies and seating faces, told by how far the fasteners turned."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.commands import Accept
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.torque_angle_verdict import expected_movement_deg
from jorvek.core.run.views.moved_as_expected import MovedAsExpected, moved_as_expected, told_by_movement
from jorvek.core.run.views.record import record_of
from jorvek.core.twin.seeded import Fault
from tests.core.paper_run import INES, PaperRun, shipped
from tests.core.twin_run import played

MAIN = "corvane-v10-main-tighten"


def judged(seed: int, faults: frozenset[Fault]) -> MovedAsExpected:
    """All pulls of the main bolts on a simulated joint."""
    run, _ = played(MAIN, {"clearance": "free"}, seed, faults, until=InputType.TURN)
    return moved_as_expected(run.state)[0]


@pytest.mark.parametrize("seed", range(3))
def test_all_dry_is_told_though_all_are_alike(seed: int) -> None:
    found = judged(seed, frozenset({Fault.ALL_DRY}))
    assert found.verdict == "too_little"
    assert found.share_pct < found.least_pct


@pytest.mark.parametrize("seed", range(3))
def test_a_sound_joint_is_not_called_dry(seed: int) -> None:
    found = judged(seed, frozenset())
    assert found.verdict in ("as_expected", "either")
    assert found.little == found.much == ()


def head(seats: str | None) -> Procedure:
    """The vee-ten's head, with or without a gasket that gives way."""
    plain = shipped("corvane-v10-head-tighten").plain()
    for group in plain["fasteners"]:
        group["clamped"].pop("seats", None)
        if seats is not None:
            group["clamped"]["seats"] = seats
    return Procedure.model_validate(plain)


def moved(share: dict[str, float], seats: str | None = None) -> MovedAsExpected:
    """The two torque stages of the head's bolts, each moved by a share of what is expected of it."""
    run = PaperRun(head(seats), tool="bar")
    while (cell := next_call(run.state)) is not None and cell.ask is not InputType.TURN:
        wanted = expected_movement_deg(run.state, cell) if cell.ask is InputType.PULL else None
        if wanted is None or cell.fastener is None:
            run.play_one()
            continue
        deg = f"{wanted * share.get(cell.fastener, share['all']):.1f}"
        run.record(cell.key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=deg))
    return moved_as_expected(run.state)[0]


@pytest.mark.parametrize(
    ("share", "verdict"),
    [
        (1.0, "as_expected"),
        (0.92, "as_expected"),
        (0.87, "either"),
        (1.10, "as_expected"),
        (1.14, "either"),
        (0.70, "too_little"),
        (1.40, "too_much"),
    ],
)
def test_inside_the_range_of_friction_wrench_and_oil_cannot_be_told_apart(share: float, verdict: str) -> None:
    """The document's friction of 0.10 to 0.14 lets expect 87 to 118 % of what 0.12 does."""
    found = moved({"all": share})
    assert found.verdict == verdict
    assert found.share_pct == pytest.approx(100.0 * share, abs=1.0)
    assert found.least_pct == pytest.approx(87.0, abs=1.0)
    assert found.most_pct == pytest.approx(118.0, abs=1.0)


def test_a_gasket_that_seats_is_no_alarm_and_hides_no_dry_joint() -> None:
    """40 micrometres at a pitch of 2 mm are 7.2 degrees more than steel alone lets expect."""
    steel, gasket = moved({"all": 1.4}), moved({"all": 1.4}, "40 um")
    assert (steel.verdict, gasket.verdict) == ("too_much", "either")
    wanted_deg = 7.2 / (gasket.most_pct - steel.most_pct) * 100.0
    assert wanted_deg == pytest.approx(sixteen_deg(), rel=0.01)
    assert gasket.least_pct == steel.least_pct
    assert moved({"all": 0.7}, "40 um").verdict == "too_little"
    assert moved({"all": 1.9}, "40 um").verdict == "too_much"


def sixteen_deg() -> float:
    """What a long bolt turns from the first torque to the second."""
    run = PaperRun(head(None), tool="bar")
    run.play("full-snug/pull/9")
    wanted = expected_movement_deg(run.state, run.state.definition.by_key["full-snug/pull/9"])
    assert wanted is not None
    return wanted


@pytest.mark.parametrize(
    ("of_one", "named"),
    [(0.63, "little"), (0.75, "little"), (0.79, ""), (1.0, ""), (1.26, ""), (1.34, "much"), (1.60, "much")],
)
def test_one_that_is_dry_or_soft_is_named_and_good_bolts_are_not(of_one: float, named: str) -> None:
    """A ratio of 0.77 or its inverse is where one of twenty-four good bolts comes in one joint of seventy."""
    found = moved({"all": 1.0, "7": of_one})
    assert found.little == (("7",) if named == "little" else ())
    assert found.much == (("7",) if named == "much" else ())
    assert found.verdict == "as_expected"


def test_bolts_that_scatter_more_than_usual_are_heard_before_one_of_them_is_named() -> None:
    wide = {str(k): 0.7 + 0.6 * (k % 5) / 4.0 for k in range(1, 25)}
    assert moved({"all": 1.0, "7": 0.7}).little == ("7",)
    assert moved({"all": 1.0, **wide}).little == ()


def two(first: float, second: float) -> MovedAsExpected:
    """The two bolts of a rod, each moved by a share of what is expected of it."""
    run = PaperRun("corvane-v10-rod-tighten")
    while (cell := next_call(run.state)) is not None and cell.ask is not InputType.TURN:
        wanted = expected_movement_deg(run.state, cell) if cell.ask is InputType.PULL else None
        if wanted is None or cell.fastener is None:
            run.play_one()
            continue
        deg = f"{wanted * (first if cell.fastener == '1' else second):.1f}"
        run.record(cell.key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=deg))
    return moved_as_expected(run.state)[0]


@pytest.mark.parametrize(
    ("first", "second", "little", "one_of"),
    [
        (1.0, 1.0, (), ()),
        (1.0, 0.85, (), ()),
        (1.0, 0.6, ("2",), ()),
        (0.6, 1.02, ("1",), ()),
        (1.2, 0.83, (), ("1", "2")),
    ],
)
def test_of_two_bolts_the_one_that_the_oil_cannot_explain_is_named_else_both_as_one_of_two(
    first: float, second: float, little: tuple[str, ...], one_of: tuple[str, ...]
) -> None:
    found = two(first, second)
    assert (found.little, found.one_of, found.much) == (little, one_of, ())


def test_nothing_measured_says_nothing() -> None:
    run = PaperRun(MAIN, clearance="free")
    assert moved_as_expected(run.state) == ()


def test_of_bolts_that_did_not_move_at_all_the_record_is_shown_and_no_load_is_told_by_it() -> None:
    run = PaperRun("corvane-v10-rod-tighten")
    for step in ("snug", "full-snug"):
        for name in ("1", "2"):
            key = f"{step}/pull/{name}"
            run.play(key)
            run.record(key, ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="0"))
            live = run.state.live(key)
            assert live is not None
            if not live.settled:
                run.send(Accept(kind="accept", id=uuid4(), cell=key, attempt=live.number, reason="As it is"), INES)
    assert {one.share_pct for one in moved_as_expected(run.state)} == {0.0}
    assert told_by_movement(run.state) == {}
    assert record_of(run.events[0].run_id, run.state, "").studs
