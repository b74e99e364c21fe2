"""A fastener of a neighbour that was let go is put right by a pull and its reading, never by somebody's tick."""

from __future__ import annotations

import copy
from typing import Any

import pytest
from pydantic import ValidationError

from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.progress import next_call
from tests.core.paper_run import PaperRun, shipped
from tests.core.test_limits_of_rules import codes

CLOSED = "tarnholt-7l34-main-tighten"
FIRST, SECOND = "next-caps/next-camshaft-side", "next-caps/next-exhaust-side"


def with_effort(**stated: str) -> Procedure:
    plain: dict[str, Any] = copy.deepcopy(shipped(CLOSED).plain())
    step = next(s for s in plain["steps"] if s["id"] == "next-caps")
    step["effort"] = stated
    return Procedure.model_validate(plain)


@pytest.mark.parametrize(("read", "said"), [("57", []), ("56", ["below_band"]), ("63", []), ("64", ["above_band"])])
def test_a_cap_of_the_next_bearing_is_right_within_five_percent_of_its_torque(read: str, said: list[str]) -> None:
    run = PaperRun(CLOSED)
    run.play(FIRST)
    assert codes(run.value(FIRST, read, "N.m")) == said


def test_a_cap_that_was_pulled_too_low_leaves_a_question_and_the_run_does_not_close_over_it() -> None:
    run = PaperRun(CLOSED)
    run.play(FIRST)
    run.value(FIRST, "50", "N.m")
    asked = run.state.live(FIRST)
    assert asked is not None
    assert not asked.settled


def test_saying_that_it_is_tight_puts_nothing_right() -> None:
    run = PaperRun(CLOSED)
    run.play(FIRST)
    with pytest.raises(Refusal):
        run.record(FIRST, ev.TickAnswer())
    assert run.state.live(FIRST) is None


def test_a_torque_and_an_angle_are_two_readings_and_the_angle_is_the_last() -> None:
    run = PaperRun(with_effort(torque="60 N.m", angle="60 deg"))
    run.play("next-caps/pull:next-camshaft-side")
    run.value("next-caps/pull:next-camshaft-side", "60", "N.m")
    call = next_call(run.state)
    assert call is not None
    assert (call.key, call.unit) == (FIRST, "deg")
    assert codes(run.value(FIRST, "60", "deg")) == []


@pytest.mark.parametrize("left", ["effort", "band", "tool"])
def test_an_effort_without_its_band_or_its_tool_is_no_effort(left: str) -> None:
    plain: dict[str, Any] = copy.deepcopy(shipped(CLOSED).plain())
    del next(s for s in plain["steps"] if s["id"] == "next-caps")[left]
    with pytest.raises(ValidationError, match="stated together"):
        Procedure.model_validate(plain)
