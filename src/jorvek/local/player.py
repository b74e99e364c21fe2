"""A steady pair of hands: answers each next call of a run with readings that the physics allows.

Used to fill the demo world and to bring test runs to a wanted place. It works through the
same acts as a tablet does.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from uuid import uuid4

from jorvek.core.procedure.steps import ToolIssueStep
from jorvek.core.run import events as ev
from jorvek.core.run.cells import Ask, Cell
from jorvek.core.run.commands import Close, Command, Pause, RecordReading, TakeOver
from jorvek.core.run.judge import aim_on_tool, expected_length, wait_left_s
from jorvek.core.run.progress import next_call
from jorvek.core.run.state import RunState
from jorvek.core.tools import Tool, check_tool
from jorvek.store.runlog import Snapshot
from jorvek.work import runs
from jorvek.work.workshop import Workshop


@dataclass
class SetClock:
    """A clock that stands where it is put."""

    now: datetime

    def __call__(self) -> datetime:
        """Return the time it stands at, in UTC."""
        return self.now.astimezone(UTC)

    def forward(self, seconds: float) -> None:
        """Let time pass."""
        self.now += timedelta(seconds=seconds)


def usual_answer(state: RunState, cell: Cell, chance: random.Random, tools: list[Tool], today: date) -> ev.Answer:
    """Return what a sound joint and a steady hand would give in a cell."""
    match cell.ask:
        case Ask.TICK:
            return ev.TickAnswer()
        case Ask.FEELER:
            return ev.FeelerAnswer(enters=False)
        case Ask.SEEN:
            return ev.SeenAnswer()
        case Ask.TOOL:
            return ev.ToolAnswer(tool_id=_fitting_tool(state, cell, tools, today))
        case Ask.VALUE:
            return ev.ValueAnswer(text=_reading(state, cell, chance), unit=cell.unit or "")
        case Ask.SIGNATURE:
            return ev.SignatureAnswer()
        case _:
            raise LookupError(f"no usual answer for {cell.key}")


def _fitting_tool(state: RunState, cell: Cell, tools: list[Tool], today: date) -> str:
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, ToolIssueStep)
    wanted = next(t for t in step.tools if t.role == cell.tool_role)
    for tool in tools:
        if tool.tool_class == wanted.tool_class and not tool.out_of_date(today):
            check_tool(tool, wanted)
            return tool.id
    raise LookupError(f"no tool for {cell.key}")


def _reading(state: RunState, cell: Cell, chance: random.Random) -> str:
    match cell.item:
        case "temperature":
            return f"{19.0 + (1.5 if cell.kind == 'stretch' else 0.0) + chance.gauss(0, 0.2):.1f}"
        case "length":
            target, _, _ = expected_length(state, cell)
            grown = 0.025 if cell.kind == "stud_length" else 0.0
            return f"{(target or 0.0) + grown + max(-0.02, min(0.02, chance.gauss(0, 0.008))):.3f}"
        case "thread":
            return f"{72.0 + chance.gauss(0, 0.4):.1f}"
        case "zero":
            return "0"
        case "prove":
            return "1045"
        case "lowest":
            peak = state.live(cell.uses[0])
            return f"{(peak.judgement.value or 0) - 5:.0f}" if peak else "0"
        case _:
            return f"{5 * round((aim_on_tool(state, cell) or cell.target or 0) / 5):.0f}"


class Player:
    """Plays one run.

    Attributes:
        run_id: the run.
        hands: who works.
        chance: where the readings scatter from.
    """

    def __init__(self, workshop: Workshop, clock: SetClock, hands: ev.Person, seed: int) -> None:
        self.workshop, self.clock, self.hands = workshop, clock, hands
        self.run_id = uuid4()
        self.chance = random.Random(seed)  # noqa: S311 — measuring noise, not secrets

    def start(self, engine_id: str, joint_key: str, procedure_hash: str) -> Snapshot:
        """Start the run."""
        command = runs.StartRun(
            id=uuid4(), run_id=self.run_id, engine_id=engine_id, joint_key=joint_key, procedure_hash=procedure_hash
        )
        return runs.start_run(self.workshop, self.hands, command)

    def state(self) -> RunState:
        """Return the run as it stands."""
        return self.workshop.log.snapshot(self.run_id).state

    def play(self, until: Callable[[Cell], bool] = lambda _: False) -> RunState:
        """Answer call after call until one matches ``until``, or a signature is asked for."""
        while True:
            state = self.state()
            cell = next_call(state)
            if cell is None or cell.ask is Ask.SIGNATURE or until(cell):
                return state
            self.clock.forward(max(self.chance.uniform(6, 24), wait_left_s(state, cell, self.clock())))
            self.answer(
                cell, usual_answer(state, cell, self.chance, self.workshop.registers.tools(), self.workshop.today())
            )

    def answer(self, cell: Cell, answer: ev.Answer, pin: str | None = None) -> Snapshot:
        """Give one answer."""
        attempt = len(self.state().tries(cell.key)) + 1
        return self.send(RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=attempt, answer=answer), pin)

    def send(self, command: Command, pin: str | None = None) -> Snapshot:
        """Send a command in the name of the hands."""
        return runs.act(self.workshop, self.hands, self.run_id, command, pin)

    def sign(self, signer: ev.Person, pin: str) -> Snapshot:
        """Let a second person sign the hold point that is asked for."""
        cell = next_call(self.state())
        assert cell is not None
        before, self.hands = self.hands, signer
        self.clock.forward(600)
        snapshot = self.answer(cell, ev.SignatureAnswer(), pin)
        self.hands = before
        return snapshot

    def close(self, closer: ev.Person) -> Snapshot:
        """Close the run."""
        self.clock.forward(120)
        return runs.act(self.workshop, closer, self.run_id, Close(kind="close", id=uuid4()))

    def pause(self) -> Snapshot:
        """Pause the run."""
        return self.send(Pause(kind="pause", id=uuid4()))

    def take_over(self, hands: ev.Person) -> Snapshot:
        """Let somebody else go on."""
        self.hands = hands
        return self.send(TakeOver(kind="take_over", id=uuid4()))
