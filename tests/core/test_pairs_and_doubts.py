"""Parts that belong together, a lubricant that is not the procedure's, and what a tight spot puts in doubt."""

from __future__ import annotations

from uuid import uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.progress import next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.studs import uses_in
from tests.core.paper_run import BRAM, INES, LIO, PaperRun, shipped
from tests.core.test_limits_of_rules import codes, refused

ROD = "corvane-v10-rod-tighten"


def at(name: str, item: str) -> tuple[PaperRun, str]:
    run = PaperRun(name)
    key = next(cell.key for cell in run.state.definition.cells if cell.item_word == item)
    run.play(key)
    return run, key


@pytest.mark.parametrize(("mate", "pair"), [("R3", True), (" r-3 ", True), ("R4", False), ("R33", False)])
def test_cap_four_on_rod_three_is_no_pair_and_nobody_accepts_it(mate: str, pair: bool) -> None:
    run, mark = at(ROD, "mark")
    run.record(mark, ev.WordsAnswer(text="R3"))
    of = next_call(run.state)
    assert of is not None
    judgement = run.record(of.key, ev.WordsAnswer(text=mate))
    assert (codes(judgement) == []) == pair
    if pair:
        return
    assert judgement.reasons[0].params == {"one": "R3", "other": "R4" if mate == "R4" else "R33"}
    accept = c.Accept(kind="accept", id=uuid4(), cell=of.key, attempt=1, reason="Fits well")
    assert refused(run, accept, INES) == "never_accepted"
    assert [cell.key for cell in open_cells(run.state)] == [of.key], "the right cap is fetched and read"
    run.record(of.key, ev.WordsAnswer(text="R3"))
    assert of.key not in [cell.key for cell in open_cells(run.state)]


def test_another_lubricant_is_a_departure_by_name_and_says_what_the_torques_hold_for() -> None:
    run, product = at(ROD, "product")
    cell = run.state.definition.by_key[product]
    assert cell.choices == ("Engine oil", "another")
    bare = c.RecordReading(kind="record", id=uuid4(), cell=product, attempt=1, answer=ev.ChoiceAnswer(choice="another"))
    assert refused(run, bare) == "words_wanted", "which one it is"
    judgement = run.record(product, ev.ChoiceAnswer(choice="another", note="Moly paste"))
    assert judgement.reasons[0].code == "other_lubricant"
    assert judgement.reasons[0].params["product"] == "Engine oil"
    accept = c.Accept(kind="accept", id=uuid4(), cell=product, attempt=1, reason="Torques worked out anew, sheet 12")
    assert refused(run, accept, LIO) == "not_your_right"
    run.send(accept, BRAM)
    assert run.state.counting[product].settled


def test_with_everything_tight_a_tight_spot_has_the_cap_off_and_all_of_it_done_anew() -> None:
    run, turned = at(ROD, "turned")
    judgement = run.record(turned, ev.ChoiceAnswer(choice="tight_spot", note="At 40 after TDC"))
    assert judgement.reasons[0].code == "tight_spot_when_tight"
    assert judgement.reasons[0].params["stages"] == "First torque; Second torque; Turn"
    scope = redo_scope(run.state, turned)
    steps = {key.split("/")[0] for key in scope}
    assert steps >= {"pair", "clean", "shell", "cap-on", "snug", "full-snug", "turn", "free"}, "number, backs, stages"
    assert "tools" not in steps, "the wrench is still in the hand"
    run.send(c.RedoWork(kind="redo", id=uuid4(), cell=turned, cells=scope, reason="Cap off, dirt behind the shell"))
    first = next_call(run.state)
    assert first is not None
    assert first.step == "pair"
    assert "new" in steps, "bolts that were turned into yield are not turned again"


def test_a_joint_put_together_anew_takes_a_use_of_each_of_its_studs() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    turned = [cell.key for cell in run.state.definition.cells if cell.kind == "turns_freely"][-1]
    run.play(turned)
    run.record(turned, ev.ChoiceAnswer(choice="tight_spot", note="Half way round"))
    before, scope = uses_in(run.state), redo_scope(run.state, turned)
    assert before == {"V1": 1, "V2": 1, "S1": 1, "S2": 1}
    run.send(c.RedoWork(kind="redo", id=uuid4(), cell=turned, cells=scope, reason="Cap off, dirt behind the shell"))
    assert uses_in(run.state) == before, "slack again: the use that was made stays made"
    run.play(turned)
    assert uses_in(run.state) == dict.fromkeys(before, 2)


def test_between_two_stages_a_tight_spot_doubts_what_was_tightened_since() -> None:
    plain = shipped(ROD).plain()
    early = {"id": "early", "kind": "turns_freely", "title": "Turns", "turns": "1 turn", "standard": "By itself"}
    plain["steps"].insert([s["id"] for s in plain["steps"]].index("snug") + 1, early)
    run = PaperRun(Procedure.model_validate(plain))
    run.play("early/turned")
    judgement = run.record("early/turned", ev.ChoiceAnswer(choice="tight_spot", note="At 40 after TDC"))
    assert judgement.reasons[0].code == "tight_spot_after"
    assert {key.split("/")[0] for key in redo_scope(run.state, "early/turned")} == {"snug", "early"}


def test_a_crank_that_turned_freely_is_only_turned_again() -> None:
    run, turned = at(ROD, "turned")
    run.record(turned, ev.ChoiceAnswer(choice="free"))
    people = turned.replace("turned", "people")
    assert redo_scope(run.state, turned) == (people, turned), "everybody is asked again"


def test_a_tight_spot_doubts_only_what_was_loaded_since_the_crank_last_turned() -> None:
    run = PaperRun("tarnholt-7l34-main-tighten")
    turned = [cell.key for cell in run.state.definition.cells if cell.kind == "turns_freely"]
    run.play(turned[-1])
    run.record(turned[-1], ev.ChoiceAnswer(choice="tight_spot", note="Half way round"))
    scope = redo_scope(run.state, turned[-1])
    loaded = {cell.key for cell in run.state.definition.cells if cell.traits.pressure == "raises"}
    assert loaded & set(scope), "a pressure stage begins again at its tools"
    assert any(key.split("/")[0].endswith("-seat") for key in scope)
