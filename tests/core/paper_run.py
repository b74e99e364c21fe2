"""A run without any database: events in a list, state folded from them."""

from __future__ import annotations

import random
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from typing import Literal
from uuid import UUID, uuid4

from jorvek.core import CORE_VERSION
from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.document import Procedure
from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.commands import (
    AddPhoto,
    AnswerAge,
    Command,
    Context,
    RecordReading,
    StrikeReading,
    TryPressure,
    command_digest,
)
from jorvek.core.run.log.definition import define
from jorvek.core.run.log.fold import advance, begin
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.judge import wait_left_s
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.core.run.views.looking import Looking
from jorvek.core.tools import Tool
from jorvek.core.units import Quantity
from jorvek.documents.yaml_reader import read_model, read_yaml
from jorvek.local.player import usual_answer
from jorvek.settings import ROOT
from jorvek.work.library.revisions import read_procedure

PROCEDURE = read_model(read_yaml((ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_bytes()), Procedure)
ENGINES = {
    e.type: e
    for e in (
        read_model(read_yaml(p.read_bytes()), Engine)
        for p in sorted((ROOT / "world" / "engines").glob("*.yaml"), reverse=True)
    )
}
"""The first engine of each type."""
ENGINE = read_model(read_yaml((ROOT / "world" / "engines" / "unit-2.yaml").read_bytes()), Engine)
TOOLS = [read_model(read_yaml(p.read_bytes()), Tool) for p in sorted((ROOT / "world" / "tools").glob("*.yaml"))]
DEFINITION = define(PROCEDURE)
PHOTO = "a" * 64
TODAY = date(2026, 11, 23)


@lru_cache(maxsize=64)
def shipped(name: str) -> Procedure:
    """A shipped procedure by its name."""
    return read_procedure((ROOT / "procedures" / f"{name}.yaml").read_bytes())


def person(name: str, role: Role) -> ev.Person:
    return ev.Person(id=UUID(int=sum(name.encode())), name=name, role=role)


BRAM = person("Bram Okafor", Role.LEAD_HAND)
LIO = person("Lio Sandvik", Role.MECHANIC)
INES = person("Ines Halloran", Role.CHIEF)
TAM = person("Tam Pereira", Role.TRAINEE)
WRITERS = {one.id: one for one in (BRAM, LIO, INES, TAM)}


class PaperRun:
    """Commands in, events kept, state at hand."""

    def __init__(self, name: str | Procedure = "", **selection: str) -> None:
        self.now = datetime(2026, 11, 23, 8, 0, tzinfo=UTC)
        self.chance = random.Random(7)
        self.rejected: dict[str, str] = {}
        written = shipped(name) if isinstance(name, str) and name else name or PROCEDURE
        assert isinstance(written, Procedure)
        definition = DEFINITION if written is PROCEDURE else define(written, selection or None)
        engine = ENGINES[definition.procedure.applies_to.engine_type]
        started = ev.RunStarted(
            procedure_hash=definition.procedure_hash,
            cells_hash=definition.cells_hash,
            joint_key="head-4",
            joint_label="Head 4",
            engine=engine,
            selection=selection,
        )
        self.events = [self._event(started, BRAM, uuid4(), "")]
        self.state: RunState = begin(definition, self.events[0])

    def _event(self, data: ev.EventData, author: ev.Person, event_id: UUID, digest: str) -> ev.Event:
        seq = 1 if isinstance(data, ev.RunStarted) else self.state.seq + 1
        return ev.Event(
            run_id=UUID(int=4),
            seq=seq,
            id=event_id,
            core_version=CORE_VERSION,
            at=self.now,
            author=author,
            command=digest,
            data=data,
        )

    def send(self, command: Command, by: ev.Person = BRAM, *, pin: bool = False) -> RunState:
        context = Context(
            by,
            self.now,
            TODAY,
            {t.id: t for t in TOOLS},
            pin,
            rejected=self.rejected,
            photos={PHOTO: (8, 6)},
            writers=WRITERS,
        )
        return self.take(decide(self.state, command, context), by, command.id, command_digest(command))

    def take(
        self, data: ev.EventData, by: ev.Person = BRAM, event_id: UUID | None = None, digest: str = ""
    ) -> RunState:
        """Keep an event."""
        self.events.append(self._event(data, by, event_id or uuid4(), digest))
        self.state = advance(self.state, self.events[-1])
        return self.state

    def record(self, key: str, answer: ev.Answer, by: ev.Person = BRAM, *, pin: bool = False) -> ev.Judgement:
        attempt = len(self.state.tries(key)) + 1
        self.send(RecordReading(kind="record", id=uuid4(), cell=key, attempt=attempt, answer=answer), by, pin=pin)
        return self.state.tries(key)[-1].judgement

    def looking(self, who: ev.Person = BRAM, **units: str) -> Looking:
        """Somebody who looks at the run now."""
        return Looking(who.id, who.role, self.now, {Quantity(name): unit for name, unit in units.items()})

    def value(
        self, key: str, text: str, unit: str = "mm", by: ev.Person = BRAM, *, sure: Literal[True] | None = None
    ) -> ev.Judgement:
        return self.record(key, ev.ValueAnswer(text=text, unit=unit, sure=sure), by)

    def strike(self, key: str, by: ev.Person = BRAM) -> RunState:
        live = self.state.live(key)
        assert live is not None
        return self.send(StrikeReading(kind="strike", id=uuid4(), cell=key, attempt=live.number, reason="Misread"), by)

    def waiting(self, cell: Cell) -> timedelta:
        """How long hands take until a call can be answered."""
        return timedelta(seconds=8 + wait_left_s(self.state, cell, self.now))

    def play_one(self) -> None:
        """Answer the next call as a sound joint would; what grew old is looked at first."""
        cell = next_call(self.state)
        assert cell is not None
        if old := asked_now(self.state, self.now):
            good = not old[0].what.only_again
            self.send(AnswerAge(kind="answer_age", id=uuid4(), step=old[0].what.step, good=good, words="Looked"))
            return
        self.now += self.waiting(cell)
        by = INES if cell.ask is InputType.SIGNATURE else BRAM
        answer = usual_answer(self.state, cell, self.chance, TOOLS, TODAY)
        if isinstance(answer, ev.ValueAnswer) and cell.rule is Rule.RELEASE and tries(self.state, cell.step):
            # Once the ladder is in use, the pressure stands there before a nut comes free at it.
            raised = {"step": cell.step, "text": answer.text, "unit": answer.unit}
            self.send(TryPressure(kind="try_pressure", id=uuid4(), **raised))
        self.record(cell.key, answer, by, pin=by is INES)

    def play(self, until: str = "chief-sees/sign") -> RunState:
        """Answer call after call as a sound joint would, up to a call that is left open."""
        while (cell := next_call(self.state)) is not None and cell.key != until:
            self.play_one()
        for debt in debts(self.state):
            if debt.kind is DebtKind.PHOTO:
                self.send(AddPhoto(kind="add_photo", id=uuid4(), cell=debt.cell, photo=PHOTO))
        return self.state
