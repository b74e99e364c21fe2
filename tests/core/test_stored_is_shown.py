"""Whatever answer is taken, everything shown of the run can still be worked out; what is refused changes nothing."""

from __future__ import annotations

import os
import random
from collections.abc import Iterator
from copy import copy

import pytest

from jorvek.core.procedure.options import selections
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.progress import next_call, open_cells
from jorvek.local.player import usual_answer
from jorvek.settings import ROOT
from tests.core.paper_run import INES, TODAY, TOOLS, PaperRun, shipped
from tests.everything import odd_answers, show_everything

NAMES = [p.stem for p in sorted((ROOT / "procedures").glob("*.yaml")) if not p.stem.endswith("bad")]
SHARE = float(os.environ.get("JORVEK_SHOWN_SHARE", "0.02"))
"""How many of the odd answers are tried; ``bench/shown.py`` tries all of them."""


def kinds_of_cells(run: PaperRun) -> Iterator[tuple[Cell, PaperRun]]:
    """Play a sound joint and stop at the last cell of each sort in each step, when all that it rests on is there."""
    last = {(c.step, c.item_word): c.key for c in run.state.definition.cells}
    while (cell := next_call(run.state)) is not None:
        if last[cell.step, cell.item_word] == cell.key and not asked_now(run.state, run.now):
            yield cell, run
        run.play_one()


def with_answer(run: PaperRun, cell: Cell, answer: ev.Answer) -> PaperRun | None:
    """Return the run with an answer given, None when it is refused; the run itself stays as it was."""
    trial = copy(run)
    trial.events = list(run.events)
    trial.now += run.waiting(cell)
    before = len(trial.events)
    try:
        trial.record(cell.key, answer, INES, pin=cell.ask is InputType.SIGNATURE)
    except Refusal:
        assert len(trial.events) == before
        assert trial.state is run.state
        return None
    return trial


@pytest.mark.parametrize("name", NAMES)
def test_any_answer_that_is_taken_leaves_everything_to_be_shown(name: str) -> None:
    chance = random.Random(name)
    ways = list(selections(shipped(name)))
    for way in ways if SHARE >= 1.0 else [chance.choice(ways)]:
        for cell, run in kinds_of_cells(PaperRun(name, **way)):
            good = usual_answer(run.state, cell, random.Random(1), TOOLS, TODAY)
            for answer in odd_answers(cell, good):
                if chance.random() >= SHARE:
                    continue
                trial = with_answer(run, cell, answer)
                if trial is not None:
                    show_everything(trial)


def test_a_bore_of_a_tenth_of_its_size_is_asked_about_and_never_a_dead_end() -> None:
    run = PaperRun("tarnholt-7l34-liner-draw")
    *_, last = [c for c in run.state.definition.cells if c.item_word == "bore"]
    run.play(last.key)
    kept = len(run.events)
    for typed, code, meant in (("34.012", "figure_meant", "340.12"), ("210.5", "figure_unlikely", None)):
        with pytest.raises(Refusal) as asked:
            run.value(last.key, typed)
        assert asked.value.code == code
        assert asked.value.params.get("meant") == meant
    assert len(run.events) == kept
    run.value(last.key, "340.12")
    bench, _ = show_everything(run)
    assert bench.calls[0].computed is not None


def test_bores_typed_before_they_were_asked_about_leave_the_bench_open_with_strike() -> None:
    run = PaperRun("tarnholt-7l34-liner-draw")
    *_, last = [c for c in run.state.definition.cells if c.item_word == "bore"]
    run.play(last.key)
    judged = ev.Judgement(verdict=ev.Verdict.NOTED, value=34.012, correction=0.0, corrected=34.012)
    read = ev.ValueAnswer(text="34.012", unit="mm")
    run.take(ev.Recorded(cell=last.key, attempt=1, answer=read, judgement=judged))
    bench, _ = show_everything(run)
    call = bench.calls[0]
    assert call.fault is not None
    assert (call.ask, call.computed, bench.last_may_strike) == (InputType.SEEN, None, True)
    with pytest.raises(Refusal):
        run.record(call.cell, ev.SeenAnswer())
    run.strike(last.key)
    run.value(last.key, "340.12")
    assert show_everything(run)[0].calls[0].fault is None


def test_a_reading_is_refused_when_no_figure_could_come_of_it() -> None:
    run = PaperRun("tarnholt-7l34-liner-draw")
    bores = [c for c in run.state.definition.cells if c.item_word == "bore"]
    run.play(bores[0].key)
    spread = [str(340.0 * (1.045 if k % 2 else 0.958)) for k in range(len(bores))]
    for cell, text in zip(bores[:-1], spread, strict=False):
        run.value(cell.key, text)
    with pytest.raises(Refusal) as refused:
        run.value(bores[-1].key, spread[-1])
    assert refused.value.code == "readings_at_odds"
    assert isinstance(refused.value.__cause__, Refusal)
    assert bores[-1] in open_cells(run.state), "the call stays open, and what is wrong may be struck"


def test_the_question_keeps_the_decimals_that_were_read() -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    for typed, meant in (("61.1994", "611.994"), ("6119,94", "611.994"), ("0.611994", "611.994")):
        with pytest.raises(Refusal) as asked:
            run.value("length-before/length/1", typed)
        assert (asked.value.code, asked.value.params["meant"]) == ("figure_meant", meant)


def test_an_unlikely_figure_is_asked_about_by_its_own_unit() -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    with pytest.raises(Refusal) as asked:
        run.value("length-before/length/1", "240.94", "in")
    assert (asked.value.params["unit"], asked.value.params["meant"]) == ("in", "24.094")
