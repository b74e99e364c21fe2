"""One pressure on the server for everybody, a nut that will not move, and gauges on the air side."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import Definition, define
from jorvek.core.run.log.fold import fold
from jorvek.core.run.rules.breakaway import strips
from jorvek.core.run.rules.progress import DebtKind, debts, open_cells
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.record import record_of
from jorvek.store.row_locks import engine_lock
from jorvek.work.runs.row_locks import locks_of
from tests.core.paper_run import BRAM, INES, LIO, TOOLS, PaperRun, shipped
from tests.core.test_limits_of_rules import codes, refused

LOOSEN = "tarnholt-7l34-head-loosen"


def test_an_authors_point_that_is_called_free_is_no_nut() -> None:
    run = PaperRun("corvane-v10-main-loosen")
    run.play("neighbours/free")
    assert "neighbours/free" in {cell.key for cell in open_cells(run.state)}
    assert bench_view(uuid4(), run.state, run.looking()).ladder is None


def on_the_ladder() -> PaperRun:
    run = PaperRun(LOOSEN)
    run.play("free/free/1")
    return run


def shown(run: PaperRun, who: ev.Person = BRAM) -> BenchView:
    return bench_view(run.events[0].run_id, run.state, run.looking(who))


def up(run: PaperRun, by: ev.Person = BRAM) -> None:
    ladder = shown(run).ladder
    assert ladder is not None
    assert ladder.up_number is not None
    run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step=ladder.step, text=ladder.up_number, unit="bar"), by)


def stuck(key: str, gap: bool) -> c.ReportStuck:
    return c.ReportStuck(kind="report_stuck", id=uuid4(), cell=key, gap=gap)


def decide(run: PaperRun, words: str = "Freed with heat, 20 bar more") -> c.DecideStuck:
    return c.DecideStuck(kind="decide_stuck", id=uuid4(), stuck=shown(run).stuck[0].seq, words=words)


# ---- one pressure for everybody ----------------------------------------------------------------------------------


def test_the_pressure_of_the_ladder_is_the_runs_and_the_same_on_every_tablet() -> None:
    run = on_the_ladder()
    start = shown(run).ladder
    assert start is not None
    up(run)
    up(run, LIO)
    mine, theirs = shown(run).ladder, shown(run, LIO).ladder
    assert mine == theirs
    assert mine is not None
    assert float(mine.number) == float(start.number) + 2 * float(start.by.text)
    again = fold(run.state.definition, run.events)
    assert bench_view(run.events[0].run_id, again, run.looking()).ladder == mine, "a reload shows the same"


def test_the_ladder_ends_at_the_ceiling() -> None:
    run = on_the_ladder()
    while (ladder := shown(run).ladder) is not None and ladder.up_number is not None:
        up(run)
    assert ladder is not None
    assert ladder.ceiling is not None
    over = f"{float(ladder.number) + 2 * float(ladder.by.text):g}"
    step = c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text=over, unit="bar")
    assert refused(run, step) == "over_the_ceiling"
    assert float(ladder.number) <= float(ladder.ceiling.text)


def test_a_release_lies_between_the_last_pressure_at_which_the_nut_was_tried_and_the_one_at_which_it_came() -> None:
    run = on_the_ladder()
    first = shown(run).ladder
    assert first is not None
    up(run)
    tight = shown(run).ladder
    assert tight is not None
    jump = f"{float(tight.number) + 40:g}"
    run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text=jump, unit="bar"))
    judgement = run.value("free/free/1", jump, "bar")
    assert judgement.lower is not None
    assert judgement.upper is not None
    assert judgement.upper - judgement.lower == pytest.approx(40.0, abs=0.5), "not one step, the gap that was jumped"


def test_nothing_is_tried_before_people_are_clear_or_on_another_step() -> None:
    run = PaperRun(LOOSEN)
    run.play("free/clear")
    tried = c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text="500", unit="bar")
    assert shown(run).ladder is None
    assert refused(run, tried) == "not_yet"
    run.play("free/free/1")
    assert refused(run, tried.model_copy(update={"step": "relieve"})) == "not_yet"


# ---- will not move -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("gap", [True, False])
def test_a_nut_that_will_not_move_waits_for_whom_the_document_names_and_never_counts_as_free(gap: bool) -> None:
    run = on_the_ladder()
    up(run)
    run.send(stuck("free/free/2", gap), LIO)
    said = run.state.definition.procedure.model_dump()
    note = shown(run).stuck[0]
    step = next(s for s in said["steps"] if s["kind"] == "loosen_pressure")
    assert note.author == step["will_not_move"]["gap" if gap else "no_gap"]
    assert note.stood is not None
    keys = [cell.key for cell in open_cells(run.state)]
    assert "free/free/2" not in keys
    assert "free/free/1" in keys, "the others go on"
    assert keys[-1] == "relieve/zero", "letting off is always right"
    assert [d.kind for d in debts(run.state) if d.kind is DebtKind.STUCK] == [DebtKind.STUCK]
    ladder = shown(run).ladder
    assert ladder is not None
    more = c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text=ladder.up_number or "", unit="bar")
    assert refused(run, more) == "nut_stuck", "more pressure is what goes wrong"
    assert refused(run, decide(run), LIO) == "not_your_right"
    run.send(decide(run), INES)
    assert not shown(run).stuck
    assert "free/free/2" in [cell.key for cell in open_cells(run.state)]
    up(run)
    run.play("never")
    told = record_of(run.events[0].run_id, run.state, "").stuck[0]
    assert (told.decided, told.freed) == ("Freed with heat, 20 bar more", True)
    assert fold(run.state.definition, run.events) == run.state


def test_pressure_let_off_meanwhile_comes_up_again_only_with_people_clear() -> None:
    run = on_the_ladder()
    up(run)
    for key in [cell.key for cell in open_cells(run.state) if cell.item == "free"]:
        run.send(stuck(key, True))
    assert [cell.key for cell in open_cells(run.state)] == ["relieve/zero"]
    run.value("relieve/zero", "0", "bar")
    assert open_cells(run.state) == ()
    while shown(run).stuck:
        run.send(decide(run), INES)
    assert [cell.key for cell in open_cells(run.state)] == ["free/clear"]
    assert shown(run).ladder is None, "the ladder begins anew"


def test_with_the_pressure_off_no_other_nut_comes_free_before_somebody_has_decided() -> None:
    run = on_the_ladder()
    run.send(stuck("free/free/2", False))
    run.value("relieve/zero", "0", "bar")
    assert open_cells(run.state) == ()
    bare = c.RecordReading(
        kind="record", id=uuid4(), cell="free/free/1", attempt=1, answer=ev.ValueAnswer(text="900", unit="bar")
    )
    assert refused(run, bare) == "not_yet"
    run.send(decide(run), INES)
    assert [cell.key for cell in open_cells(run.state)] == ["free/clear"]


def test_deciding_on_a_nut_is_done_under_the_lock_of_the_engine() -> None:
    """It opens people clear and zero again, by which other joints are judged."""
    run = on_the_ladder()
    run.send(stuck("free/free/2", False))
    assert engine_lock(run.state.started.engine.id) in locks_of(run.state, decide(run))


def test_only_a_nut_that_is_let_free_can_be_stuck() -> None:
    run = PaperRun(LOOSEN)
    run.play("free/clear")
    assert refused(run, stuck("free/clear", True)) == "not_a_nut"


# ---- what an author may say --------------------------------------------------------------------------------------


def altered(**changes: object) -> Definition:
    plain = shipped(LOOSEN).plain()
    steps = [
        {k: v for k, v in {**step, **changes}.items() if v is not None} if step["kind"] == "loosen_pressure" else step
        for step in plain["steps"]
    ]
    return define(Procedure.model_validate({**plain, "steps": steps}))


def begun(definition: Definition, run: PaperRun) -> PaperRun:
    """The run begun anew by another document."""
    started = run.events[0].data
    assert isinstance(started, ev.RunStarted)
    made = started.model_copy(update={"procedure_hash": definition.procedure_hash, "cells_hash": definition.cells_hash})
    run.events = [run.events[0].model_copy(update={"data": made})]
    run.state = fold(definition, run.events)
    return run


def test_raise_slowly_until_it_moves_can_be_authored_without_an_expected_pressure() -> None:
    definition = altered(expected=None)
    assert not [f.code for f in check(definition.procedure) if f.severity == "error"]
    run = begun(definition, PaperRun(LOOSEN))
    run.play("free/free/1")
    ladder = shown(run).ladder
    assert ladder is not None
    assert (ladder.number, ladder.healthy) == ("0", None)
    run.send(c.TryPressure(kind="try_pressure", id=uuid4(), step="free", text="400", unit="bar"))
    assert codes(run.value("free/free/1", "400", "bar")) == [], "nothing says what is low or high"
    assert strips(run.state, {})[0].analysis is None
    bench_view(run.events[0].run_id, run.state, run.looking())


def test_the_low_check_pressure_is_proved_nut_by_nut() -> None:
    names = [cell.fastener for cell in altered().cells if cell.item == "free_low"]
    assert None not in names
    assert names == [cell.fastener for cell in altered().cells if cell.item == "free"]


# ---- the air side ------------------------------------------------------------------------------------------------


def on_air(name: str = "tarnholt-7l34-head-tighten", **pump: str) -> PaperRun:
    """A procedure whose pressures are read on the air side of the pump."""
    plain = shipped(name).plain()
    plain["tensioners"][0]["pump"] = {"drive": "air", **pump}
    for step in plain["steps"]:
        # On the air side the error of the same gauge counts twice in the oil: the bands are as wide as that.
        if step["kind"] == "tension":
            step["band"] = "5 %"
        for tool in step.get("tools", []) if isinstance(step.get("tools"), list) else []:
            if tool["role"] == "oil-gauge":
                tool["side"] = "air"
    return begun(define(Procedure.model_validate(plain)), PaperRun(name))


def test_what_an_air_gauge_reads_high_is_taken_off() -> None:
    """900 on a gauge that reads 10 % high is 818 true, before its own correction of some bar."""
    run = on_air(air_gauge_reads_high="10 %")
    run.play("first/raise")
    judgement = run.value("first/raise", "900", "bar")
    gauge = next(tool for tool in TOOLS if tool.id == "PG-12")
    assert judgement.value == 900.0
    assert judgement.corrected == pytest.approx((900.0 - 3.5) / 1.1, abs=1.0)
    assert judgement.uncertainty == pytest.approx(gauge.expanded_uncertainty() / 1.1)
    call = shown(run).questions
    assert call, "818 is not what the first stage wants"


def test_the_bench_says_what_to_set_on_the_air_side() -> None:
    run = on_air(air_gauge_reads_high="10 %")
    run.play("second/raise")
    call = shown(run).calls[0]
    assert call.figure is not None
    assert call.stated is not None
    assert (call.figure.text, call.stated.text) == ("1100", "1000")
    assert run.value("second/raise", call.figure.text, "bar").verdict is ev.Verdict.IN_BAND


def test_the_ratio_of_the_pump_turns_air_into_oil() -> None:
    run = on_air(ratio="2")
    run.play("first/lowest")
    run.value("first/lowest", "300", "bar")
    run.play("second/raise")
    call = shown(run).calls[0]
    assert call.figure is not None
    assert call.figure.text == "500"
    assert run.value("second/raise", "500", "bar").corrected == pytest.approx(995.0, abs=6.0)


def test_the_ladder_climbs_in_the_figures_of_an_air_gauge_and_never_past_the_oils_ceiling() -> None:
    """With a ratio of 2, a step of 20 bar of oil is a mark of 10 on the gauge: 20 would be 40 in the stud."""
    run = on_air(LOOSEN, ratio="2")
    run.play("free/free/1")
    first = shown(run).ladder
    assert first is not None
    assert (first.number, first.by.text) == ("410", "10"), "four fifths of 1014 bar of oil"
    up(run)
    assert run.state.ladder[-1].true_bar == pytest.approx(840.0, abs=10.0)
    while (ladder := shown(run).ladder) is not None and ladder.up_number is not None:
        up(run)
    assert run.state.ladder[-1].true_bar <= 1150.0 < run.state.ladder[-1].true_bar + 25.0


def test_an_unknown_nut_is_refused() -> None:
    run = on_the_ladder()
    with pytest.raises(Refusal):
        run.send(stuck("free/free/99", True))
    assert refused(run, c.DecideStuck(kind="decide_stuck", id=uuid4(), stuck=3, words="x"), INES) == "no_such_question"
