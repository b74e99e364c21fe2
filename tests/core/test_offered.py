"""What a call offers: whole units that the instrument showed at the other points of the step, and nothing measured."""

from __future__ import annotations

from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.plain import plain_bench
from tests.core.paper_run import PaperRun


def offered(run: PaperRun) -> dict[str, tuple[str, ...]]:
    return bench_view(run.events[0].run_id, run.state, run.looking()).calls[0].starts


def test_lengths_begin_as_they_began_at_the_studs_before_and_temperatures_as_temperatures() -> None:
    run = PaperRun()
    run.play("length-before/temperature/1")
    assert offered(run) == {}, "the first is read whole"
    run.value("length-before/temperature/1", "19.3", "degC")
    assert offered(run) == {}, "a temperature says nothing about a length"
    run.value("length-before/length/1", "612.032")
    assert offered(run) == {"degC": ("19.",)}
    run.value("length-before/temperature/2", "18,8", "degC")
    assert offered(run) == {"mm": ("612.",)}
    run.value("length-before/length/2", "612.012")
    assert offered(run) == {"degC": ("18.", "19.")}, "the newest first, a decimal comma as a point"


def test_what_was_struck_and_what_was_read_in_another_unit_is_not_offered() -> None:
    run = PaperRun()
    run.play("length-before/length/1")
    run.value("length-before/length/1", "24.0953", "in")
    run.value("length-before/temperature/2", "19.0", "degC")
    assert offered(run) == {"in": ("24.",)}
    run.strike("length-before/length/1")
    run.play("length-before/length/2")
    assert all("in" not in starts for starts in (offered(run),))


def test_the_next_step_begins_anew() -> None:
    """Studs are longer under load: 612 stood before the tension, 613 after it."""
    run = PaperRun()
    run.play("length-after/temperature/1")
    assert offered(run) == {}
    run.value("length-after/temperature/1", "20.5", "degC")
    assert offered(run) == {}


def test_a_pressure_that_is_set_is_given_by_one_press_and_one_that_is_read_is_not() -> None:
    run = PaperRun()
    run.play("first/raise")
    (call, *_) = bench_view(run.events[0].run_id, run.state, run.looking()).calls
    assert call.set_to is not None
    assert (call.set_to.text, call.set_to.unit) == ("600", "bar")
    run.play("first/lowest")
    (call, *_) = bench_view(run.events[0].run_id, run.state, run.looking()).calls
    assert (call.set_to, call.starts) == (None, {}), "where the pressure sank to is read from the gauge"


def test_a_bench_that_cannot_be_drawn_shows_its_call_plainly_and_offers_nothing() -> None:
    run = PaperRun()
    run.play("length-before/length/2")
    plain = plain_bench(run.events[0].run_id, run.state, run.looking(), "made for the test")
    (call, *_) = plain.calls
    assert (call.cell, call.starts, call.set_to) == ("length-before/length/2", {}, None)
