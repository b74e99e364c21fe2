"""When the engine stopped is a fact of the engine: nobody opens it or goes in before it has stood."""

from __future__ import annotations

import copy
from datetime import timedelta
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.rules.stops import demand_stood, stood
from jorvek.core.overhaul.views.log_lines import entry_of
from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.rules.decide import decide
from jorvek.reports.engine_papers import entry_words
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, TAM, TODAY, PaperRun, shipped

USUAL, LONGER = timedelta(minutes=30), timedelta(minutes=60)
"""What the default sheet states after a shutdown, and after an alarm."""


def stopped(here: PaperOverhaul, ago: timedelta, cause: ov.StopCause = "planned") -> int:
    said = oc.NoteStop(kind="note_stop", id=uuid4(), stopped_at=here.now - ago, cause=cause)
    return here.say(said, LIO)


def isolated() -> PaperOverhaul:
    here = PaperOverhaul()
    here.isolate("turning_gear")
    return here


def code_of(enter: PaperOverhaul) -> str | None:
    try:
        enter.enter(LIO)
    except Refusal as refusal:
        return refusal.code
    return None


@pytest.mark.parametrize(
    ("cause", "stands"),
    [("planned", USUAL), ("mist_alarm", LONGER), ("hot_bearing", LONGER), ("seizure", LONGER), ("unknown", LONGER)],
)
def test_nobody_goes_in_before_the_engine_has_stood_and_after_an_alarm_it_stands_longer(
    cause: ov.StopCause, stands: timedelta
) -> None:
    here = isolated()
    stopped(here, stands - timedelta(minutes=5), cause)
    assert code_of(here) == "not_stood"
    later = isolated()
    stopped(later, stands, cause)
    assert code_of(later) is None


def test_while_nobody_has_said_when_it_stopped_that_is_not_known_and_bars_nothing() -> None:
    here = isolated()
    assert stood(here.state, here.sheet) is None
    assert code_of(here) is None


def test_the_latest_stop_counts_in_whatever_order_they_are_told() -> None:
    here = isolated()
    stopped(here, timedelta(minutes=10))
    late = here.state.stop
    stopped(here, timedelta(days=3))
    assert here.state.stop == late, "an older stop told afterwards lets nobody in"
    assert code_of(here) == "not_stood"


def test_a_stop_that_was_written_wrong_is_struck_and_the_one_before_counts_again() -> None:
    here = isolated()
    stopped(here, timedelta(days=1))
    wrong = stopped(here, timedelta(minutes=1))
    assert code_of(here) == "not_stood"
    here.say(oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=wrong, words="Another engine"), LIO)
    assert code_of(here) is None


@pytest.mark.parametrize("ago", [timedelta(minutes=-30), timedelta(days=401)])
def test_a_stop_that_is_still_to_come_or_of_another_year_is_refused(ago: timedelta) -> None:
    here, before = isolated(), isolated().state.seq
    with pytest.raises(Refusal) as refused:
        stopped(here, ago)
    assert refused.value.code == "stop_when"
    assert here.state.seq == before, "nothing is stored"


def test_a_stop_is_read_in_the_log_with_its_cause() -> None:
    here = PaperOverhaul()
    here.say(
        oc.NoteStop(kind="note_stop", id=uuid4(), stopped_at=here.now, cause="mist_alarm", words="Detector 3"), TAM
    )
    words = entry_words("UTC", entry_of(here.state.lines[-1]))
    assert "oil mist alarm" in words
    assert "Detector 3" in words
    assert "{" not in words


def test_the_sheet_says_how_long_and_nothing_said_is_nothing_asked() -> None:
    here = PaperOverhaul()
    stopped(here, timedelta(minutes=5), "mist_alarm")
    silent = here.sheet.model_copy(update={"after_shutdown": None, "after_alarm": None})
    demand_stood(here.state, silent, here.now)
    short = here.sheet.model_copy(update={"after_alarm": None})
    since = stood(here.state, short)
    assert since is not None
    assert since.least_s == USUAL.total_seconds(), "an alarm never shortens what is asked after any stop"


def waiting(run: PaperRun, since: c.Stood | None) -> str | None:
    """What the call that ends the wait is answered, by an engine that stands since then."""
    over = next(cell for cell in run.state.definition.cells if cell.kind == "wait" and cell.item == "over")
    run.play(over.key)
    said = c.RecordReading(kind="record", id=uuid4(), cell=over.key, attempt=1, answer=ev.TickAnswer())
    try:
        decide(run.state, said, c.Context(BRAM, run.now, TODAY, {}, stood=since))
    except Refusal as refusal:
        return refusal.code
    return None


def run_that_waits() -> PaperRun:
    plain = copy.deepcopy(shipped("tarnholt-7l34-main-loosen").plain())
    for step in plain["steps"]:
        if step["kind"] == "wait":
            step["counts_from"] = "engine_stopped"
    return PaperRun(Procedure.model_validate(plain))


def test_a_wait_counts_from_the_stop_that_the_engine_knows_and_the_longer_of_sheet_and_document_holds() -> None:
    run = run_that_waits()
    assert waiting(run, None) == "hold_not_over", "nobody has said when: it counts from when somebody says it began"
    days = c.Stood(run.now - timedelta(days=2), 3600.0)
    assert waiting(run, days) is None, "it has stood for days, whenever the document was begun"
    assert waiting(run, c.Stood(run.now - timedelta(minutes=50), 3600.0)) == "hold_not_over"
    assert waiting(run, c.Stood(run.now - timedelta(minutes=61), 3600.0)) is None
    assert waiting(run, c.Stood(run.now - timedelta(minutes=1), 0.0)) == "hold_not_over", "the document asks longer"
