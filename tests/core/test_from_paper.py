"""A sheet filled in by pencil: read as written, judged like the rest, with the writer and the time as on paper."""

from __future__ import annotations

from datetime import datetime, timedelta
from uuid import UUID, uuid4

import pytest

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.commands import KeyIn
from jorvek.core.run.rules.paper_entry import NOT_FROM_PAPER, read_written
from jorvek.core.run.rules.progress import next_call
from jorvek.core.run.views.record import record_of
from jorvek.core.run.views.work_sheet import paper_lines
from jorvek.local.player import usual_answer
from jorvek.reports.work_sheet import run_sheet_pdf
from tests.core.paper_run import BRAM, INES, LIO, TODAY, TOOLS, PaperRun


def pencil(answer: ev.Answer) -> str:
    """What a mechanic would write for an answer."""
    match answer:
        case ev.TickAnswer() | ev.SeenAnswer():
            return "x"
        case ev.FeelerAnswer():
            return "y" if answer.enters else "n"
        case ev.ValueAnswer() | ev.WordsAnswer():
            return answer.text
        case ev.CountAnswer():
            return str(answer.count)
        case ev.ChoiceAnswer():
            return f"{answer.choice} {answer.note or ''}".strip()
        case ev.PullAnswer():
            return "0" if answer.outcome is ev.PullOutcome.STILL else answer.moved or "x"
        case ev.TurnAnswer():
            return "x" if answer.to_mark else "+".join(answer.bites)
        case _:
            raise AssertionError(answer)


def key(
    run: PaperRun,
    cell: Cell,
    text: str,
    at: datetime,
    by: ev.Person = LIO,
    unit: str | None = None,
    keys: ev.Person = BRAM,
) -> None:
    attempt = len(run.state.tries(cell.key)) + 1
    run.send(
        KeyIn(
            kind="key_in",
            id=uuid4(),
            cell=cell.key,
            attempt=attempt,
            text=text,
            unit=unit,
            written_by=by.id,
            written_at=at,
        ),
        keys,
    )


@pytest.mark.parametrize("name", ["", "corvane-v10-rod-tighten", "ulvane-5x46-cover-loosen", "tarnholt-7l34-liner-fit"])
def test_a_whole_sheet_keyed_in_the_evening_is_the_run_that_was_worked_in_the_morning(name: str) -> None:
    direct, keyed = PaperRun(name), PaperRun(name)
    direct.play("")
    morning = keyed.now
    keyed.now += timedelta(hours=9)
    written_at = morning
    while (cell := next_call(keyed.state)) is not None:
        if cell.ask in NOT_FROM_PAPER:
            by = INES if cell.ask is InputType.SIGNATURE else BRAM
            answer = usual_answer(keyed.state, cell, keyed.chance, TOOLS, TODAY)
            keyed.record(cell.key, answer, by, pin=by is INES)
            continue
        written_at += timedelta(seconds=10 + cell.wait_s)
        keyed.now = max(keyed.now, written_at)
        first = direct.state.tries(cell.key)[0].answer
        key(keyed, cell, pencil(first), written_at)
    verdicts = {key: a.judgement.verdict for key, a in direct.state.counting.items()}
    assert verdicts == {key: a.judgement.verdict for key, a in keyed.state.counting.items()}
    rows = [r for section in record_of(UUID(int=4), keyed.state, "0" * 64).sections for r in section.rows]
    from_paper = [r for r in rows if r.source == "paper"]
    assert {(r.written.by if r.written else "", r.by) for r in from_paper} == {(LIO.name, BRAM.name)}
    assert len(from_paper) > 0.6 * len(rows)


def test_paper_is_judged_at_once_and_cannot_do_what_only_a_person_can() -> None:
    run = PaperRun()
    run.play("first/raise")
    cell = run.state.definition.by_key["first/raise"]
    at, before = run.now, len(run.events)
    refusals = [
        ("six hundred", at, LIO, None, "E_TYPE"),
        ("600", at, LIO, "N.m", "E_DIM"),
        ("600", at + timedelta(hours=2), LIO, None, "written_when"),
        ("600", run.state.started_at - timedelta(minutes=1), LIO, None, "written_when"),
        ("600", at + timedelta(minutes=1), LIO, None, "written_when"),
        ("600", at, INES, None, "writer_above"),
        ("", at, LIO, None, "written_how"),
    ]
    for text, when, by, unit, code in refusals:
        with pytest.raises(Refusal) as refused:
            key(run, cell, text, when, by, unit)
        assert (refused.value.code, len(run.events)) == (code, before)
    stranger = LIO.model_copy(update={"id": UUID(int=99)})
    with pytest.raises(Refusal) as refused:
        key(run, cell, "600", at, stranger)
    assert refused.value.code == "no_such_person"
    key(run, cell, "570", at)
    live = run.state.live("first/raise")
    assert live is not None
    assert live.judgement.verdict is ev.Verdict.OUT_OF_BAND

    # Whoever wrote on the sheet had a hand in it and does not sign for it.
    signed = PaperRun()
    signed.play("second/feeler/4")
    key(signed, signed.state.definition.by_key["second/feeler/4"], "n", signed.now, INES, keys=INES)
    signed.play()
    sign = next_call(signed.state)
    assert sign is not None
    with pytest.raises(Refusal) as refused:
        signed.record(sign.key, ev.SignatureAnswer(), INES, pin=True)
    assert refused.value.code == "own_work"
    with pytest.raises(Refusal) as refused:
        key(signed, sign, "x", signed.now)
    assert refused.value.code == "not_from_paper"


def test_signs_on_a_sheet_are_read_as_a_mechanic_means_them() -> None:
    run = PaperRun("corvane-v10-head-tighten", tool="bar")
    cells = {cell.ask: cell for cell in run.state.definition.cells}
    pulled, turned, chosen = cells[InputType.PULL], cells[InputType.TURN], cells[InputType.CHOICE]
    assert read_written(pulled, "17", None) == ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="17")
    assert read_written(pulled, "1", None) == ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved="1")
    assert read_written(pulled, "0", None) == ev.PullAnswer(outcome=ev.PullOutcome.STILL)
    assert read_written(turned, "60+45", None) == ev.TurnAnswer(bites=("60", "45"))
    looked = next(c for c in PaperRun("tarnholt-7l34-head-loosen").state.definition.cells if c.kind == "inspect")
    assert read_written(looked, "2 Thread torn #U2-H5-1", None) == ev.ChoiceAnswer(
        choice="replace", note="Thread torn", piece="U2-H5-1"
    )
    assert read_written(chosen, "1", None) == ev.ChoiceAnswer(choice=chosen.choices[0])
    with pytest.raises(Refusal) as refused:
        read_written(chosen, "perhaps", None)
    assert refused.value.code == "written_how"
    assert str(refused.value.params["allowed"]).startswith("1 ")


def test_the_sheet_of_a_run_shows_what_is_left_on_this_very_joint() -> None:
    run = PaperRun()
    run.play("first/raise")
    lines = paper_lines(run.state)
    assert [line.cell for line in lines] == [cell.key for cell in run.state.definition.cells]
    assert sum(line.row is None for line in lines) == len(lines) - len(run.state.counting)
    assert run_sheet_pdf(run.state, UUID(int=4), "http://127.0.0.1").startswith(b"%PDF")
