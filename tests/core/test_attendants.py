"""Whoever stands outside is somebody else, stays outside, and attends one space until somebody takes that over."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID, uuid4

import pytest
from pydantic import ValidationError

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import fold
from jorvek.core.overhaul.views.permits import inside_now
from jorvek.core.run.log.events import Person
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_overhaul import no


def locked() -> PaperOverhaul:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    return engine


def goes_in(engine: PaperOverhaul, who: Person, outside: Person, space: str = "crankcase") -> int:
    return engine.enter(who, attended_by=outside.id, attendant=None, space=space)


def relieve(engine: PaperOverhaul, entered: int, to: UUID) -> int:
    return engine.say(oc.RelieveAttendant(kind="relieve_attendant", id=uuid4(), entered=entered, to=to))


def test_nobody_attends_themselves() -> None:
    engine = locked()
    assert no(lambda: goes_in(engine, LIO, LIO)) == "attends_oneself"
    assert not engine.state.inside


def test_whoever_is_inside_attends_nobody_and_whoever_attends_does_not_go_in() -> None:
    engine = locked()
    goes_in(engine, LIO, TAM)
    assert no(lambda: goes_in(engine, INES, LIO)) == "attendant_inside"
    assert no(lambda: goes_in(engine, TAM, INES)) == "attends_somebody"
    goes_in(engine, BRAM, TAM)
    assert {i.person.name for i in engine.state.inside} == {LIO.name, BRAM.name}, "two at one door have one attendant"


def test_one_space_and_no_other() -> None:
    engine = locked()
    goes_in(engine, LIO, TAM)
    assert no(lambda: goes_in(engine, BRAM, TAM, "scavenge")) == "attends_elsewhere"
    goes_in(engine, BRAM, INES, "scavenge")


def test_attending_is_handed_over_by_an_act_and_the_board_says_to_whom() -> None:
    engine = locked()
    lio = goes_in(engine, LIO, TAM)
    bram = goes_in(engine, BRAM, INES, "scavenge")
    assert no(lambda: relieve(engine, lio, LIO.id)) == "attends_oneself"
    assert no(lambda: relieve(engine, lio, BRAM.id)) == "attendant_inside"
    assert no(lambda: relieve(engine, lio, INES.id)) == "attends_elsewhere"
    assert no(lambda: relieve(engine, lio, uuid4())) == "no_such_person"
    assert no(lambda: relieve(engine, lio + 99, TAM.id)) == "no_such_entry"
    engine.out(bram)
    relieve(engine, lio, INES.id)
    assert [one.attendant for one in inside_now(engine.state, engine.now)] == [INES.name]
    assert fold(engine.events) == engine.state
    goes_in(engine, TAM, INES)


def test_out_again_whoever_attended_may_go_in() -> None:
    engine = locked()
    lio = goes_in(engine, LIO, TAM)
    engine.out(lio)
    goes_in(engine, TAM, LIO)


def test_what_was_done_without_a_link_is_kept_and_says_what_was_wrong() -> None:
    engine = locked()
    goes_in(engine, LIO, TAM)
    late = oc.Enter.model_validate(
        {
            "kind": "enter",
            "id": uuid4(),
            "person": TAM.id,
            "space": "crankcase",
            "permit": "P-2",
            "attended_by": INES.id,
            "oxygen_pct": 20.9,
            "gas_pct": 0.0,
        }
    )
    engine.now += timedelta(minutes=5)
    engine.say(late, TAM, kept_s=10.0)
    told = engine.events[-1].data
    assert isinstance(told, ov.Entered)
    assert told.against == "attends_somebody"


@pytest.mark.parametrize("named", [{}, {"attended_by": TAM.id, "attendant": "Tam"}])
def test_one_attendant_is_named_and_not_two(named: dict[str, object]) -> None:
    said = {"kind": "enter", "id": uuid4(), "person": LIO.id, "space": "crankcase", "permit": "P-1"}
    with pytest.raises(ValidationError, match="one attendant"):
        oc.Enter.model_validate({**said, "oxygen_pct": 20.9, "gas_pct": 0.0, **named})


def test_somebody_who_is_inside_is_not_struck_off_the_board() -> None:
    engine = locked()
    lio = goes_in(engine, LIO, TAM)
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=lio, words="Typed the wrong name")
    assert no(lambda: engine.say(strike, BRAM)) == "person_inside"
    assert engine.state.inside
