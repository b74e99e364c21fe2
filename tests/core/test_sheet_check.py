"""Engine sheets: those shipped are clean, and one that loops, contradicts itself or locks everybody out is found."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest

from jorvek.core.engine.layout import Engine, JointKind, joints_of
from jorvek.core.overhaul.rules.crank import angle_at_height, below_top_mm, dead_centres, engine_angle
from jorvek.core.procedure.measure import measure_from_text
from jorvek.core.procedure.metal_parts import LADDERS
from jorvek.core.procedure.steps import CrankPositionStep
from jorvek.core.refusal import Refusal
from jorvek.core.sheet.access import Work, in_the_way
from jorvek.core.sheet.check import check_sheet
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import EngineSheet
from jorvek.core.sheet.vee import vee_angles
from jorvek.core.units import Quantity
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.settings import ROOT
from tests.core.engines import ENGINES, GREY_PLOVER, UNIT_2, UNIT_5, ground

SHIPPED = {"tarnholt-7l34": UNIT_2, "corvane-v10": UNIT_5, "ulvane-5x46": GREY_PLOVER}


def shipped(name: str) -> EngineSheet:
    return read_model(read_yaml((ROOT / "sheets" / f"{name}.yaml").read_bytes()), EngineSheet)


@pytest.mark.parametrize("name", SHIPPED)
def test_every_shipped_sheet_is_clean_and_keeps_its_address_through_its_own_text(name: str) -> None:
    sheet = shipped(name)
    assert not check_sheet(sheet, SHIPPED[name])
    again = EngineSheet.model_validate_json(sheet.canonical())
    assert again == sheet
    assert again.content_hash() == sheet.content_hash()


@pytest.mark.parametrize("of", ENGINES)
def test_the_default_by_layout_is_clean_for_every_engine(of: Engine) -> None:
    codes_found = {finding.code for finding in check_sheet(default_sheet(of), of)}
    # How the banks of a vee lie no layout tells: the default says that it is not known.
    assert codes_found == ({"no_bank_angle"} if of.layout == "vee" else set())


@pytest.mark.parametrize("kind", JointKind)
def test_every_kind_of_joint_has_a_ladder_of_the_conditions_that_it_knows(kind: JointKind) -> None:
    ladder = default_sheet(UNIT_2).ladders[kind]
    assert set(ladder.conditions) == set(LADDERS[kind])
    assert (ladder.undone[0], ladder.undone[-1]) == (ladder.put_back[-1], ladder.put_back[0])


def changed(**changes: Any) -> EngineSheet:
    """The default of Unit 2 with something else in it."""
    plain = default_sheet(UNIT_2).plain()
    return EngineSheet.model_validate({**plain, **changes})


def codes(sheet: EngineSheet, of: Engine = UNIT_2) -> set[str]:
    return {f.code for f in check_sheet(sheet, of)}


def needs(name: str, **rule: Any) -> dict[str, Any]:
    return {"id": name, "of": "same_cylinder", "reason": "Because the author says so", **rule}


def test_a_ladder_that_loops_or_does_not_close_is_found() -> None:
    ladders = default_sheet(UNIT_2).plain()["ladders"]
    assert isinstance(ladders, dict)
    head = {"undone": ["closed_up", "tight", "open", "tight"], "put_back": ["tight", "closed_up"]}
    assert "ladder_loops" in codes(changed(ladders={**ladders, "head": head}))
    head = {"undone": ["closed_up", "open"], "put_back": ["landed", "closed_up"]}
    assert "ladder_does_not_close" in codes(changed(ladders={**ladders, "head": head}))


def test_rules_about_conditions_or_joints_that_no_ladder_knows_are_found() -> None:
    rule = needs("r", work={"joint": "liner"}, other={"joint": "liner", "in": ["tight"]})
    assert codes(changed(needs=[rule])) == {"not_on_the_ladder"}
    rule = needs("r", work={"joint": "liner", "begins": ["tight"]}, other={"joint": "head", "in": ["open"]})
    assert codes(changed(needs=[rule])) == {"not_on_the_ladder"}
    ladders = {k: v for k, v in default_sheet(UNIT_2).plain()["ladders"].items() if k != "rod"}  # type: ignore[attr-defined]  # a dictionary
    assert "no_ladder" in codes(changed(ladders=ladders))


def test_two_rules_of_one_name_are_found() -> None:
    rule = needs("r", work={"joint": "rod"}, other={"joint": "head", "in": ["open", "closed_up"]})
    assert "rule_twice" in codes(changed(needs=[rule, rule]))


def test_a_sheet_that_forbids_the_engine_as_it_runs_is_found() -> None:
    pair = {
        "id": "never-run",
        "one": {"joint": "main", "in": ["closed_up"]},
        "other": {"joint": "main", "in": ["closed_up"]},
        "of": "beside",
        "reason": "A slip of the pen",
    }
    assert codes(changed(never=[pair])) == {"forbids_the_beginning"}


def test_rules_that_lock_everybody_out_are_found_with_their_names() -> None:
    each = [
        needs("head-after-rod", work={"joint": "head", "begins": ["tight"]}, other={"joint": "rod", "in": ["open"]}),
        needs("rod-after-head", work={"joint": "rod", "begins": ["tight"]}, other={"joint": "head", "in": ["open"]}),
    ]
    found = check_sheet(changed(never=[], needs=each), UNIT_2)
    locked = {(f.params["kind"], f.params["condition"], f.params["rules"]) for f in found if f.code == "locked_out"}
    assert ("head", "loose", "head-after-rod") in locked
    assert ("rod", "loose", "rod-after-head") in locked


def test_rules_from_which_there_is_no_way_back_are_found() -> None:
    trap = needs(
        "rod-back-under-head",
        work={"joint": "rod", "begins": ["open"]},
        other={"joint": "liner", "in": ["open"]},
    )
    shut = needs(
        "liner-back-over-rod",
        work={"joint": "liner", "begins": ["open"]},
        other={"joint": "rod", "in": ["open"]},
    )
    out = needs(
        "liner-after-rod", work={"joint": "liner", "begins": ["landed"]}, other={"joint": "rod", "in": ["open"]}
    )
    assert "no_way_back" in codes(changed(never=[], needs=[trap, shut, out]))


def test_isolations_that_are_never_given_back_or_given_back_out_of_nothing_are_found() -> None:
    plain = default_sheet(UNIT_2).plain()
    points, order = plain["isolations"], plain["restore"]
    assert isinstance(points, list)
    assert isinstance(order, list)
    assert codes(changed(restore=[p for p in order if p != "fuel"])) == {"never_restored"}
    assert codes(changed(isolations=[p for p in points if p["point"] != "fuel"])) == {"restores_nothing"}
    assert "point_twice" in codes(changed(isolations=[*points, points[0]]))
    for_test = [{**p, "for_test": True} if p["point"] == "starting_air" else p for p in points]
    assert codes(changed(isolations=for_test)) == {"never_lifted"}


def test_two_doors_of_one_name_and_a_door_to_no_cylinder_are_found() -> None:
    def door(name: str, *cylinders: str) -> dict[str, object]:
        return {"id": name, "space": "crankcase", "cylinders": cylinders}

    assert not codes(changed(doors=[door("one", "1", "2"), door("two", "7")]))
    assert codes(changed(doors=[door("one", "1"), door("one", "2")])) == {"door_twice"}
    assert codes(changed(doors=[door("one", "8")])) == {"no_such_cylinder"}


def test_a_sheet_refuses_what_it_does_not_know_and_joints_without_a_place() -> None:
    for bad in (
        {"joints": [{"kind": "girdle", "label": "Girdle", "names": ["all"], "slots": [1, 2]}]},
        {"joints": [{"kind": "head", "label": "Head", "names": ["8"], "slots": [8]}]},
        {"colour": "green"},
    ):
        with pytest.raises(ValueError, match=r"slot|row|extra"):
            changed(**bad)
    with pytest.raises(DocumentRefused) as refused:
        read_model(read_yaml(b"format: jorvek-engine-sheet/1\nid: x\nnever: [1]\n"), EngineSheet)
    assert {f.line for f in refused.value.findings} >= {3}


# ---- further joints --------------------------------------------------------------------------------------------------


def test_a_girdle_is_one_joint_over_all_mains_and_comes_off_before_any_of_them() -> None:
    sheet = shipped("corvane-v10")
    places = {p.key: p for p in joints_of(UNIT_5, sheet.joints)}
    assert places["girdle-all"].label == "Girdle"
    on = ground(UNIT_5, sheet)
    assert {o.joint for o in in_the_way(on, Work("main-3", "closed_up", "open"))} == {"girdle-all"}
    off = ground(UNIT_5, sheet, girdle_all="open", main_3="open")
    assert {(o.joint, o.rule) for o in in_the_way(off, Work("girdle-all", "open", "landed"))} == {
        ("main-3", "girdle-over-open-main")
    }


def test_a_counterweight_is_not_loosened_over_an_open_main_and_a_crankpin_not_beside_one() -> None:
    seven = ground(UNIT_2, shipped("tarnholt-7l34"), main_3="open")
    assert {o.joint for o in in_the_way(seven, Work("counterweight-4", "closed_up", "open"))} == {"main-3"}
    assert not in_the_way(seven, Work("counterweight-6", "closed_up", "open"))
    two = ground(GREY_PLOVER, shipped("ulvane-5x46"), main_3="open")
    assert {o.joint for o in in_the_way(two, Work("crankpin-2", "closed_up", "open"))} == {"main-3"}


# ---- the crank -------------------------------------------------------------------------------------------------------


def crank_step(**how: Any) -> CrankPositionStep:
    usual = {
        "id": "bar",
        "kind": "crank_position",
        "title": "Bar",
        "cylinder": "this",
        "angle": "0 deg",
        "reference": "tdc_firing",
        "side": "at",
        "proof": "Mark",
        "tolerance": "5 deg",
        "off_first": ["Tools"],
    }
    return CrankPositionStep.model_validate({**usual, **how})


def test_dead_centres_follow_the_firing_order_evenly() -> None:
    centres = dead_centres(UNIT_2, shipped("tarnholt-7l34").crank)
    assert [centres[c] for c in UNIT_2.firing_order] == pytest.approx([k * 720 / 7 for k in range(7)])
    two = dead_centres(GREY_PLOVER, shipped("ulvane-5x46").crank)
    assert [two[c] for c in GREY_PLOVER.firing_order] == pytest.approx([k * 72.0 for k in range(5)])


def test_the_two_cylinders_of_a_pin_stand_a_bank_angle_apart() -> None:
    crank = shipped("corvane-v10").crank
    centres = dead_centres(UNIT_5, crank)
    assert crank.bank_angle is not None
    for n in range(1, 6):
        assert (centres[f"B{n}"] - centres[f"A{n}"]) % 360 == pytest.approx(crank.bank_angle.value)
    assert sorted(centres, key=lambda name: centres[name]) == list(UNIT_5.firing_order)
    for angle in (0.0, 77.0, 400.0):
        heights = {name: below_top_mm(UNIT_5, crank, name, angle) for name in ("A3", "B3")}
        assert heights["A3"] != heights["B3"], "the banks are not alike"


def test_turning_the_other_way_or_seen_from_the_other_side_the_second_bank_comes_first() -> None:
    order = ("A1", "B5", "A5", "B2", "A2", "B3", "A3", "B4", "A4", "B1")
    crank = shipped("corvane-v10").crank
    other = UNIT_5.model_copy(update={"firing_order": order, "rotation": "clockwise"})
    centres = dead_centres(other, crank)
    assert (centres["A2"] - centres["B2"]) % 360 == pytest.approx(90.0)
    seen = UNIT_5.model_copy(update={"firing_order": order, "bank_a_lies": "left"})
    assert dead_centres(seen, crank) == centres


def test_of_a_vee_without_a_bank_angle_or_with_an_order_that_cannot_be_the_second_bank_is_not_known() -> None:
    crank = shipped("corvane-v10").crank
    bare = crank.model_copy(update={"bank_angle": None})
    assert set(dead_centres(UNIT_5, bare)) == {"A1", "A2", "A3", "A4", "A5"}
    with pytest.raises(Refusal) as unknown:
        engine_angle(UNIT_5, bare, "B3", crank_step(), 0.0)
    assert unknown.value.code == "dead_centre_unknown"
    order = ("A1", "B5", "A2", "B3", "A4", "B1", "A5", "B2", "A3", "B4")
    odd = UNIT_5.model_copy(update={"firing_order": order})
    assert "B3" not in dead_centres(odd, crank)
    with pytest.raises(Refusal) as refused:
        vee_angles(odd, crank)
    assert refused.value.code == "pins_at_odds"
    first, second = (str(refused.value.params[name]) for name in ("first", "second"))
    assert first[1:] == second[1:], "two cylinders of one pin"


def test_a_vee_says_how_its_banks_lie_and_its_order_is_one_that_its_pins_allow() -> None:
    sheet = shipped("corvane-v10")
    assert not check_sheet(sheet, UNIT_5)
    without = sheet.model_copy(update={"crank": sheet.crank.model_copy(update={"bank_angle": None})})
    assert {f.code for f in check_sheet(without, UNIT_5)} == {"no_bank_angle"}
    order = ("A1", "B5", "A2", "B3", "A4", "B1", "A5", "B2", "A3", "B4")
    found = check_sheet(sheet, UNIT_5.model_copy(update={"firing_order": order}))
    assert {f.code for f in found} == {"pins_at_odds"}


def test_pins_of_their_own_take_their_offset_off_the_bank_angle() -> None:
    own = {"pins": "offset", "pin_offset": measure_from_text("18 deg", Quantity.ANGLE)}
    centres = dead_centres(UNIT_5, shipped("corvane-v10").crank.model_copy(update=own))
    assert (centres["B1"] - centres["A1"]) % 360 == pytest.approx(72.0)
    assert sorted({round((b - a) % 720, 6) for a, b in pairwise(sorted(centres.values()))}) == [72.0], "even firing"


@pytest.mark.parametrize(
    ("how", "read", "wanted"),
    [
        ({}, 0.0, 720 / 7),
        ({"side": "before"}, 60.0, 720 / 7 - 60.0),
        ({"side": "after"}, 60.0, 720 / 7 + 60.0),
        ({"reference": "bdc"}, 0.0, 720 / 7 + 180.0),
        ({"reference": "tdc_exchange", "side": "after"}, 300.0, (720 / 7 + 660.0) % 720.0),
    ],
)
def test_a_position_of_a_cylinder_is_an_angle_of_the_engine(how: dict[str, Any], read: float, wanted: float) -> None:
    crank = shipped("tarnholt-7l34").crank
    assert engine_angle(UNIT_2, crank, "2", crank_step(**how), read) == pytest.approx(wanted)


@pytest.mark.parametrize("cylinder", UNIT_2.firing_order)
@pytest.mark.parametrize("below", [0.0, 30.0, 225.0, 450.0])
def test_thirty_millimetres_before_the_top_is_a_position(cylinder: str, below: float) -> None:
    crank = shipped("tarnholt-7l34").crank
    before = angle_at_height(UNIT_2, crank, cylinder, below, "before")
    after = angle_at_height(UNIT_2, crank, cylinder, below, "after")
    for angle in (before, after):
        assert 0 <= angle < 720
        assert below_top_mm(UNIT_2, crank, cylinder, angle) == pytest.approx(below, abs=1e-6)
    top = dead_centres(UNIT_2, crank)[cylinder]
    assert (after - top) % 720 == pytest.approx((top - before) % 720, abs=1e-9), "as far before as after"
    assert (after - top) % 720 <= 180 + 1e-9


def test_a_height_is_no_angle_without_geometry_beyond_the_stroke_or_at_no_cylinder() -> None:
    crank = shipped("tarnholt-7l34").crank
    bare = default_sheet(UNIT_2).crank
    assert below_top_mm(UNIT_2, bare, "1", 0.0) is None, "without geometry nothing is guessed"
    wrong = {
        "no_geometry": (bare, "1", 30.0),
        "beyond_the_stroke": (crank, "1", 450.1),
        "no_such_joint": (crank, "9", 1),
    }
    for code, (sheet, cylinder, below) in wrong.items():
        with pytest.raises(Refusal) as refused:
            angle_at_height(UNIT_2, sheet, cylinder, below, "before")
        assert refused.value.code == code
    with pytest.raises(Refusal):
        engine_angle(UNIT_2, crank, "9", crank_step(), 0.0)
