"""What was written down before must be read as it was: keys of cells, verdicts, figures, and what is made of them.

A log holds the fingerprint of the cells that it was begun with, and judgements that are never worked out anew: a core
that expands a shipped procedure differently, or would judge the same answer differently, is a new core version and has
to say so. The files in ``as_it_was`` say what this one does; ``python -m tests.core.test_as_it_was`` writes them anew.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from uuid import UUID, uuid4

import pytest
from pydantic import BaseModel

from jorvek.core.refusal import Refusal, RefusalKind
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.commands import Accept, Context, RecordReading
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.asked_first import as_sure
from jorvek.core.run.rules.breakaway import strips
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.judge import ceiling_for
from jorvek.core.run.rules.progress import debts, next_call
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.rules.torque_angle_verdict import expected_movement_deg
from jorvek.core.run.views.bench import bench_view, may_strike
from jorvek.core.run.views.estimate import after_neighbours, estimate
from jorvek.core.run.views.hand_over import hand_over
from jorvek.core.run.views.joint_plan import plan_of
from jorvek.core.run.views.movement import movement_of
from jorvek.core.run.views.record import record_of
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, INES, TODAY, TOOLS, PaperRun, shipped
from tests.core.test_every_kind_of_run import NAMES, WAYS

PLACE = Path(__file__).parent / "as_it_was"
CALL = ("figure", "lower", "upper", "stated", "computed", "not_before", "movement", "holds", "bites", "flat_deg")
FINGERPRINTS = PLACE / "fingerprints.json"


def fingerprints() -> dict[str, str]:
    """The fingerprint of every way through every shipped procedure."""
    return {
        " ".join((name, *(f"{k}={v}" for k, v in way.items()))): define(shipped(name), way or None).cells_hash
        for name, way in WAYS
    }


def rounded(thing: object) -> object:
    """Floats to nine digits, so that another machine's last bit does not count."""
    if isinstance(thing, BaseModel):
        return rounded(thing.model_dump(mode="json"))
    if isinstance(thing, float):
        return float(f"{thing:.9g}")
    if isinstance(thing, dict):
        return {key: rounded(value) for key, value in thing.items() if value not in (None, (), [], {})}
    if isinstance(thing, list | tuple):
        return [rounded(value) for value in thing]
    return thing


def line(word: str, where: str, thing: object) -> str:
    """One line of a file."""
    return f"{word} {where} {json.dumps(rounded(thing), sort_keys=True, ensure_ascii=False, default=str)}"


def wrong_ways(cell: Cell, sound: ev.Answer) -> Iterator[ev.Answer]:
    """What a tired hand or a bad joint would say instead."""
    match sound:
        case ev.ValueAnswer(text=text, unit=unit):
            digits = len(text.partition(".")[2])
            for times in (0.0, 0.1, 0.9, 0.98, 1.02, 1.1, 10.0):
                yield ev.ValueAnswer(text=f"{float(text) * times:.{digits}f}", unit=unit)
        case ev.FeelerAnswer(enters=enters):
            yield ev.FeelerAnswer(enters=not enters)
        case ev.PullAnswer():
            for outcome in ev.PullOutcome:
                yield ev.PullAnswer(outcome=outcome)
            for moved in ("1", "12", "60", "200"):
                yield ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=moved)
        case ev.TurnAnswer(bites=bites, unit=unit):
            for extra in ("1", "9"):
                yield ev.TurnAnswer(bites=(*bites, extra), unit=unit)
            if len(bites) > 1:
                yield ev.TurnAnswer(bites=bites[:-1], unit=unit)
            yield ev.TurnAnswer(bites=("1.5",), unit="flats")
        case ev.CountAnswer(count=count):
            yield ev.CountAnswer(count=count + 1)
        case ev.ToolAnswer():
            for tool in TOOLS[:6]:
                yield ev.ToolAnswer(tool_id=tool.id)
        case ev.ChoiceAnswer():
            for choice in cell.choices:
                yield ev.ChoiceAnswer(choice=choice)
                yield ev.ChoiceAnswer(choice=choice, note="Seen", piece="S-1")
        case _:
            yield ev.TickAnswer()


def judged(run: PaperRun, cell: Cell, answer: ev.Answer) -> object:
    """What the core would make of an answer; nothing is kept."""
    command = RecordReading(
        kind="record", id=uuid4(), cell=cell.key, attempt=len(run.state.tries(cell.key)) + 1, answer=answer
    )
    context = Context(BRAM, run.now + run.waiting(cell), TODAY, {t.id: t for t in TOOLS})
    try:
        data = decide(run.state, command, context)
    except Refusal as refusal:
        if refusal.kind is RefusalKind.ASKED:
            return {"asked": refusal.code, "stands": judged(run, cell, as_sure(answer))}
        return {"refused": refusal.code, **refusal.params}
    assert isinstance(data, ev.Recorded)
    return data.judgement.model_dump(mode="json")


def asked(run: PaperRun, cell: Cell) -> Iterator[str]:
    """What one call would make of sound and of wrong answers, and what would be redone with it."""
    sound = usual_answer(same_hands(run).state, cell, run.chance, TOOLS, TODAY)
    for answer in (sound, *wrong_ways(cell, sound)):
        said = answer.model_dump(mode="json")
        yield line("answer", cell.key, {"said": said, "made_of_it": judged(run, cell, answer)})


def stands(run: PaperRun, cell: Cell) -> Iterator[str]:
    """What is owed, painted and expected at one call."""
    if (moves := expected_movement_deg(run.state, cell)) is not None:
        yield line("moves", cell.key, moves)
    if owed := debts(run.state):
        yield line("owed", cell.key, [(d.kind, d.cell) for d in owed])
    for call in bench_view(UUID(int=0), run.state, run.looking()).calls[:1]:
        yield line("call", cell.key, {name: getattr(call, name) for name in CALL})
    card = hand_over(run.state, run.now).model_dump(mode="json")
    if card["paints"] or card["ageing"]:
        yield line("card", cell.key, {k: card[k] for k in ("paints", "ageing")})


def misread(run: PaperRun, cell: Cell) -> Iterator[str]:
    """The first wrong answer that is kept, what the Bench says of it, and how it is struck."""
    sound = usual_answer(same_hands(run).state, cell, run.chance, TOOLS, TODAY)
    for answer in wrong_ways(cell, sound):
        made = judged(run, cell, answer)
        if isinstance(made, dict) and "stands" in made:
            answer, made = as_sure(answer), made["stands"]  # noqa: PLW2901 — it is looked at again, and stands
        if isinstance(made, dict) and made.get("verdict") in ("out_of_band", "too_near"):
            run.now += run.waiting(cell)
            run.record(cell.key, answer)
            view = bench_view(UUID(int=0), run.state, run.looking())
            open_ones = [(q.row.cell, q.row.verdict, q.may_strike, q.may_concern_sisters) for q in view.questions]
            yield line("open", cell.key, [view.status, open_ones])
            if not may_strike(run.state, cell.key):
                run.send(Accept(kind="accept", id=uuid4(), cell=cell.key, attempt=1, reason="Seen by the chief"), INES)
            else:
                run.strike(cell.key)
            return


def same_hands(run: PaperRun) -> PaperRun:
    """The same hands for each call, whatever was asked before."""
    run.chance.seed(7)
    return run


def played(name: str, way: dict[str, str]) -> Iterator[str]:
    """Play a sound joint; at the first fastener of each item say what other answers would have come to."""
    run, seen = PaperRun(name, **way), set[tuple[str, str]]()
    while (cell := next_call(run.state)) is not None:
        if (cell.step, cell.item) not in seen and not asked_now(run.state, run.now):
            seen.add((cell.step, cell.item))
            yield from asked(run, cell)
            yield from stands(run, cell)
        same_hands(run).play_one()
        if (
            (cell.step, cell.item) in seen
            and run.state.live(cell.key) is not None
            and cell.ask is not InputType.SIGNATURE
        ):
            yield line("redo", cell.key, redo_scope(run.state, cell.key))
    yield from ended(run)


def misplayed(name: str, way: dict[str, str]) -> Iterator[str]:
    """Play a joint where the first of each item goes wrong, is struck or accepted, and is done again."""
    run, seen = PaperRun(name, **way), set[tuple[str, str]]()
    while (cell := next_call(run.state)) is not None:
        if (
            (cell.step, cell.item) not in seen
            and not asked_now(run.state, run.now)
            and cell.ask is not InputType.SIGNATURE
        ):
            seen.add((cell.step, cell.item))
            yield from misread(run, cell)
        else:
            same_hands(run).play_one()
    yield from ended(run)


def ended(run: PaperRun) -> Iterator[str]:
    """What the screens and papers say at its end."""
    state = run.state
    for name in dict.fromkeys(c.fastener for c in state.definition.cells if c.fastener):
        if (reckoned := estimate(state, name)) is not None:
            yield line("holds", name, asdict(reckoned))
    yield line("after", "neighbours", after_neighbours(state))
    yield line("plan", "heads", plan_of(state).model_dump(mode="json")["heads"])
    for sheet in movement_of(state):
        yield line("movement", sheet.step, sheet.model_dump(mode="json"))
    for strip in strips(state, {key: ceiling_for(state, cells[0]) for key, cells in state.definition.steps}):
        yield line("strip", strip.step, asdict(strip))
    record = record_of(UUID(int=0), state, "0" * 64).model_dump(mode="json")
    for stud in record["studs"]:
        yield line("stud", stud["fastener"], stud)
    for part in ("stages", "exceptions", "tools", "signatures"):
        yield line("record", part, record.get(part))
    view = bench_view(UUID(int=0), state, run.looking())
    yield line("ribbon", view.status, [(row.step, row.done, row.total) for row in view.ribbon])


def written(name: str) -> str:
    """The file of a procedure: its first way."""
    way = next(way for one, way in WAYS if one == name)
    return "".join(f"{one}\n" for one in (*played(name, way), *misplayed(name, way)))


def test_every_shipped_procedure_has_the_cells_that_logs_were_begun_with() -> None:
    assert fingerprints() == json.loads(FINGERPRINTS.read_text())


@pytest.mark.parametrize("name", NAMES)
def test_the_same_answers_come_to_the_same_judgements_and_figures(name: str) -> None:
    was = (PLACE / f"{name}.txt").read_text().splitlines()
    now = written(name).splitlines()
    for before, after in zip(was, now, strict=False):
        assert after == before
    assert len(now) == len(was)


if __name__ == "__main__":
    PLACE.mkdir(exist_ok=True)
    FINGERPRINTS.write_text(json.dumps(fingerprints(), indent=1) + "\n")
    for each in NAMES:
        (PLACE / f"{each}.txt").write_text(written(each))
