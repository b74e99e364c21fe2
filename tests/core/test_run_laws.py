"""Laws of the run for any sequence of commands, sensible or not."""

from __future__ import annotations

import random
from datetime import timedelta
from uuid import UUID

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import Command
from jorvek.core.run.log.fold import fold
from jorvek.core.run.rules.judge import wait_left_s
from jorvek.core.run.rules.progress import complete, next_call, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, DEFINITION, INES, LIO, TAM, TODAY, TOOLS, PaperRun

COMMAND: TypeAdapter[Command] = TypeAdapter(Command)
KEYS = [cell.key for cell in DEFINITION.cells]


def meddle(run: PaperRun, chance: random.Random) -> None:
    """Ask for something at random; most of it is refused."""
    key = chance.choice(KEYS)
    base = {"id": str(UUID(int=chance.getrandbits(128), version=4)), "cell": key, "attempt": chance.randint(1, 2)}
    kind = chance.choice(["record", "strike", "give_reason", "accept", "redo", "pause", "take_over", "close"])
    extra: dict[str, object] = {}
    if kind == "record":
        extra = {"answer": chance.choice([{"type": "tick"}, {"type": "value", "text": "600", "unit": "bar"}])}
    if kind in ("give_reason", "accept", "redo"):
        extra = {"reason": "because"}
    if kind == "redo":
        base.pop("attempt")
        try:
            extra["cells"] = redo_scope(run.state, key)
        except Refusal:
            extra["cells"] = [key]
    if kind in ("pause", "take_over", "close"):
        base = {"id": base["id"]}
    run.send(COMMAND.validate_python({"kind": kind, **base, **extra}), chance.choice([BRAM, LIO, INES, TAM]))


@settings(max_examples=40)
@given(st.integers(0, 2**32), st.integers(30, 140))
def test_whatever_people_do_no_cell_is_doubled_no_event_is_lost_and_the_fold_is_one(seed: int, moves: int) -> None:
    run, chance = PaperRun(), random.Random(seed)
    for _ in range(moves):
        before = len(run.events)
        try:
            cell = next_call(run.state)
            if cell is None or chance.random() < 0.25:
                meddle(run, chance)
            else:
                run.now += timedelta(seconds=1 + wait_left_s(run.state, cell, run.now))
                run.record(cell.key, usual_answer(run.state, cell, chance, TOOLS, TODAY), LIO, pin=True)
        except Refusal:
            assert len(run.events) == before
        assert all(sum(a.live for a in tries) <= 1 for tries in run.state.attempts.values())
        assert all(run.state.live(c.key) is None for c in open_cells(run.state))
    assert fold(DEFINITION, run.events) == run.state
    again = [ev.Event.model_validate_json(e.model_dump_json()) for e in run.events]
    assert fold(DEFINITION, again) == run.state
    recorded = [e for e in run.events if isinstance(e.data, ev.Recorded)]
    assert len(recorded) == sum(len(tries) for tries in run.state.attempts.values())
    if run.state.status == "closed":
        assert complete(run.state)
