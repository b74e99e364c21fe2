"""Everything that can be done wrong at a joint: one clear refusal each, and the run stays as it was."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.procedure.steps import WantedTool
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.authorization import wanted_rank
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.progress import next_call
from jorvek.core.tools import Tool, check_tool
from tests.core.paper_run import BRAM, INES, LIO, TAM, TODAY, TOOLS, PaperRun

HEAD = "tarnholt-7l34-head-tighten"
LENGTH = "length-before/length/1"
TICK = ev.TickAnswer()


def refusal(run: PaperRun, command: c.Command, by: ev.Person = BRAM, **context: object) -> str:
    """The code that a command is refused by; nothing is kept of it."""
    before, kept = run.state, len(run.events)
    told = c.Context(by, run.now, TODAY, {t.id: t for t in TOOLS}, **context)  # type: ignore[arg-type]  # passed on by name
    with pytest.raises(Refusal) as caught:
        decide(run.state, command, told)
    assert run.state is before
    assert len(run.events) == kept
    return caught.value.code


def reading(cell: str, attempt: int = 1, answer: ev.Answer = TICK) -> c.RecordReading:
    return c.RecordReading(kind="record", id=uuid4(), cell=cell, attempt=attempt, answer=answer)


def strike(cell: str, attempt: int = 1, reason: str | None = None) -> c.StrikeReading:
    return c.StrikeReading(kind="strike", id=uuid4(), cell=cell, attempt=attempt, reason=reason)


def measured(run: PaperRun) -> PaperRun:
    """The first length of stud 1 stands, in band."""
    run.play(LENGTH)
    run.value(LENGTH, "612.020")
    return run


def struck(run: PaperRun) -> PaperRun:
    measured(run)
    run.send(strike(LENGTH, reason="Mistyped"))
    return run


Deed = Callable[[], c.Command]
WRONG: list[tuple[str, Callable[[PaperRun], object], Deed, str]] = [
    ("a later attempt before the first", lambda run: run.play(LENGTH), lambda: reading(LENGTH, 2), "wrong_attempt"),
    ("an attempt that is over", struck, lambda: reading(LENGTH, 1), "cell_taken"),
    ("a strike of what is struck", struck, lambda: strike(LENGTH), "not_standing"),
    ("a strike of what was never read", measured, lambda: strike(LENGTH, 4), "no_such_reading"),
    (
        "a reason that nobody owes",
        struck,
        lambda: c.GiveReason(kind="give_reason", id=uuid4(), cell=LENGTH, attempt=1, reason="Twice"),
        "no_reason_owed",
    ),
    (
        "acceptance of what is in band",
        measured,
        lambda: c.Accept(kind="accept", id=uuid4(), cell=LENGTH, attempt=1, reason="Looks good"),
        "nothing_to_accept",
    ),
    (
        "work done again that was not done",
        lambda run: run.play(LENGTH),
        lambda: c.RedoWork(kind="redo", id=uuid4(), cell=LENGTH, cells=(LENGTH,), reason="Again"),
        "nothing_to_redo",
    ),
    ("a watch taken over from oneself", measured, lambda: c.TakeOver(kind="take_over", id=uuid4()), "already_yours"),
    (
        "a tool that is on no register",
        lambda run: run.play("tools/oil-gauge"),
        lambda: reading("tools/oil-gauge", answer=ev.ToolAnswer(tool_id="PG-99")),
        "no_such_tool",
    ),
    (
        "a tensioner drawn for a gauge",
        lambda run: run.play("tools/oil-gauge"),
        lambda: reading("tools/oil-gauge", answer=ev.ToolAnswer(tool_id="HT-52")),
        "tool_class",
    ),
    (
        "a turn where a tick is asked for",
        lambda run: None,
        lambda: reading("prepare/landed", answer=ev.TurnAnswer(bites=("60",), unit="deg")),
        "wrong_answer",
    ),
    (
        "the end of a trouble that nobody raised",
        measured,
        lambda: c.EndTrouble(kind="end_trouble", id=uuid4(), trouble=2, how="fixed", words="Wiped"),
        "no_such_trouble",
    ),
    (
        "a part of the joint that is not there",
        measured,
        lambda: c.TakePart(kind="take_part", id=uuid4(), fasteners=("1", "9")),
        "no_such_fastener",
    ),
    (
        "a look at what has not grown old",
        measured,
        lambda: c.AnswerAge(kind="answer_age", id=uuid4(), step="prepare", good=True, words="Looked"),
        "nothing_aged",
    ),
]


@pytest.mark.parametrize(("bring", "deed", "code"), [w[1:] for w in WRONG], ids=[w[0] for w in WRONG])
def test_what_does_not_fit_is_refused_and_changes_nothing(
    bring: Callable[[PaperRun], object], deed: Deed, code: str
) -> None:
    run = PaperRun()
    bring(run)
    assert refusal(run, deed()) == code


@pytest.mark.parametrize(
    "command",
    [
        reading("nowhere/at/1"),
        strike("nowhere/at/1"),
        c.GiveReason(kind="give_reason", id=uuid4(), cell="nowhere/at/1", attempt=1, reason="x"),
        c.Accept(kind="accept", id=uuid4(), cell="nowhere/at/1", attempt=1, reason="x"),
        c.RedoWork(kind="redo", id=uuid4(), cell="nowhere/at/1", cells=("nowhere/at/1",), reason="x"),
        c.Note(kind="note", id=uuid4(), text="x", cell="nowhere/at/1"),
        c.RaiseTrouble(kind="raise_trouble", id=uuid4(), what=ev.TroubleKind.DIRT, cell="nowhere/at/1"),
        c.TakeOutOfTurn(kind="out_of_turn", id=uuid4(), cell="nowhere/at/1", reason="x"),
        c.AddPhoto(kind="add_photo", id=uuid4(), cell="nowhere/at/1", photo="a" * 64),
    ],
    ids=lambda command: command.kind,
)
def test_a_cell_that_no_procedure_has_is_named_by_every_command(command: c.Command) -> None:
    assert refusal(PaperRun(), command, INES) == "no_such_cell"


def test_an_author_looks_on_and_a_mechanic_does_not_close() -> None:
    run = measured(PaperRun())
    author = TAM.model_copy(update={"role": Role.AUTHOR})
    for command in (reading("length-before/temperature/2"), strike(LENGTH), c.Pause(kind="pause", id=uuid4())):
        assert refusal(run, command, author) == "not_your_right"
    assert refusal(run, c.Close(kind="close", id=uuid4()), LIO) == "not_your_right"


def test_nobody_bars_the_crank_while_a_tool_sits_on_any_joint_of_the_engine() -> None:
    run = PaperRun("tarnholt-7l34-main-loosen")
    while (cell := next_call(run.state)) is not None and cell.kind not in ("crank_position", "inch"):
        after = [one.key for one in run.state.definition.cells]
        run.play(after[after.index(cell.key) + 1])
    assert cell is not None
    seen = reading(cell.key, answer=TICK)
    assert refusal(run, seen, tools_on=("Rod 5",)) == "tool_on_stud"


def test_a_point_for_a_stated_rank_is_nobody_else_s() -> None:
    run = PaperRun("tarnholt-7l34-head-loosen")
    point = next(cell for cell in run.state.definition.cells if wanted_rank(run.state, cell) is Role.LEAD_HAND)
    run.play(point.key)
    assert refusal(run, reading(point.key), LIO) == "not_your_point"
    assert run.record(point.key, TICK, BRAM).verdict is ev.Verdict.NOTED


GAUGE = next(tool for tool in TOOLS if tool.id == "PG-12")
WANTED = WantedTool.model_validate(
    {
        "role": "gauge",
        "title": "Oil gauge",
        "tool_class": GAUGE.tool_class,
        "range_at_least": "1200 bar",
        "range_at_most": "2500 bar",
        "resolution_at_most": "20 bar",
        "accuracy": "1.6 %",
    }
)


@given(
    st.floats(10, 5000, allow_nan=False),
    st.one_of(st.none(), st.floats(0.1, 5)),
    st.one_of(st.none(), st.floats(0.5, 60)),
    st.integers(1, 3),
)
def test_a_tool_is_drawn_exactly_when_it_can_do_what_is_asked(
    full_scale: float, bound: float | None, grain: float | None, pieces: int
) -> None:
    tool: Tool = GAUGE.model_copy(
        update={
            "full_scale": full_scale,
            "class_pct": bound,
            "accuracy_pct": None,
            "resolution": grain,
            "pieces": pieces,
        }
    )
    wanted = WANTED.model_copy(update={"count": 2})
    fits = {
        "tool_range": full_scale >= 1200,
        "tool_scale": full_scale <= 2500,
        "tool_accuracy": bound is not None and bound <= 1.6,
        "tool_resolution": grain is not None and grain <= 20,
        "tool_pieces": pieces >= 2,
    }
    if all(fits.values()):
        check_tool(tool, wanted)
        return
    with pytest.raises(Refusal) as refused:
        check_tool(tool, wanted)
    assert refused.value.code == next(code for code, good in fits.items() if not good)


def test_a_calibration_that_runs_out_between_drawing_and_reading_is_seen() -> None:
    run = PaperRun()
    run.play("second/raise")
    call = next_call(run.state)
    assert call is not None
    value = reading(call.key, answer=ev.ValueAnswer(text="1004", unit="bar"))
    told = c.Context(BRAM, run.now, TODAY, {})
    assert isinstance(decide(run.state, value, told), ev.Recorded)
    with pytest.raises(Refusal) as refused:
        decide(run.state, value, replace(told, today=date(2027, 6, 1)))
    assert refused.value.code == "tool_out_of_date"
