"""Values that lie exactly on a limit, and the nearest one on each side of it."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import beginning, obstacles
from jorvek.core.procedure.steps.turned import FullReleaseStep
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules import judge
from jorvek.core.run.rules.breakaway import judge_release, more_after_earlier_groups
from jorvek.core.run.rules.dangers import may_be_rejected, never_accepted
from jorvek.core.run.views.ladder import ladder_of
from jorvek.core.run.views.on_engine import on_engine
from jorvek.core.sheet.default import default_sheet
from tests.core.engines import UNIT_2
from tests.core.overhauled import PaperOverhaul
from tests.core.paper_run import LIO, PaperRun, shipped
from tests.core.test_hot_work import DOOR, burn
from tests.core.test_limits_of_rules import codes
from tests.core.test_overhaul import no
from tests.core.test_way_back import see

LOOSEN = "tarnholt-7l34-head-loosen"
RUN = UUID(int=4)


# ---- pressures ---------------------------------------------------------------------------------------------------


def test_a_stuck_nut_is_recorded_with_the_last_pressure_that_stood_under_it() -> None:
    run = PaperRun(LOOSEN)
    run.play("free/free/1")
    for text in ("500", "520", "560"):
        run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text=text, unit="bar"))
    last = run.state.ladder[-1].true_bar
    run.send(c.ReportStuck(kind="report_stuck", id=uuid4(), cell="free/free/2", gap=True), LIO)
    told = run.events[-1].data
    assert isinstance(told, ev.NutStuck)
    assert told.true_bar == last == pytest.approx(560.0, abs=6.0)


@pytest.mark.parametrize(
    ("bar", "said"), [("1050", ["above_band"]), ("1050.1", ["above_band", "above_ceiling"]), ("1020", [])]
)
def test_a_pressure_at_its_ceiling_has_not_passed_it(
    bar: str, said: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def reads_true(_: RunState, __: Cell, value: float) -> float:
        return value

    monkeypatch.setattr(judge, "true_of", reads_true)
    run = PaperRun()
    run.play("second/raise")
    assert codes(run.value("second/raise", bar, "bar")) == said


# ---- release pressures: a healthy nut of this head comes free at 1014 bar ------------------------------------------


def released(at_bar: float, ceiling_bar: float | None = 1150.0, tight_bar: float | None = None) -> ev.Judgement:
    run = PaperRun(LOOSEN)
    cell = run.state.definition.by_key["free/free/1"]
    base = ev.Judgement(verdict=ev.Verdict.NOTED, value=at_bar, corrected=at_bar)
    return judge_release(run.state, cell, base, ceiling_bar, tight_bar)


@pytest.mark.parametrize(
    ("share", "said"),
    [
        (0.85, []),
        (0.849, ["came_free_low"]),
        (1.0, []),
        (1.15, []),
        (1.151, ["came_free_high"]),
    ],
)
def test_a_nut_is_healthy_from_85_to_115_percent_of_what_is_expected(share: float, said: list[str]) -> None:
    judgement = released(share * 1014.0, ceiling_bar=None)
    assert codes(judgement) == said
    assert (judgement.verdict is ev.Verdict.IN_BAND) == (not said)


def test_free_at_the_ceiling_has_not_passed_it_and_a_bar_more_has() -> None:
    assert codes(released(1150.0)) == []
    assert codes(released(1151.0)) == ["above_ceiling"]


def test_a_nut_was_tight_at_the_last_try_or_one_step_lower_where_none_was_made_and_never_below_zero() -> None:
    assert (released(1000.0).lower, released(1000.0).upper) == (980.0, 1000.0)
    assert (released(1000.0, tight_bar=940.0).lower, released(1000.0, tight_bar=940.0).upper) == (940.0, 1000.0)
    assert released(12.0).lower == 0.0


def test_the_load_of_a_release_is_in_proportion_to_the_middle_between_tight_and_free() -> None:
    """980 to 1000 bar speaks for 990, 480 to 500 for 490: load goes with pressure, through the origin."""
    high, low = released(1000.0).clamp_kN, released(500.0).clamp_kN
    assert high is not None
    assert low is not None
    assert high / low == pytest.approx(990.0 / 490.0, rel=1e-6)


def test_the_second_group_carries_what_the_first_let_go_and_its_load_is_reckoned_back() -> None:
    """The document expects 763 bar of the first four and 790 of the others, which is what they took over."""
    run = PaperRun("ulvane-5x46-cover-loosen", tools="four")
    steps = [key for key, cells in run.state.definition.steps if cells[0].kind == "loosen_pressure"]
    assert len(steps) == 2
    first, second = (more_after_earlier_groups(run.state, key) for key in steps)
    assert first == {}
    assert len(second) == 4
    assert all(share == pytest.approx(790.0 / 763.0, abs=0.01) for share in second.values())


# ---- what is never accepted, and what may come out -----------------------------------------------------------------


def test_each_reason_alone_is_enough_to_bar_an_acceptance() -> None:
    run = PaperRun()
    run.play("second/raise")
    run.value("second/raise", "1090", "bar")
    passed = run.state.live("second/raise")
    assert passed is not None
    assert never_accepted(run.state, passed), "past its ceiling"
    low = replace(passed, judgement=passed.judgement.model_copy(update={"reasons": (ev.Reason(code="below_band"),)}))
    assert not never_accepted(run.state, low), "too low is for whoever may say so"
    turned = replace(passed, judgement=low.judgement.model_copy(update={"reasons": (ev.Reason(code="turned_on"),)}))
    assert never_accepted(run.state, turned), "a bolt that turned on"


def test_a_fastener_comes_out_for_one_of_its_own_reasons_and_only_while_the_question_is_open() -> None:
    run = PaperRun(LOOSEN)
    run.play("free/free/1")
    run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text="1140", unit="bar"))
    run.value("free/free/1", "1156", "bar")
    live = run.state.live("free/free/1")
    assert live is not None
    over = live.judgement.model_copy(update={"reasons": (ev.Reason(code="above_ceiling"),)})
    used = live.judgement.model_copy(update={"reasons": (ev.Reason(code="used_up"),)})
    low = live.judgement.model_copy(update={"reasons": (ev.Reason(code="came_free_low"),)})
    assert may_be_rejected(run.state, replace(live, judgement=over))
    assert may_be_rejected(run.state, replace(live, judgement=used))
    assert not may_be_rejected(run.state, replace(live, judgement=low))
    assert not may_be_rejected(run.state, replace(live, judgement=over, fallen_by=99))


# ---- let go all at once ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("tight", "found"), [(2, False), (3, True), (24, True)])
def test_two_loaded_fasteners_may_be_released_whole_a_third_may_not(tight: int, found: bool) -> None:
    written = shipped("corvane-v10-head-tighten")
    moves = PlannedMoves(written, {})
    release = next(step for step in written.steps if isinstance(step, FullReleaseStep))
    names = moves.names(release)
    metal = beginning(moves).with_holds(names, "slack").with_holds(names[:tight], "tight")
    codes_found = [obstacle.code for obstacle in obstacles(moves, metal, release)]
    assert ("released_at_once" in codes_found) == found


# ---- doors that were seen shut ---------------------------------------------------------------------------------------


def test_doors_count_as_shut_only_when_they_were_seen_after_the_last_work() -> None:
    engine = PaperOverhaul(sheet=default_sheet(UNIT_2))
    engine.isolate("turning_gear")
    see(engine, "people")
    see(engine, "doors")
    run = engine.begun("rod-4", opens=(DOOR,))
    run = engine.becomes(run, open=False, condition="closed_up")
    assert no(lambda: burn(engine)) == "crankcase_open", "the work came after the doors were seen shut"
    see(engine, "people")
    see(engine, "doors")
    assert burn(engine)


def test_work_that_was_taken_up_again_may_have_opened_a_door_that_was_seen_shut() -> None:
    engine = PaperOverhaul(sheet=default_sheet(UNIT_2))
    engine.isolate("turning_gear")
    run = engine.becomes(engine.begun("rod-4", opens=(DOOR,)), open=False, condition="closed_up")
    see(engine, "people")
    see(engine, "doors")
    run = engine.becomes(run, open=True)
    engine.becomes(run, open=False)
    assert no(lambda: burn(engine)) == "crankcase_open"


# ---- what a run says to the engine -----------------------------------------------------------------------------------


def test_what_was_brought_for_the_work_is_on_the_engine_only_while_it_is_fitted() -> None:
    run = PaperRun("tarnholt-7l34-liner-fit")
    assert [part.called for part in on_engine(RUN, run.state).left_on] == ["cover_plate"]
    run.play("never")
    assert [part.called for part in on_engine(RUN, run.state).left_on] == ["clamp"]


@pytest.mark.parametrize(
    ("until", "idle"),
    [
        ("length-before/temperature/1", ()),
        ("seat/seat/1", ("DP-01",)),
        ("tools-off/off/4", ("PG-12", "DP-01")),
        ("length-after/length/1", ("PG-12", "HT-52", "DP-01")),
        ("chief-sees/sign", ("PG-12", "HT-52", "DP-01", "SG-03", "CT-01")),
    ],
)
def test_a_tool_is_idle_once_no_call_of_the_run_wants_it(until: str, idle: tuple[str, ...]) -> None:
    run = PaperRun()
    run.play(until)
    assert on_engine(RUN, run.state).idle == idle


def test_the_ladder_goes_down_by_one_step_and_never_to_nothing() -> None:
    run = PaperRun(LOOSEN)
    run.play("free/free/1")
    for text, down in (("500", "480"), ("40", "20"), ("20", None)):
        run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text=text, unit="bar"))
        ladder = ladder_of(run.state)
        assert ladder is not None
        assert ladder.down_number == down
