"""Fasteners that are always new are asked for as new; those that are counted are counted before anything is loaded."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from uuid import uuid4

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.studs import gone_at, used
from tests.core.paper_run import BRAM, INES, PaperRun, shipped
from tests.core.test_limits_of_rules import codes, refused

ROD = "corvane-v10-rod-tighten"


def rod(**reuse: Any) -> Procedure:
    plain = shipped(ROD).plain()
    plain["fasteners"][0]["reuse"] |= reuse
    return Procedure.model_validate(plain)


def tightened_before(run: PaperRun, **uses: int) -> PaperRun:
    """The same run, with fasteners of which earlier runs speak."""
    started = run.state.started.model_copy(update={"uses": uses})
    run.state = replace(run.state, started=started)
    return run


def without(kind: str) -> Procedure:
    plain = shipped(ROD).plain()
    plain["steps"] = [step for step in plain["steps"] if step["kind"] != kind]
    return Procedure.model_validate(plain)


def test_a_procedure_that_never_asks_for_the_new_ones_is_barred_and_says_which() -> None:
    found = [f for f in check(without("new_fasteners")) if f.code == "new_not_asked"]
    assert [f.params["fasteners"] for f in found] == ["1, 2"]
    assert "new_not_asked" not in {f.code for f in check(shipped(ROD))}


def test_asking_after_the_first_load_is_asking_too_late() -> None:
    plain = shipped(ROD).plain()
    new = next(step for step in plain["steps"] if step["kind"] == "new_fasteners")
    plain["steps"].remove(new)
    snug = next(k for k, step in enumerate(plain["steps"]) if step["kind"] == "torque")
    plain["steps"].insert(snug + 1, new)
    assert "new_not_asked" in {f.code for f in check(Procedure.model_validate(plain))}


def test_the_batch_is_written_down_and_each_new_bolt_said_to_be_in() -> None:
    cells = [cell for cell in PaperRun(ROD).state.definition.cells if cell.step == "new"]
    assert [(cell.item, cell.fastener, cell.ask.value) for cell in cells] == [
        ("batch:rod-bolt", None, "words"),
        ("new", "1", "tick"),
        ("new", "2", "tick"),
    ]
    marked = [cell for cell in PaperRun(rod(record_new=["identity"])).state.definition.cells if cell.step == "new"]
    assert [(cell.item, cell.ask.value) for cell in marked] == [("new", "words"), ("new", "words")]


def test_a_new_bolt_has_no_past() -> None:
    run = tightened_before(PaperRun(ROD), **{"1": 1, "2": 1})
    before = used(run.state, "1")
    assert before is not None
    assert before.up
    run.play("oil/product")
    after = used(run.state, "1")
    assert set(gone_at(run.state)) == {"1", "2"}
    assert after is not None
    assert not after.up


def test_a_mark_that_was_rejected_is_refused_as_new() -> None:
    run = PaperRun(rod(record_new=["identity"]))
    run.rejected = {"rb17": "Unit 5, Rod 3"}
    run.play("new/new/1")
    said = ev.WordsAnswer(text="RB-17")
    old = c.RecordReading(kind="record", id=uuid4(), cell="new/new/1", attempt=1, answer=said)
    assert refused(run, old) == "piece_rejected"


def test_bolts_that_were_in_an_engine_stand_out_where_they_are_first_handled() -> None:
    """An older document has no step for the new ones: the bolts are named before they are pulled, not after."""
    run = tightened_before(PaperRun(without("new_fasteners")), **{"1": 1})
    first = next(cell for cell in run.state.definition.cells_of["1"])
    run.play(first.key)
    judgement = run.record(first.key, ev.TickAnswer())
    assert (judgement.verdict, codes(judgement)) == (ev.Verdict.OUT_OF_BAND, ["used_up"])
    run.play("never")
    pulled = [cell.key for cell in run.state.definition.cells if cell.item == "pull" and run.state.live(cell.key)]
    assert pulled == [], "nothing is loaded while the question stands"


def test_taken_out_another_goes_in_and_is_asked_for_there() -> None:
    run = tightened_before(PaperRun(without("new_fasteners")), **{"1": 1})
    first = next(cell for cell in run.state.definition.cells_of["1"])
    run.play(first.key)
    run.record(first.key, ev.TickAnswer())
    run.send(
        c.RejectFastener(kind="reject_fastener", id=uuid4(), cell=first.key, attempt=1, piece="RB-1", reason="Used"),
        BRAM,
    )
    again = next_call(run.state)
    assert again is not None
    assert again.key == first.key
    assert codes(run.record(first.key, ev.TickAnswer())) == []


def test_accepted_by_name_it_is_not_asked_about_once_more_at_its_pull() -> None:
    run = tightened_before(PaperRun(without("new_fasteners")), **{"1": 1})
    first = next(cell for cell in run.state.definition.cells_of["1"])
    run.play(first.key)
    run.record(first.key, ev.TickAnswer())
    run.send(c.Accept(kind="accept", id=uuid4(), cell=first.key, attempt=1, reason="No other on board"), INES)
    run.play("never")
    pulls = [cell.key for cell in run.state.definition.cells if cell.item == "pull" and cell.fastener == "1"]
    assert all(codes(run.state.tries(key)[0].judgement) == [] for key in pulls)


def test_a_stud_that_is_judged_by_its_length_is_named_there_and_not_at_its_temperature_too() -> None:
    run = tightened_before(PaperRun("tarnholt-7l34-rod-tighten", shell="before"), **{"1": 8})
    run.play("length-before/temperature/1")
    assert codes(run.value("length-before/temperature/1", "19.0", "degC")) == []
