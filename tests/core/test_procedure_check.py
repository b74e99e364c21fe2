"""Each finding of the procedure check: a document that has it, and the shipped one that has none."""

from __future__ import annotations

import copy
import io
import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from ruamel.yaml import YAML

from jorvek.core.procedure.check import Severity, check
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.staircase import staircase
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.messages import catalogue, say
from jorvek.settings import ROOT
from jorvek.work.checking import as_yaml, checked_lines, findings, in_words, sheet
from tests.core.paper_run import PROCEDURE

Data = dict[str, Any]
SHIPPED = ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml"
BAD = ROOT / "procedures" / "tarnholt-7l34-head-bad.yaml"
PLAIN = read_yaml(SHIPPED.read_bytes()).data


def step(data: Data, name: str) -> Data:
    return next(s for s in data["steps"] if s["id"] == name)


def drop(name: str) -> Callable[[Data], None]:
    def change(data: Data) -> None:
        data["steps"] = [s for s in data["steps"] if s["id"] != name]
        covers = step(data, "chief-sees")["covers"]
        if name in covers:
            covers.remove(name)

    return change


def put(name: str, key: str, value: Any) -> Callable[[Data], None]:
    def change(data: Data) -> None:
        if value is None:
            step(data, name).pop(key)
        else:
            step(data, name)[key] = value

    return change


def head(part: str, key: str, value: Any) -> Callable[[Data], None]:
    return lambda data: data[part].__setitem__(key, value)


def tool(index: int, key: str, value: str) -> Callable[[Data], None]:
    return lambda data: step(data, "tools")["tools"][index].__setitem__(key, value)


def move(name: str, after: str) -> Callable[[Data], None]:
    def change(data: Data) -> None:
        moved = step(data, name)
        data["steps"].remove(moved)
        data["steps"].insert(data["steps"].index(step(data, after)) + 1, moved)

    return change


FIXTURES: list[tuple[str, Callable[[Data], None], str]] = [
    ("grip_contradiction", lambda d: d["fasteners"]["sections"][1].update(length="350 mm"), "fasteners.sections"),
    ("stud_too_short", head("fasteners", "free_length", "460 mm"), "fasteners.free_length"),
    ("ceiling_above_rating", put("ceiling", "ceiling", "1550 bar"), "steps.5.ceiling"),
    ("ceiling_over_yield", put("ceiling", "ceiling", "1450 bar"), "steps.5.ceiling"),
    ("stroke_short", head("tensioner", "stroke", "2 mm"), "steps.5.ceiling"),
    ("stage_above_rating", put("second", "pressure", "1600 bar"), "steps.8.pressure"),
    ("stage_over_yield", put("second", "pressure", "1400 bar"), "steps.8.pressure"),
    ("ceiling_missing", drop("ceiling"), "steps.6.pressure"),
    ("stage_reaches_ceiling", put("second", "band", "8 %"), "steps.8.pressure"),
    ("not_vented", drop("vent"), "steps.6"),
    ("no_caution", put("first", "cautions", []), "steps.7"),
    ("stages_not_rising", put("first", "pressure", "1000 bar"), "steps.8.pressure"),
    ("share_unusual", put("second", "pressure", "620 bar"), "steps.8.pressure"),
    ("never_released", put("second", "afterwards", "raise"), "steps.8.afterwards"),
    ("seat_not_proved", put("second", "feeler", None), "steps.8"),
    ("zero_not_proved", drop("relieve"), "steps.8"),
    ("not_signed_for", put("chief-sees", "covers", ["length-after"]), "steps.8"),
    ("thread_not_measured", drop("thread-above"), "steps.3"),
    ("tool_left_on", drop("tools-off"), "steps.4"),
    ("puller_short", put("thread-above", "at_least", "60 mm"), "steps.3.at_least"),
    ("tool_range_short", tool(1, "range_at_least", "900 bar"), "steps.1.tools.1"),
    ("gauge_too_coarse", tool(0, "resolution_at_most", "20 bar"), "steps.7.band"),
    ("run_down_does_not_fit", head("tensioner", "rundown_load", "60 kN"), "steps.7.nut_bar"),
    ("length_under_load", move("length-before", "second"), "steps.8"),
    ("stretch_before_load", move("length-after", "length-before"), "steps.3"),
    ("stretch_does_not_fit", put("length-after", "target", "1.090 mm"), "steps.11.target"),
    ("length_gauge_too_coarse", tool(2, "resolution_at_most", "0.05 mm"), "steps.11.instrument"),
    ("target_outside_band", put("length-after", "target", "1.300 mm"), "steps.11.target"),
    ("cannot_reckon", put("first", "nut_bar", "0 N.m"), ""),
    ("spread_says_nothing", put("length-after", "spread_at_most", "0.400 mm"), "steps.11.spread_at_most"),
]


@pytest.mark.parametrize(("code", "spoil", "where"), FIXTURES, ids=[code for code, _, _ in FIXTURES])
def test_a_fault_is_found_where_it_stands(code: str, spoil: Callable[[Data], None], where: str) -> None:
    data = copy.deepcopy(PLAIN)
    assert isinstance(data, dict)
    spoil(data)
    found = [f for f in check(Procedure.model_validate(data)) if f.code == code]
    assert where in [".".join(str(part) for part in f.path) for f in found]
    assert all("{" not in in_words(f) for f in found)


def test_the_shipped_procedure_is_clean_and_every_finding_has_a_fixture_and_words() -> None:
    assert check(PROCEDURE) == ()
    words = catalogue()["check"]
    assert isinstance(words, dict)
    assert set(words) - {"severity"} == {code for code, _, _ in FIXTURES}


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


def test_the_staircase_rises_to_the_printed_loads() -> None:
    stairs = staircase(PROCEDURE)
    assert [round(s.held_N / 1000, 1) for s in stairs.stairs] == [520.6, 859.9]
    assert [s.released for s in stairs.stairs] == [False, True]
    assert stairs.stairs[1].tool_N == pytest.approx(925.4e3, abs=100)
    assert stairs.stairs[1].tool_N < stairs.allowed_N < stairs.yield_N
    assert stairs.ceiling_N is not None
    assert stairs.ceiling_N < stairs.rating_N
    assert stairs.target_N == pytest.approx(stairs.stairs[1].held_N, rel=0.002)


def test_a_procedure_goes_out_as_a_document_and_comes_back_as_the_same_revision() -> None:
    for path in (SHIPPED, BAD):
        procedure = read_model(read_yaml(path.read_bytes()), Procedure)
        again = read_model(read_yaml(as_yaml(procedure)), Procedure)
        assert again.content_hash() == procedure.content_hash()


def test_the_sheet_says_every_number_and_point_of_the_document() -> None:
    read = sheet(PROCEDURE)
    shown = " ".join([f.text for s in read.steps for f in s.facts] + [p for s in read.steps for p in s.points])
    for number in ("1050 bar", "600 bar", "1000 bar", "2 %", "30 s", "120 N.m", "0.05 mm", "70 mm", "1.244 mm"):
        assert number in shown
    assert "Stud threads and nut seats clean and undamaged" in shown
    words = catalogue()["procedure"]
    assert isinstance(words, dict)
    fields = words["fact"]
    assert isinstance(fields, dict)
    assert {f.name for s in read.steps for f in s.facts} <= set(fields)
    assert read.findings == findings(PROCEDURE) == []
    assert say("check.ceiling_missing.what", {"pressure": 600.0}).startswith("600 bar")
    with pytest.raises(DocumentRefused):
        read_yaml(b"a: *b")


@given(st.data())
def test_any_number_may_be_absurd_and_the_check_still_answers(data: st.DataObject) -> None:
    plain = copy.deepcopy(PLAIN)
    places = list(_numbers(plain))
    for _ in range(data.draw(st.integers(1, 3))):
        holder, key = data.draw(st.sampled_from(places))
        _, unit = str(holder[key]).split(" ")
        holder[key] = f"{data.draw(st.sampled_from(['0', '0.000001', '-1', '7', '99999', '1000000000']))} {unit}"
    raw = io.BytesIO()
    YAML().dump(plain, raw)
    lines, _ = checked_lines(raw.getvalue())
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
