"""How joints are, told later: let go, it counts and is in doubt; closed, it waits until a lead hand has looked."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.rules.joint_conditions import shown_condition
from jorvek.core.run.log.events import Person
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_overhaul import no


def told(engine: PaperOverhaul, found: dict[str, str], by: Person = BRAM, teller: Person = BRAM) -> Any:
    """Key in a line of a list, written an hour ago."""
    paper = oc.Paper(by=by.id, at=engine.now - timedelta(hours=1))
    said = {"kind": "declare_conditions", "id": uuid4(), "found": found, "words": "Seen so", "paper": paper}
    engine.say(oc.DeclareConditions.model_validate(said), teller)
    return engine.state.lines[-1].data


def now(engine: PaperOverhaul, joint: str = "rod-4") -> str | None:
    return shown_condition(engine.state, joint, list(engine.runs))


@pytest.fixture
def engine() -> PaperOverhaul:
    made = PaperOverhaul()
    made.now += timedelta(hours=3)
    made.found("tight", "rod-4", "rod-5")
    made.now += timedelta(hours=2)
    return made


def test_let_go_it_counts_at_once_whoever_tells_it_and_the_crank_waits_until_a_lead_hand_has_looked(
    engine: PaperOverhaul,
) -> None:
    data = told(engine, {"rod-4": "loose"}, by=TAM, teller=LIO)
    assert (data.told, data.against) == ("less_safe", "not_your_right")
    assert now(engine) == "loose"
    assert no(engine.move) == "sweep_blocked"
    waiting = engine.state.told[-1].seq
    assert no(lambda: engine.look(waiting, TAM)) == "not_your_right"
    engine.look(waiting, INES)
    assert (now(engine), engine.state.told) == ("loose", ())


def test_closed_it_changes_nothing_before_somebody_else_has_looked(engine: PaperOverhaul) -> None:
    engine.found("open", "rod-4")
    engine.now += timedelta(hours=2)
    assert told(engine, {"rod-4": "closed_up"}).told == "safer"
    assert now(engine) == "open"
    waiting = engine.state.told[-1].seq
    assert no(lambda: engine.look(waiting, BRAM)) == "told_by_oneself"
    engine.look(waiting, INES)
    assert now(engine) == "closed_up"


def test_of_a_joint_that_nobody_knew_only_that_it_was_let_go_takes_trust_away() -> None:
    engine = PaperOverhaul(as_it_ran=False)
    engine.now += timedelta(hours=2)
    assert now(engine, "head-2") is None
    assert told(engine, {"head-2": "tight"}).told == "safer"
    assert now(engine, "head-2") is None
    assert told(engine, {"head-2": "open"}).told == "less_safe"
    assert now(engine, "head-2") == "open"


def test_one_line_does_not_say_both(engine: PaperOverhaul) -> None:
    assert no(lambda: told(engine, {"rod-4": "loose", "rod-5": "closed_up"})) == "told_two_ways"


def test_what_the_log_knows_better_is_not_told_over(engine: PaperOverhaul) -> None:
    engine.now -= timedelta(minutes=90)
    engine.found("open", "rod-4")
    engine.found("tight", "rod-5")
    engine.now += timedelta(minutes=30)
    assert no(lambda: told(engine, {"rod-4": "closed_up"})) == "paper_overtaken"
    assert told(engine, {"rod-5": "loose"}).against == "paper_overtaken", "kept, and looked at"
    assert now(engine, "rod-5") == "tight"


def test_said_here_and_now_it_is_a_lead_hands_word_and_answers_what_was_told(engine: PaperOverhaul) -> None:
    told(engine, {"rod-4": "loose"}, teller=LIO)
    said = {"kind": "declare_conditions", "id": uuid4(), "found": {"rod-4": "tight"}, "words": "Looked"}
    assert no(lambda: engine.say(oc.DeclareConditions.model_validate(said), TAM)) == "not_your_right"
    engine.found("tight", "rod-4")
    assert (now(engine), engine.state.told) == ("tight", ())
    assert isinstance(engine.state.lines[-1].data, ov.ConditionsDeclared)
