"""Each finding of the procedure check: a document that has it, and the shipped one that has none."""

from __future__ import annotations

import copy
import re
from collections.abc import Iterator
from typing import Any, get_args

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import BaseModel

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.options import selections
from jorvek.core.procedure.staircase import staircases
from jorvek.core.procedure.steps import GateStep, RepeatStep
from jorvek.core.procedure_check import Severity, check
from jorvek.core.procedure_check.among import Others, check_with
from jorvek.core.run.log.expansion import MAKERS, expand
from jorvek.core.run.log.expansion.measured import GATES
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.messages import catalogue, say
from jorvek.reports.work_sheet import item_words, work_steps
from jorvek.settings import ROOT
from jorvek.work.library.checking import as_yaml, checked_lines, findings, in_words, sheet
from jorvek.work.library.revisions import read_procedure
from tests.core.drafts import GONE, Change, Data, also, change, drop, insert, move, step
from tests.core.metal_drafts import METAL
from tests.core.paper_run import PROCEDURE

HEAD = "tarnholt-7l34-head-tighten"
SHIPPED = ROOT / "procedures" / f"{HEAD}.yaml"
BAD = ROOT / "procedures" / "tarnholt-7l34-head-bad.yaml"
PATHS = {p.stem: p for p in sorted((ROOT / "procedures").glob("*.yaml"))}
PLAIN: dict[str, Any] = {name: read_yaml(path.read_bytes()).data for name, path in PATHS.items()}
GOOD = {name: read_procedure(path.read_bytes()) for name, path in PATHS.items() if "bad" not in name}


def at_odds(data: Data) -> None:
    """Two options, each of which goes only with the shift that the other does not go with."""
    data["options"][0]["choices"] = [{**c, "needs": {"shift": ["day"]}} for c in data["options"][0]["choices"]]
    shifts = [{"id": name, "title": name} for name in ("day", "night")]
    crews = [{"id": name, "title": name, "needs": {"shift": ["night"]}} for name in ("own", "lent")]
    data["options"] += [{"id": "shift", "title": "Shift", "choices": shifts}]
    data["options"] += [{"id": "crew", "title": "Crew", "choices": crews}]


V10, ROD, MAIN, COVER = (
    "corvane-v10-head-tighten",
    "corvane-v10-rod-tighten",
    "corvane-v10-main-tighten",
    "ulvane-5x46-cover-tighten",
)
LOOSE, MAINS, LINER = "tarnholt-7l34-head-loosen", "tarnholt-7l34-main-loosen", "tarnholt-7l34-liner-fit"
MAINS_CLOSED = "tarnholt-7l34-main-tighten"
BIG_END, CROSSHEAD, CRANKPIN = (
    "tarnholt-7l34-rod-loosen",
    "ulvane-5x46-crosshead-loosen",
    "ulvane-5x46-crankpin-loosen",
)
VEE_MAINS = "corvane-v10-main-loosen"
ONE_SIDE = ("orders.b", {"sequence": ["B"], "stated_by": "Manual 7.1"})
UNHOOKED = {
    "kind": "temporary_off",
    "title": "Tackles off again",
    "of": "hang",
    "items": [{"id": "fore", "text": "Fore"}, {"id": "aft", "text": "Aft"}],
}
CLICK = {"kind": "check_trip", "title": "Click", "wrench": "wrench-long", "moves_at_most": "5 deg", "order": "centre"}
BLADE = {"kind": "feeler", "title": "Blade", "order": "round", "blade": "0.05 mm", "at": "under the nut"}
LOOK = {
    "kind": "gate",
    "title": "Late",
    "instrument": "dial-gauge",
    "gate": {"measure": "side_float", "limits": {"upper": "1 mm"}},
}

FIXTURES: list[tuple[str, str, Change, str]] = [
    ("grip_contradiction", HEAD, change(("fasteners.0.sections.1.length", "350 mm")), "fasteners.0.sections"),
    ("stud_too_short", HEAD, change(("fasteners.0.free_length", "460 mm")), "fasteners.0.free_length"),
    ("new_not_asked", ROD, drop("new"), "fasteners.0.reuse"),
    ("lengths_in_one_group", V10, change(("fasteners.0.positions.0.length_code", "L250")), "fasteners.0.positions"),
    ("ceiling_above_rating", HEAD, change(("@ceiling.ceiling", "1550 bar")), "@ceiling.ceiling"),
    ("ceiling_over_yield", HEAD, change(("@ceiling.ceiling", "1450 bar")), "@ceiling.ceiling"),
    ("stroke_short", HEAD, change(("tensioners.0.stroke", "2 mm")), "@ceiling.ceiling"),
    ("stage_above_rating", HEAD, change(("@second.pressure", "1600 bar")), "@second.pressure"),
    ("stage_over_yield", HEAD, change(("@second.pressure", "1400 bar")), "@second.pressure"),
    ("ceiling_missing", HEAD, drop("ceiling"), "@first.pressure"),
    ("stage_reaches_ceiling", HEAD, change(("@second.band", "8 %")), "@second.pressure"),
    ("not_vented", HEAD, drop("vent"), "@first"),
    ("no_caution", HEAD, change(("@first.cautions", [])), "@first"),
    ("stages_not_rising", HEAD, change(("@first.pressure", "1000 bar")), "@second.pressure"),
    ("share_unusual", HEAD, change(("@second.pressure", "620 bar")), "@second.pressure"),
    ("never_released", HEAD, change(("@second.afterwards", "raise")), "@second.afterwards"),
    ("seat_not_proved", HEAD, change(("@second.feeler", GONE)), "@second"),
    ("feeler_after_release", HEAD, insert("relieve", id="late", **BLADE), "@late"),
    ("zero_not_proved", HEAD, drop("relieve"), "@second"),
    ("not_signed_for", HEAD, change(("@chief-sees.covers", ["length-after"])), "@second"),
    ("thread_not_measured", HEAD, drop("thread-above"), "@seat"),
    ("tool_left_on", HEAD, drop("tools-off"), "@seat"),
    ("wrong_direction", HEAD, change(("@seat.direction", "loosen")), "@seat.direction"),
    ("backed_off_to_tighten", HEAD, change(("@seat.back_off", "1 turn")), "@seat"),
    ("no_back_off", LOOSE, change(("@seat.back_off", GONE)), "@seat"),
    ("pulled_without_tool", HEAD, drop("seat"), "@first"),
    ("puller_short", HEAD, change(("@thread-above.at_least", "60 mm")), "@thread-above.at_least"),
    ("tool_range_short", HEAD, change(("@tools.tools.1.range_at_least", "900 bar")), "@tools.tools.1"),
    ("gauge_too_coarse", HEAD, change(("@tools.tools.0.resolution_at_most", "20 bar")), "@first.band"),
    ("gauge_not_capable", COVER, change(("@tools.tools.0.accuracy", "2.5 %")), "@tools.tools.0"),
    ("run_down_does_not_fit", HEAD, change(("tensioners.0.rundown_load", "60 kN")), "@first.nut_bar"),
    ("length_under_load", HEAD, move("length-before", "second"), "@length-before"),
    ("stretch_before_load", HEAD, move("length-after", "length-before"), "@length-after"),
    ("stretch_does_not_fit", HEAD, change(("@length-after.target", "1.090 mm")), "@length-after.target"),
    (
        "length_gauge_too_coarse",
        HEAD,
        change(("@tools.tools.3.resolution_at_most", "0.05 mm")),
        "@length-after.instrument",
    ),
    ("target_outside_band", HEAD, change(("@length-after.target", "1.300 mm")), "@length-after.target"),
    ("target_outside_band", ROD, change(("@turn.band", {"lower": "81 deg", "upper": "85 deg"})), "@turn.angle"),
    ("target_outside_band", ROD, change(("@snug.band", {"upper": "44 N.m"})), "@snug.torque"),
    ("cannot_reckon", HEAD, change(("@first.nut_bar", "0 N.m")), ""),
    ("spread_says_nothing", HEAD, change(("@length-after.spread_at_most", "0.400 mm")), "@length-after.spread_at_most"),
    (
        "gauge_window_not_capable",
        HEAD,
        change(("@length-after.upper", "1.335 mm"), ("@length-after.lower", "1.180 mm")),
        "@length-after.instrument",
    ),
    (
        "window_too_narrow",
        HEAD,
        change(("@length-after.upper", "1.190 mm"), ("@length-after.lower", "1.120 mm")),
        "@length-after.target",
    ),
    ("soft_bolt_not_seen", ROD, change(("@turn.end_torque", GONE)), "@turn"),
    ("groups_uneven", COVER, change(("@odd-first.pressure", "750 bar")), "@even-first"),
    ("reach_unknown", COVER, change(("fasteners.0.clamped.reach", GONE)), "@odd-first.order"),
    ("expected_at_ceiling", LOOSE, change(("@free.expected", "1140 bar")), "@free.expected"),
    ("freedom_not_proved", LOOSE, change(("@free.check_at", GONE), ("@relieve.nuts_free", GONE)), "@free"),
    ("loosening_stroke_short", LOOSE, change(("@seat.back_off", "3 turn")), "@seat.back_off"),
    ("back_off_short", LOOSE, change(("@seat.back_off", "0.25 turn")), "@seat.back_off"),
    ("turn_back_short", LOOSE, change(("@free.turn_back", "0.25 turn")), "@free.turn_back"),
    ("no_room_for_nut", LOOSE, change(("@free.room", "2 mm")), "@free.room"),
    ("torque_for_other_lubricant", V10, change(("@snug.lubricant", "Copper paste")), "@snug.lubricant"),
    ("friction_unknown", V10, change(("fasteners.1.lubricant.friction", GONE)), "@short-snug.torque"),
    ("torques_not_rising", V10, change(("@snug.torque", "120 N.m")), "@full-snug.torque"),
    ("torque_over_yield", V10, change(("@short-full.torque", "140 N.m")), "@short-full.torque"),
    ("load_does_not_fit", V10, change(("@full-snug.aims_at", "50 kN")), "@full-snug.torque"),
    ("angle_reaches_yield", ROD, change(("fasteners.0.reuse", {"rule": "by_count", "uses": 3})), "@turn.angle"),
    ("angle_without_snug", ROD, drop("snug", "full-snug"), "@turn"),
    ("angle_too_coarse", ROD, change(("@turn.band", {"lower": "79.5 deg", "upper": "80.5 deg"})), "@turn.band"),
    ("check_trip_after_angle", V10, insert("second-cycle", id="click", torque="105 N.m", **CLICK), "@click"),
    ("check_trip_other_torque", V10, change(("@short-again.torque", "95 N.m")), "@short-again.torque"),
    ("retighten_after_angle", V10, change(("@warm.repeats", ["full-snug"])), "@warm.repeats"),
    ("wrench_range_short", V10, change(("@tools.tools.0.range_at_least", "100 N.m")), "@tools.tools.0"),
    ("wrench_low_on_scale", V10, change(("@tools.tools.0.range_at_most", "600 N.m")), "@tools.tools.0"),
    ("wrench_not_capable", V10, change(("@tools.tools.0.accuracy", "6 %")), "@tools.tools.0"),
    (
        "end_torque_finds_nothing",
        ROD,
        change(("@turn.end_torque.at_least", "240 N.m")),
        "@turn.end_torque.at_least",
    ),
    ("end_torque_bars_sound", ROD, change(("@turn.end_torque.at_least", "270 N.m")), "@turn.end_torque.at_least"),
    ("end_torque_bars_strong", ROD, change(("@turn.end_torque.at_most", "370 N.m")), "@turn.end_torque.at_most"),
    ("stage_not_as_made", V10, change(("@snug.made", {"of": "full-snug", "part": 2, "parts": 3})), "@snug.torque"),
    ("run_down_past_first_stage", V10, change(("@run-down.at_most", "60 N.m")), "@run-down.at_most"),
    ("other_lubricant", V10, change(("@oil-long.product", "Copper paste")), "@oil-long.product"),
    ("dry_face_lubricated", V10, change(("@oil-long.faces", ["thread", "gasket bead"])), "@oil-long.faces"),
    ("never_lubricated", V10, drop("oil-long"), "@snug"),
    ("stand_in_has_no_torque", MAIN, change(("@snug.order", "all")), "fasteners.0.lubricant.others"),
    (
        "friction_test_same_wrench",
        MAIN,
        change(("@oil-main.friction_test.torque_sensor", "wrench-big")),
        "@oil-main.friction_test.torque_sensor",
    ),
    ("order_empty", V10, change(("orders.spare", {"sequence": []})), "orders.spare"),
    ("order_rule_fails", V10, change(("orders.undo.made.of", "nothing")), "orders.undo.made"),
    (
        "order_not_as_made",
        V10,
        change(("orders.short.sequence", ["S1", "S2", "S3", "S4", "S5", "S6"])),
        "orders.short.sequence",
    ),
    (
        "order_lopsided",
        V10,
        change(("orders.short", {"sequence": ["S1", "S2", "S3", "S4", "S5", "S6"]})),
        "@short-snug.order",
    ),
    ("loosening_order_unstated", V10, change(("orders.undo.stated_by", GONE)), "@settle.order"),
    ("loosening_missing", V10, change(("applies_to.undone_by", GONE)), "applies_to"),
    ("fastener_in_no_stage", V10, drop("short-snug", "short-full", "short-again", "warm"), "fasteners.1.positions"),
    ("never_put_right", V10, drop("guides-out"), "@guide"),
    ("never_restored", LOOSE, change(("@make-safe.carried_to", GONE)), "@make-safe"),
    ("not_made_safe", LOOSE, drop("make-safe"), "steps"),
    ("measured_too_late", LINER, insert("seal", id="late", **LOOK), "@late"),
    ("strip_left_in", MAIN, drop("cap-off"), "@strip"),
    ("strip_read_too_early", MAIN, move("cap-off", "strip"), "@strip"),
    ("strip_not_squeezed", MAIN, drop("trial-snug", "trial-full", "trial-turn"), "@strip"),
    ("trial_not_full", MAIN, drop("trial-turn"), "@trial-full"),
    ("trial_not_full", MAIN, change(("@trial-full.torque", "200 N.m")), "@trial-turn"),
    ("off_before_let_go", MAIN, drop("trial-off", "trial-slack"), "@cap-off"),
    ("strip_scale_short", MAIN, change(("@strip.gate.limits.upper", "0.200 mm")), "@strip.gate.scale"),
    ("strip_scale_order", MAIN, change(("@strip.gate.scale.1.clearance", "0.110 mm")), "@strip.gate.scale"),
    ("last_nut_before_support", MAINS, drop("jack", "jack-ports"), "@main-off"),
    ("last_nut_before_support", BIG_END, drop("hang", "unhook"), "@nuts-off"),
    ("last_nut_before_support", BIG_END, drop("jack", "jack-ports", "jack-off"), "@nuts-off"),
    ("last_nut_before_support", CROSSHEAD, insert("hang", id="gone", **UNHOOKED), "@nuts-off"),
    ("too_few_carriers", CROSSHEAD, change(("@hang.items", [{"id": "fore", "text": "Tackle, fore"}])), "@nuts-off"),
    ("too_few_carriers", CRANKPIN, change(("@jacks.items", [{"id": "fore", "text": "Jack F"}])), "@nuts-off"),
    ("other_half_unstated", BIG_END, change(("fasteners.0.hangs", GONE)), "@nuts-off"),
    ("off_before_let_go", VEE_MAINS, move("sides-out", "neighbours"), "@sides-out"),
    ("cap_let_go_before_side", VEE_MAINS, move("sides", "slack"), "@slack"),
    ("cap_let_go_before_side", VEE_MAINS, change(ONE_SIDE, ("@sides.order", "b")), "@slack"),
    ("side_not_seated", MAIN, drop("side-low-a"), "@snug"),
    ("side_tight_before_cap", MAIN, drop("side-a", "side-b", "side-a-again"), "@side-low-a"),
    ("side_unstated", MAIN, change(("fasteners.1.acts", GONE)), "fasteners"),
    ("neighbours_not_asked", VEE_MAINS, drop("neighbours"), "@sides"),
    ("neighbours_not_asked", VEE_MAINS, move("neighbours", "sides"), "@sides"),
    ("barred_with_tool_fitted", MAINS, move("position", "side-seat"), "@position"),
    (
        "barred_with_tool_fitted",
        MAINS,
        insert("side-seat", id="press", kind="inch", title="Press", text="Inch the cap up", stop_at="It moves"),
        "@press",
    ),
    (
        "put_right_without_effort",
        MAINS,
        change(("@next-caps.carried_to", GONE), ("@next-caps.effort", GONE)),
        "@next-caps.puts_right",
    ),
    (
        "disturbed_unstated",
        MAINS,
        change(*((f"@next-caps.{f}", GONE) for f in ("carried_to", "effort", "slackens", "disturbs"))),
        "@next-caps",
    ),
    (
        "put_right_without_pull",
        MAINS,
        also(
            change(("@next-caps.carried_to", GONE)),
            insert(
                "look",
                id="caps-back",
                kind="put_right",
                title="Caps tight",
                of="next-caps",
                items=[{"id": "next-camshaft-side", "text": "Tight"}, {"id": "next-exhaust-side", "text": "Tight"}],
            ),
        ),
        "@caps-back",
    ),
    ("name_read_as_truth", VEE_MAINS, change(("@shells.id", "no")), "@no.id"),
    ("table_gap", V10, change(("@grade.table.1.above", "0.46 mm")), "@grade.table.1"),
    ("options_impossible", COVER, at_odds, "options"),
    ("step_unreachable", COVER, change(("@ring.only", {"tools": []})), "@ring.only"),
    *METAL,
]


LAND, CLOSE, COVER_OFF = "tarnholt-7l34-head-land", "tarnholt-7l34-head-close", "ulvane-5x46-cover-loosen"
Among = tuple[str, str, Change, str, Change, str]


def twin(name: str, *edits: tuple[str, Any]) -> Change:
    """Make of one document another for the same joint, with something altered."""
    return change(("id", f"{name}-new"), ("title", "Newer book"), *edits)


def same(data: Data) -> None:
    """Leave a document as it is."""


AMONG: list[Among] = [
    ("procedure_not_here", LOOSE, same, CLOSE, change(("id", "another-name")), "@make-safe.carried_to"),
    ("procedure_not_here", HEAD, same, LOOSE, change(("id", "another-name")), "applies_to.undone_by"),
    ("undoes_another", HEAD, same, LOOSE, change(("applies_to.joint", "liner")), "applies_to.undone_by"),
    (
        "debt_not_paid",
        LOOSE,
        same,
        CLOSE,
        change(("@restore.items", [{"id": "signs", "text": "Off"}])),
        "@make-safe.carried_to",
    ),
    ("debt_not_paid", LOOSE, same, CLOSE, drop("pipes"), "@pipes.carried_to"),
    (
        "put_right_without_pull",
        MAINS,
        same,
        MAINS_CLOSED,
        change(("@next-caps.effort", {"torque": "65 N.m"})),
        "@next-caps.carried_to",
    ),
    ("paid_for_nothing", CLOSE, same, LOOSE, drop("pipes"), "@pipes"),
    ("chain_gap", LAND, change(("parts.3.starts", GONE)), LOOSE, same, "from"),
    ("contradicts", LOOSE, twin(LOOSE, ("@seat.back_off", "0.75 turn")), LOOSE, same, "@seat.back_off"),
    ("contradicts", HEAD, twin(HEAD, ("fasteners.0.free_length", "581 mm")), HEAD, same, "fasteners.0.free_length"),
]


def place_of(data: Data, place: str) -> str:
    """Return a place as findings name it: steps by their index."""
    if not place.startswith("@"):
        return place
    name, _, rest = place[1:].partition(".")
    index = [s["id"] for s in data["steps"]].index(name)
    return f"steps.{index}.{rest}" if rest else f"steps.{index}"


@pytest.mark.parametrize(
    ("code", "name", "spoil", "where"), FIXTURES, ids=[f"{f[0]}-{k}" for k, f in enumerate(FIXTURES)]
)
def test_a_fault_is_found_where_it_stands(code: str, name: str, spoil: Change, where: str) -> None:
    data: Any = copy.deepcopy(PLAIN[name])
    spoil(data)
    found = [f for f in check(Procedure.model_validate(data)) if f.code == code]
    assert place_of(data, where) in [".".join(str(part) for part in f.path) for f in found]
    assert all("{" not in in_words(f) for f in found)


@pytest.mark.parametrize(
    ("code", "name", "spoil", "other", "spoil_other", "where"), AMONG, ids=[f"{a[0]}-{k}" for k, a in enumerate(AMONG)]
)
def test_a_fault_between_documents_is_found(
    code: str, name: str, spoil: Change, other: str, spoil_other: Change, where: str
) -> None:
    mine, theirs = copy.deepcopy(PLAIN[name]), copy.deepcopy(PLAIN[other])
    spoil(mine)
    spoil_other(theirs)
    beside = [p for p in GOOD.values() if p.id not in (name, other)] + [Procedure.model_validate(theirs)]
    found = [
        f for f in check_with(Procedure.model_validate(mine), Others(tuple(beside), tuple(beside))) if f.code == code
    ]
    assert place_of(mine, where) in [".".join(str(part) for part in f.path) for f in found]
    assert all("{" not in in_words(f) for f in found)


NARROW = {"lower": "100 lbf.ft", "upper": "105 lbf.ft"}


@pytest.mark.parametrize(
    ("accuracy", "means", "barred"), [("3 %", GONE, True), ("2.4 %", GONE, False), ("3 %", "setting", False)]
)
def test_a_narrow_book_and_a_usual_wrench_have_a_way_out(accuracy: str, means: object, barred: bool) -> None:
    """100 to 105 lbf·ft is ± 2.4 %: a wrench of 3 % cannot keep it, but it can be set to it."""
    data = copy.deepcopy(PLAIN[MAIN])
    change(("@snug.torque", "102.5 lbf.ft"), ("@snug.band", NARROW), ("@tools.tools.0.accuracy", accuracy))(data)
    if means is not GONE:
        change(("@snug.band_of", means))(data)
    found = {f.code: f for f in check(Procedure.model_validate(data))}
    assert ("wrench_not_capable" in found) is barred
    if barred:
        assert found["wrench_not_capable"].params["truer"] == 2.4


@pytest.mark.parametrize(("torque", "made"), [("35 N.m", True), ("35.9 N.m", True), ("37 N.m", False)])
def test_equal_stages_are_made_once_and_frozen_to_a_round_figure(torque: str, made: bool) -> None:
    data = copy.deepcopy(PLAIN[V10])
    change(("@snug.torque", torque), ("@snug.made", {"of": "full-snug", "part": 1, "parts": 3}))(data)
    codes = {f.code for f in check(Procedure.model_validate(data))}
    assert ("stage_not_as_made" not in codes) is made


@pytest.mark.parametrize(
    "spoil", [{"of": "full-snug", "part": 3, "parts": 3}, {"of": "nothing", "part": 1, "parts": 3}]
)
def test_an_equal_stage_is_a_part_of_a_torque_that_is_there(spoil: Data) -> None:
    data = copy.deepcopy(PLAIN[V10])
    change(("@snug.made", spoil))(data)
    with pytest.raises(ValueError, match=r"below 'parts'|torque 'nothing'"):
        Procedure.model_validate(data)


def test_two_documents_told_apart_by_what_is_on_the_plate_do_not_contradict() -> None:
    plates = [change(("variants", [{"id": "tool", "title": "Tool", "evidence": "Plate", "values": [v]}])) for v in "AB"]
    first, second = copy.deepcopy(PLAIN[LOOSE]), copy.deepcopy(PLAIN[LOOSE])
    twin(LOOSE, ("@seat.back_off", "0.75 turn"))(second)
    plates[0](first)
    plates[1](second)
    shelf = Others(tuple(GOOD.values()), (Procedure.model_validate(first),))
    assert check_with(Procedure.model_validate(second), shelf) == []
    plates[0](second)
    assert [f.code for f in check_with(Procedure.model_validate(second), shelf)] == ["contradicts"]


def test_half_a_turn_and_180_degrees_are_one() -> None:
    data = copy.deepcopy(PLAIN[LOOSE])
    twin(LOOSE, ("@seat.back_off", "360 deg"))(data)
    assert check_with(Procedure.model_validate(data), Others(tuple(GOOD.values()), tuple(GOOD.values()))) == []


@pytest.mark.parametrize("name", GOOD)
def test_every_shipped_procedure_is_clean(name: str) -> None:
    assert [f for f in check(GOOD[name]) if f.severity is not Severity.NOTE] == []
    among = check_with(GOOD[name], Others(tuple(GOOD.values()), tuple(GOOD.values())))
    assert [f for f in among if f.severity is not Severity.NOTE] == []


def test_every_finding_has_a_fixture_and_words() -> None:
    words = catalogue()["check"]
    assert isinstance(words, dict)
    assert set(words) - {"severity"} == {code for code, *_ in [*FIXTURES, *AMONG]}


def test_together_the_shipped_procedures_use_every_kind_of_step() -> None:
    steps = [s for p in GOOD.values() for s in p.steps]
    assert len(GOOD) >= 14
    assert {type(s) for s in steps} == {*MAKERS, RepeatStep}
    assert {s.gate.measure for s in steps if isinstance(s, GateStep)} == {_measure(m) for m in GATES}


def _measure(model: type) -> str:
    return str(get_args(model.model_fields["measure"].annotation)[0])  # type: ignore[attr-defined]  # every measure is a Literal


def test_the_bad_draft_shows_many_kinds_each_with_its_line() -> None:
    raw = BAD.read_bytes()
    procedure = read_model(read_yaml(raw), Procedure)
    kinds = {f.code for f in check(procedure)}
    assert len(kinds) >= 20
    lines, stops = checked_lines(raw)
    assert stops
    text = raw.decode().splitlines()
    ceiling = next(f for f in lines if "tool's rating" in f.message)
    assert text[ceiling.line - 1].strip() == "ceiling: 1600 bar"
    coarse = next(f for f in lines if "± 20 bar" in f.message)
    assert text[coarse.line - 1].strip() == "band: 2 %"
    order = [f.severity is Severity.WARNING for f in check(procedure)]
    assert order == sorted(order)


def test_a_document_that_cannot_be_read_is_a_finding_too() -> None:
    lines, stops = checked_lines(SHIPPED.read_bytes().replace(b"1000 bar", b"1000 barn"))
    assert stops
    assert any("barn" in f.message for f in lines)
    assert checked_lines(SHIPPED.read_bytes()) == ([], False)


def stairs_of(name: str, group: str, **selection: str) -> list[tuple[float, ...]]:
    found = next(s for s in staircases(GOOD[name], selection) if s.group == group)
    return [(s.cycle, *(round(n / 1000, 1) for n in (s.least_N, s.held_N, s.most_N))) for s in found.stairs]


def test_the_staircases_rise_to_the_printed_loads() -> None:
    """Loads and friction ranges as the worked tables of the demo world print them."""
    stairs = staircases(PROCEDURE, {})[0]
    assert [round(s.held_N / 1000, 1) for s in stairs.stairs] == [520.6, 859.9]
    assert [s.released for s in stairs.stairs] == [False, True]
    assert stairs.stairs[1].tool_N == pytest.approx(925.4e3, abs=100)
    assert stairs.allowed_N is not None
    assert stairs.ceiling_N is not None
    assert stairs.rating_N is not None
    assert stairs.stairs[1].tool_N is not None
    assert stairs.stairs[1].tool_N < stairs.allowed_N < stairs.yield_N
    assert stairs.ceiling_N < stairs.rating_N
    assert stairs.target_N == pytest.approx(stairs.stairs[1].held_N, rel=0.002)
    head = stairs_of(V10, "head-long", tool="bar")
    assert head[1:3] == [(1, 28.8, 33.1, 38.9), (1, 135.8, 140.1, 145.9)]
    assert [s[1:] for s in head[3:]] == [s[1:] for s in head[:3]], "the second cycle builds the same load"
    assert stairs_of(ROD, "rod-bolt")[-1][1:] == (118.7, 119.7, 120.3)
    assert stairs_of(MAIN, "main-bolt", clearance="free")[-1][1:] == (195.2, 203.7, 215.2)


def test_what_the_second_group_takes_from_the_first_is_on_the_staircase() -> None:
    last = next(iter(staircases(GOOD[COVER], {"tools": "four"}))).stairs[-1]
    loads = [last.each_N.get(name, last.held_N) for name in "12345678"]
    assert max(loads) / min(loads) == pytest.approx(1.0, abs=2e-3)
    assert last.names == ("2", "4", "6", "8")
    data: Any = copy.deepcopy(PLAIN[COVER])
    step(data, "odd-first")["pressure"] = "750 bar"
    plain = staircases(Procedure.model_validate(data), {"tools": "four"})[0].stairs[-1]
    assert round(100 * (1 - plain.each_N["1"] / plain.each_N["2"]), 1) == 3.3


def test_a_procedure_goes_out_as_a_document_and_comes_back_as_the_same_revision() -> None:
    for path in PATHS.values():
        procedure = read_model(read_yaml(path.read_bytes()), Procedure)
        again = read_model(read_yaml(as_yaml(procedure)), Procedure)
        assert again.content_hash() == procedure.content_hash()


@pytest.mark.parametrize("name", GOOD)
def test_the_sheet_says_every_number_and_point_of_the_document(name: str) -> None:
    read = sheet(GOOD[name])
    shown = " ".join([f.text for s in read.steps for f in s.facts] + [p for s in read.steps for p in s.points])
    unsaid = [text for s in GOOD[name].steps for text in _numbers_of(s) if text not in shown]
    assert unsaid == []
    words = catalogue()["procedure"]
    assert isinstance(words, dict)
    fields, kinds = words["fact"], words["kind"]
    assert isinstance(fields, dict)
    assert isinstance(kinds, dict)
    assert {f.name for s in read.steps for f in s.facts} <= set(fields)
    assert {s.kind for s in read.steps} <= set(kinds)
    codes = words["code"]
    assert isinstance(codes, dict)
    assert {code for s in read.steps for f in s.facts for code in f.codes} <= set(codes)
    assert read.findings == findings(GOOD[name])
    assert [f for f in read.findings if f.severity is not Severity.NOTE] == []


def _numbers_of(value: Any) -> Iterator[str]:
    if isinstance(value, Measure):
        yield value.shown
    elif isinstance(value, BaseModel):
        for _, inner in value:
            yield from _numbers_of(inner)
    elif isinstance(value, tuple):
        for inner in value:
            yield from _numbers_of(inner)


@pytest.mark.parametrize("name", GOOD)
def test_every_call_has_a_key_of_its_own_and_words(name: str) -> None:
    for selection in selections(GOOD[name]):
        cells = expand(GOOD[name], selection)
        keys = [c.key for c in cells]
        assert len(set(keys)) == len(keys)
        for k, cell in enumerate(cells):
            assert {*cell.needs, *cell.uses} <= set(keys[:k]), cell.key
            assert item_words(cell)
        assert work_steps(GOOD[name], selection)


def test_a_second_cycle_keeps_its_own_calls() -> None:
    cells = {c.key: c for c in expand(GOOD[V10], {"tool": "bar"})}
    again = cells["turn-bar#2/turn/1"]
    assert again.needs[0] == "turn-bar#2/marks"
    assert (again.cycle, again.target, again.upper) == (2, 105.0, 110.0)
    assert "turn-gauge/turn/1" not in cells


def test_words_of_a_refusal_name_the_numbers() -> None:
    assert say("check.ceiling_missing.what", {"pressure": 600.0}).startswith("600 bar")
    with pytest.raises(DocumentRefused):
        read_yaml(b"a: *b")


@given(st.data())
def test_any_number_may_be_absurd_and_the_check_still_answers(data: st.DataObject) -> None:
    plain = copy.deepcopy(PLAIN[data.draw(st.sampled_from([HEAD, V10, COVER, MAINS]))])
    places = list(_numbers(plain))
    for _ in range(data.draw(st.integers(1, 3))):
        holder, key = data.draw(st.sampled_from(places))
        _, unit = str(holder[key]).split(" ")
        holder[key] = f"{data.draw(st.sampled_from(['0', '0.000001', '-1', '7', '99999', '1000000000']))} {unit}"
    lines, _ = checked_lines(yaml.safe_dump(plain, sort_keys=False).encode())
    assert all(finding.line >= 1 and "{" not in finding.message for finding in lines)


def _numbers(value: Any) -> Iterator[tuple[Any, Any]]:
    """Yield every place of a document that holds a number with its unit."""
    pairs = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, item in pairs:
        if isinstance(item, str) and re.fullmatch(r"-?\d+(\.\d+)? [A-Za-z%][\w./%]*", item):
            yield value, key
        else:
            yield from _numbers(item)


PIECES = [
    b"- ",
    b": ",
    b"{",
    b"}",
    b"[",
    b"\t",
    b"\x00",
    b"\xff",
    b"&a ",
    b"*a",
    b"|\n",
    b"'",
    b'"',
    b"? ",
    b"9" * 400,
    b"!!x ",
]


@settings(max_examples=150)
@given(st.integers(0, 5000), st.integers(0, 60), st.sampled_from(PIECES), st.booleans())
def test_a_damaged_document_ends_in_findings_or_in_a_procedure(at: int, cut: int, piece: bytes, whole: bool) -> None:
    raw = SHIPPED.read_bytes()
    at %= len(raw)
    damaged = raw[:at] + piece + (raw[at + cut :] if whole else b"")
    lines, stops = checked_lines(damaged)
    last = damaged.count(b"\n") + 1
    assert all(1 <= finding.line <= last and finding.message for finding in lines)
    if not stops:
        assert read_model(read_yaml(damaged), Procedure).content_hash()
