"""Rules of the procedure check just on their limit: what is exactly right is not found, what is a hair off is."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from jorvek.core.procedure.clamp import ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.procedure_check.among import Others, check_with
from jorvek.core.procedure_check.finding import CheckFinding, Severity
from jorvek.core.procedure_check.interacting import _pressure_bar
from tests.core.drafts import Change, change, drop, move
from tests.core.test_procedure_check import (
    BIG_END,
    COVER,
    CROSSHEAD,
    GOOD,
    HEAD,
    LOOSE,
    MAIN,
    PLAIN,
    V10,
)


def found(name: str, *changes: Change) -> dict[str, CheckFinding]:
    data: Any = copy.deepcopy(PLAIN[name])
    for one in changes:
        one(data)
    return {f.code: f for f in check(Procedure.model_validate(data))}


THREE = [{"id": name, "text": f"Tackle, {name}"} for name in ("fore", "middle", "aft")]


def test_more_carriers_than_are_wanted_are_enough() -> None:
    assert found(CROSSHEAD, change(("@hang.items", THREE), ("@tackles-off.items", THREE))) == {}
    assert "too_few_carriers" in found(CROSSHEAD, change(("@hang.items", THREE[:1])))


def test_a_carrier_that_names_its_part_in_other_letters_carries_it() -> None:
    assert found(BIG_END, change(("@hang.carries", "Piston and Rod"))) == {}
    assert "last_nut_before_support" in found(BIG_END, change(("@hang.carries", "piston")))


@pytest.mark.parametrize(("edge", "value"), [("lower", "1.152 mm"), ("upper", "1.152 mm")])
def test_an_aim_on_the_edge_of_its_band_is_in_it(edge: str, value: str) -> None:
    assert "target_outside_band" not in found(HEAD, change((f"@length-after.{edge}", value)))


@pytest.mark.parametrize(("effort", "past"), [("54.9 N.m", False), ("55 N.m", True)])
def test_a_run_down_stays_below_the_first_torque(effort: str, past: bool) -> None:
    assert ("run_down_past_first_stage" in found(V10, change(("@run-down.at_most", effort)))) is past


@pytest.mark.parametrize(("last_before", "early"), [("full-snug", True), ("turn", False)])
def test_the_sides_get_their_full_load_after_the_last_pull_of_the_cap(last_before: str, early: bool) -> None:
    """Between the second torque and the angle is still too early."""
    moved = [move(name, last_before) for name in ("side-a-again", "side-b", "side-a")]
    assert ("side_tight_before_cap" in found(MAIN, *moved)) is early


def test_bolts_may_come_out_right_after_they_were_let_go() -> None:
    assert "off_before_let_go" not in found("corvane-v10-main-loosen", move("sides-out", "sides"))


def test_mains_and_then_sides_is_asked_about_and_may_be_what_the_maker_wants() -> None:
    said = found(MAIN, drop("side-low-a"))
    assert said["side_not_seated"].severity is Severity.WARNING
    assert not [f for f in said.values() if f.severity is Severity.ERROR]


def test_the_sides_alone_may_be_tightened_where_the_cap_is_not_touched() -> None:
    assert "side_not_seated" not in found(MAIN, drop("snug", "full-snug", "turn"))


def test_no_room_says_how_far_the_nut_rises_and_what_there_is() -> None:
    params = found(LOOSE, change(("@free.room", "2 mm")))["no_room_for_nut"].params
    assert params["room"] == 2.0
    assert params["rise"] == pytest.approx(3.0)


def test_two_revisions_of_one_document_do_not_contradict_each_other() -> None:
    """The newer one takes the place of the older; that is what a revision is for."""
    data: Any = copy.deepcopy(PLAIN[LOOSE])
    change(("revision", "Z"), ("@seat.back_off", "0.75 turn"))(data)
    assert check_with(Procedure.model_validate(data), Others(tuple(GOOD.values()), tuple(GOOD.values()))) == []


def test_two_approved_revisions_of_another_document_are_told_once() -> None:
    data: Any = copy.deepcopy(PLAIN[LOOSE])
    change(("id", "newer-book"), ("@seat.back_off", "0.75 turn"))(data)
    older: Any = copy.deepcopy(PLAIN[LOOSE])
    change(("revision", "A"))(older)
    shelf = (*GOOD.values(), Procedure.model_validate(older))
    found_ = check_with(Procedure.model_validate(data), Others(shelf, shelf))
    assert [f.code for f in found_] == ["contradicts"]


@pytest.mark.parametrize(("upper", "short"), [("0.152 mm", False), ("0.153 mm", True)])
def test_the_packets_scale_reaches_a_limit_on_its_last_mark(upper: str, short: bool) -> None:
    assert ("strip_scale_short" in found(MAIN, change(("@strip.gate.limits.upper", upper)))) is short


@pytest.mark.parametrize("first", ["700 bar", "750 bar", "800 bar"])
def test_groups_that_end_uneven_are_told_the_pressures_that_make_them_even(first: str) -> None:
    """Two groups of four on the cover: 775 then 750, whatever was written."""
    uneven = found(COVER, change(("@odd-first.pressure", first), ("@even-first.pressure", "750 bar")))["groups_uneven"]
    assert uneven.params["equal"] == "775 bar → 750 bar"
    told = change(("@odd-first.pressure", "775 bar"), ("@even-first.pressure", "750 bar"))
    assert "groups_uneven" not in found(COVER, told), "what is told is even"


def test_the_pressure_that_leaves_a_load_is_the_way_back_from_it() -> None:
    model = models(GOOD[COVER])["cover-stud"]
    assert isinstance(model, ClampModel)
    for bar in (450.0, 750.0, 900.0):
        assert _pressure_bar(model, model.residual_N(bar)) == pytest.approx(bar)
