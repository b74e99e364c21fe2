"""The Bench, the plan and the record say what the log says."""

from __future__ import annotations

from uuid import UUID, uuid4

import pytest

from jorvek.core.measuring.evidence import Agreement
from jorvek.core.procedure.options import selections
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Rule
from jorvek.core.run.log.commands import GiveReason, Note, Pause, StrikeReading, TakeOver
from jorvek.core.run.log.expansion import expand
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.looking import Looking
from jorvek.core.run.views.record import record_of
from jorvek.messages import catalogue, say
from jorvek.settings import ROOT
from jorvek.work.library.revisions import read_procedure
from tests.core.paper_run import LIO, PaperRun

RUN = UUID(int=4)


def shown(run: PaperRun) -> BenchView:
    return bench_view(RUN, run.state, run.looking())


def heads(state: RunState) -> dict[str, list[bool]]:
    return {
        h.name: [s.done for s in h.strokes]
        for h in bench_view(RUN, state, Looking(state.started_by.id, state.started_by.role, state.last_at)).plan.heads
    }


def test_each_finished_pressure_leaves_one_stroke_on_each_nut() -> None:
    run = PaperRun()
    run.play("first/nut/3")
    assert heads(run.state) == {"1": [True, False], "2": [True, False], "3": [False, False], "4": [False, False]}
    run.play("second/feeler/2")
    assert heads(run.state)["1"] == [True, True]
    assert heads(run.state)["2"] == [True, False], "the second stroke comes with the feeler"


def test_a_tool_is_drawn_from_its_seating_until_it_is_off() -> None:
    run = PaperRun()
    run.play("seat/seat/3")
    assert [h.name for h in shown(run).plan.heads if h.tool_on] == ["1", "2"]
    run.play("tools-off/off/4")
    assert [h.name for h in shown(run).plan.heads if h.tool_on] == ["4"]
    assert [(o.debt, o.fastener) for o in shown(run).owed] == [("tool_on", "4")]


def test_the_call_shows_target_band_and_what_the_gauge_must_show() -> None:
    run = PaperRun()
    run.play("second/raise")
    call = shown(run).calls[0]
    assert [f.text for f in (call.figure, call.lower, call.upper) if f] == ["1000", "990", "1020"]
    assert call.stated is None, "the nearest mark is the stated figure itself"
    assert call.tool == "PG-12"
    assert call.units[:2] == ("bar", "MPa")
    assert len(call.cautions) == 2
    run.play("second/nut/1")
    assert shown(run).calls[0].text == "120 N·m"


def test_a_stretch_call_waits_for_its_temperature_before_it_names_a_length() -> None:
    run = PaperRun()
    run.play("length-after/temperature/1")
    assert shown(run).calls[0].item == "temperature"
    run.value("length-after/temperature/1", "20.5", "degC")
    lengths = [c for c in shown(run).calls if c.item == "length"]
    assert [c.fastener for c in lengths] == ["1"]
    assert lengths[0].as_stretch
    assert lengths[0].lower is not None
    assert lengths[0].figure is not None
    assert 0.0 < float(lengths[0].lower.text) < float(lengths[0].figure.text) < 3.0, "the stretch, never a length"


@pytest.mark.parametrize(
    ("until", "standing"),
    [("prepare/landed", "call"), ("chief-sees/sign", "call"), ("relieve/zero", "call")],
)
def test_there_is_one_next_call_or_a_reason_why_not(until: str, standing: str) -> None:
    run = PaperRun()
    run.play(until)
    assert shown(run).status == standing
    run.send(Pause(kind="pause", id=uuid4()))
    assert (shown(run).status, shown(run).calls) == ("paused", ())
    run.send(TakeOver(kind="take_over", id=uuid4()), LIO)
    assert shown(run).watch.by == "Lio Sandvik"


def test_the_record_puts_exceptions_first_and_keeps_every_entry() -> None:
    run = PaperRun()
    run.play("length-before/length/3")
    run.value("length-before/length/3", "621.027", sure=True)
    run.send(StrikeReading(kind="strike", id=uuid4(), cell="length-before/length/3", attempt=1))
    owing = record_of(RUN, run.state, "0" * 64).exceptions[0]
    assert owing.struck is not None
    assert owing.struck.reason is None
    give = GiveReason(kind="give_reason", id=uuid4(), cell="length-before/length/3", attempt=1, reason="Swapped")
    run.send(give)
    run.send(Note(kind="note", id=uuid4(), text="Spacer 2 cleaned"), LIO)
    run.play()
    record = record_of(RUN, run.state, "0" * 64)
    assert [(r.cell, r.verdict, r.struck.reason if r.struck else "") for r in record.exceptions] == [
        ("length-before/length/3", ev.Verdict.OUT_OF_BAND, "Swapped")
    ]
    assert sum(len(s.rows) for s in record.sections) == len([e for e in run.events if isinstance(e.data, ev.Recorded)])
    assert [t.id for t in record.tools] == ["CT-01", "DP-01", "HT-52", "PG-12", "SG-03"]
    assert [m.text for m in record.remarks] == ["Spacer 2 cleaned"]
    assert [s.peak_share_of_yield.text for s in record.stages] == ["40.4", "66.7"]
    assert record.closed is None


def test_two_ways_to_the_clamp_agree_on_a_sound_joint() -> None:
    run = PaperRun()
    run.play()
    for stud in record_of(RUN, run.state, "0" * 64).studs:
        assert stud.clamp_pressure is not None
        assert stud.clamp_stretch is not None
        assert float(stud.clamp_stretch.text) == pytest.approx(float(stud.clamp_pressure.text), rel=0.03)


def test_pressure_and_stretch_make_one_estimate_and_a_stretch_that_is_out_makes_none() -> None:
    run = PaperRun()
    run.play("length-after/length/2")
    sound = record_of(RUN, run.state, "x").studs[0]
    assert sound.agreement is Agreement.AGREE
    assert sound.together is not None
    assert sound.together_spread is not None
    assert float(sound.together.text) == pytest.approx(860, abs=25)
    assert 20 < float(sound.together_spread.text) < 60
    # Stud 2 is read a quarter short: its stretch is out, and nothing is said of it together.
    run.value("length-after/length/2", "612.9")
    short = record_of(RUN, run.state, "x").studs[1]
    assert (short.agreement, short.together) == (None, None)
    assert record_of(RUN, run.state, "x").studs[2].agreement is Agreement.SINGLE


def test_every_call_of_every_shipped_procedure_has_words() -> None:
    for verdict in ev.Verdict:
        assert say(f"verdict.{verdict.value}")
    words = catalogue()
    items, worded = set[str](), set[str]()
    for path in sorted((ROOT / "procedures").glob("*.yaml")):
        procedure = read_procedure(path.read_bytes())
        for selection in selections(procedure):
            for cell in expand(procedure, selection):
                if cell.in_author_words:
                    worded.add(cell.kind)
                else:
                    items.add(cell.item_word)
                for choice in cell.choices:
                    assert (
                        cell.item == "product" or cell.rule in (Rule.CHOSEN, Rule.FEELER) or choice in words["choice"]
                    )  # the author names parts
    for item in items:
        assert say(f"item.{item}")
        assert say(f"short.{item}")
        assert say(f"call.{item}.head")
    calls, own = words["call"], words["worded"]
    assert isinstance(calls, dict)
    assert isinstance(own, dict)
    assert items | {"worded"} == set(calls)
    assert worded | {"matched_part"} == set(own), "documents of older formats keep their words"


def test_words_are_filled_in_and_a_missing_message_is_a_fault() -> None:
    assert say("refusal.hold_not_over", {"seconds": 8}) == "The pressure has not stood long enough: 8 s to go."
    assert "…" in say("refusal.E_RANGE", {"name": "F", "got": -1.0, "low": 0.0, "high": None})
    for key in ("refusal.none", "refusal", "none.at.all"):
        with pytest.raises(KeyError):
            say(key)
