"""A gauge goes on its bar before a set of lengths and after it; studs that lie cold together share a temperature."""

from __future__ import annotations

import copy
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log import commands as c
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.rules.redo import redo_scope
from tests.core.paper_run import PaperRun, shipped
from tests.core.test_limits_of_rules import codes

BAR = {"shows": "0 mm", "within": "0.01 mm"}
FREE, LOADED = "length-before", "length-after"


def head(*, standard: bool = True, one_temperature: bool = False) -> PaperRun:
    plain: dict[str, Any] = copy.deepcopy(shipped("tarnholt-7l34-head-tighten").plain())
    for step in (s for s in plain["steps"] if s["id"] in (FREE, LOADED)):
        step.update({"setting_bar": BAR} if standard else {})
        step.update({"one_temperature": True} if one_temperature else {})
    return PaperRun(Procedure.model_validate(plain))


@pytest.mark.parametrize(("read", "said"), [("0.01", []), ("-0.01", []), ("0.011", ["above_band"])])
def test_no_length_is_read_before_the_gauge_shows_what_its_bar_is(read: str, said: list[str]) -> None:
    run = head()
    run.play(f"{FREE}/standard_before")
    assert codes(run.value(f"{FREE}/standard_before", read)) == said
    call = next_call(run.state)
    assert call is not None
    assert (call.step, call.item == "standard_before") == (FREE, bool(said)), "set anew, and read again"


def test_a_gauge_that_moved_among_the_lengths_has_all_of_them_read_again() -> None:
    run = head()
    run.play(f"{FREE}/standard_after")
    assert codes(run.value(f"{FREE}/standard_after", "0.03")) == ["above_band"]
    scope = redo_scope(run.state, f"{FREE}/standard_after")
    assert {key.split("/")[1] for key in scope} >= {"standard_before", "temperature", "length", "standard_after"}
    assert {key.split("/")[0] for key in scope} == {FREE}
    run.send(c.RedoWork(kind="redo", id=uuid4(), cell=f"{FREE}/standard_after", cells=scope, reason="Knocked"))
    call = next_call(run.state)
    assert call is not None
    assert call.key == f"{FREE}/standard_before"


def test_the_gauge_goes_on_its_bar_each_time_that_it_is_taken_up_again() -> None:
    keys = [cell.key for cell in head().state.definition.cells if cell.item.startswith("standard")]
    assert keys == [f"{step}/{item}" for step in (FREE, LOADED) for item in ("standard_before", "standard_after")]


def test_studs_that_lay_together_for_hours_share_one_temperature_and_their_stretch_is_the_same() -> None:
    cold, each = head(standard=False, one_temperature=True), head(standard=False)
    taken = [c.key for c in cold.state.definition.cells if c.item == "temperature"]
    assert taken == [f"{FREE}/temperature", f"{LOADED}/temperature"]
    for run, keys in ((cold, taken), (each, [f"{s}/temperature/1" for s in (FREE, LOADED)])):
        run.play(keys[0])
        run.value(keys[0], "19.0", "degC")
        run.play(f"{FREE}/length/1")
        run.value(f"{FREE}/length/1", "612.000")
        run.play(keys[1])
        run.value(keys[1], "21.0", "degC")
        run.play(f"{LOADED}/length/1")
    of_both = [run.value(f"{LOADED}/length/1", "613.150").judged for run in (cold, each)]
    assert of_both[0] == pytest.approx(of_both[1])
