"""All that is shown of a run, at once: whatever was accepted, none of it may fail."""

from __future__ import annotations

from collections.abc import Iterator
from uuid import UUID

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.events import PullOutcome
from jorvek.core.run.views.bench import BenchView, bench_view
from jorvek.core.run.views.hand_over import hand_over
from jorvek.core.run.views.offline_tasks import offline_tasks
from jorvek.core.run.views.record import RunRecord, record_of
from jorvek.core.run.views.work_sheet import paper_lines
from jorvek.reports.record_sheet import record_html
from jorvek.reports.table import write_csv
from jorvek.reports.work_sheet import run_sheet_html
from jorvek.work.engine.berth import joint_summary, listed_digest
from jorvek.work.engine.surveys import gate_summary, strip_summary
from tests.core.paper_run import PaperRun

RUN = UUID(int=4)
URL = "http://127.0.0.1"


def show_everything(run: PaperRun) -> tuple[BenchView, RunRecord]:
    """Work out every screen, sheet and list of a run; return the Bench and the record."""
    state = run.state
    bench = bench_view(RUN, state, run.looking())
    offline_tasks(state, run.looking())
    paper_lines(state)
    run_sheet_html(state, RUN, URL)
    hand_over(state, run.now)
    record = record_of(RUN, state, "0" * 64)
    record_html(record, URL, "UTC")
    write_csv(record)
    for digest in (joint_summary, listed_digest, strip_summary, gate_summary):
        digest(RUN, state)
    return bench, record


def odd_answers(cell: Cell, good: ev.Answer) -> Iterator[ev.Answer]:
    """Yield answers that a hurried or hostile hand may give to a call: at its limits, beyond them, of another size."""
    match cell.ask:
        case InputType.VALUE:
            assert isinstance(good, ev.ValueAnswer)
            low, high = cell.plausible or (0.0, 1.0)
            usual = float(good.text.replace(",", "."))
            numbers = (0.0, low, high, usual / 10, usual * 10, usual * 1.04, usual * 0.9, usual * 1.2, -usual, 1e-3)
            yield from (ev.ValueAnswer(text=f"{n:.6g}", unit=good.unit) for n in numbers)
        case InputType.FEELER:
            yield from (ev.FeelerAnswer(enters=enters) for enters in (True, False))
        case InputType.CHOICE:
            for choice in cell.choices:
                yield ev.ChoiceAnswer(choice=choice, note="said", piece="A1")
        case InputType.COUNT:
            yield from (ev.CountAnswer(count=n) for n in (0, 1, 10_000))
        case InputType.PULL:
            yield from (ev.PullAnswer(outcome=outcome) for outcome in PullOutcome)
            yield from (ev.PullAnswer(outcome=PullOutcome.MOVED, moved=far) for far in ("0", "1", "1080", "0.001"))
        case InputType.TURN:
            for bites in (("0",), ("1",), ("45", "45"), ("3600",), ("-30",), ("400",)):
                yield ev.TurnAnswer(bites=bites)
        case InputType.WORDS:
            yield from (ev.WordsAnswer(text=text) for text in ("<b>&amp;{{ 7*7 }}", "x" * 999, "٣"))
        case _:
            pass
    yield ev.LeftOutAnswer(reason="Nothing of it here")
