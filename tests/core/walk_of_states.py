"""Hands that do whatever the Bench offers, at random, and look at each state whether anything is left to do."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID, uuid4

from jorvek.core.refusal import Refusal, RefusalKind
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.asked_first import as_sure
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.ladder import undecided
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.progress import DebtKind, complete, debts, open_cells
from jorvek.core.run.rules.redo import redo_scope
from jorvek.core.run.views.bench import OpenQuestion, bench_view
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, INES, PHOTO, TODAY, TOOLS, WRITERS, PaperRun
from tests.core.test_as_it_was import wrong_ways


@dataclass(frozen=True)
class Offered:
    """Something that the Bench holds out to whoever stands before it."""

    what: str
    command: c.Command
    by: ev.Person = INES


class DeadEndError(AssertionError):
    """A state without a call, a wait, a question with a possible answer, or a named person to ask."""


class Walker:
    """One run that is walked through by what it offers.

    Attributes:
        run: the run.
        seen: the states that were looked at, by what was open and what was asked.
    """

    def __init__(self, name: str, way: dict[str, str], seed: int) -> None:
        self.run, self.chance = PaperRun(name, **way), random.Random(seed)
        self.seen: set[tuple[object, ...]] = set()

    def step(self) -> bool:
        """Do one thing that is offered; false when the run is through.

        Raises:
            DeadEndError: when nothing is offered, or what is offered is refused.
        """
        if complete(self.run.state):
            return False
        self._note()
        # Looking for an answer lets time pass, after which something may have grown old.
        answers, questions, ways_on = self._answers(), list(self._questions()), list(self._ways_on())
        for offered in (*questions, *ways_on):
            self._demand_works(offered)
        if not (questions or ways_on or answers):
            raise DeadEndError(self._told("nothing is offered"))
        # A sound joint goes on most of the time, or nobody ever sees its end.
        pool = answers if answers and self.chance.random() < 0.9 else (questions + ways_on) or answers
        chosen = self.chance.choice(pool)
        self.run.send(chosen.command, chosen.by, pin=True)
        return True

    def _note(self) -> None:
        view = bench_view(UUID(int=0), self.run.state, self.run.looking(INES))
        self.seen.add((view.status, *(call.cell for call in view.calls), *(q.row.cell for q in view.questions)))

    def _questions(self) -> Iterator[Offered]:
        """Yield what each open question offers, as its keys say, and the last reading to be crossed out."""
        view = bench_view(UUID(int=0), self.run.state, self.run.looking(INES))
        for asked in view.questions:
            yield from self._of(asked)
        last = view.last
        if last is not None and view.last_may_strike and last.cell not in {q.row.cell for q in view.questions}:
            said = {"cell": last.cell, "attempt": last.attempt, "reason": "Misread"}
            yield Offered("strike", c.StrikeReading(kind="strike", id=uuid4(), **said), BRAM)

    def _of(self, asked: OpenQuestion) -> Iterator[Offered]:
        key, number = asked.row.cell, asked.row.attempt
        if asked.may_strike:
            yield Offered("strike", c.StrikeReading(kind="strike", id=uuid4(), cell=key, attempt=number, reason="Slip"))
        if asked.may_redo:
            cells = redo_scope(self.run.state, key)
            yield Offered("redo", c.RedoWork(kind="redo", id=uuid4(), cell=key, cells=cells, reason="Again"))
        if asked.may_accept:
            yield Offered("accept", c.Accept(kind="accept", id=uuid4(), cell=key, attempt=number, reason="As it is"))
        if asked.may_reject:
            out = {"kind": "reject_fastener", "id": uuid4(), "cell": key, "attempt": number}
            yield Offered("reject", c.RejectFastener(**out, piece=f"X-{self.run.state.seq}", reason="Out"))

    def _ways_on(self) -> Iterator[Offered]:
        state = self.run.state
        for nut in undecided(state):
            words = {"stuck": nut.seq, "words": "Warmed, once more"}
            yield Offered("decide", c.DecideStuck(kind="decide_stuck", id=uuid4(), **words))
        for old in asked_now(state, self.run.now):
            good = not old.what.only_again
            said = {"step": old.what.step, "good": good, "words": "Looked"}
            yield Offered("age", c.AnswerAge(kind="answer_age", id=uuid4(), **said))
        for debt in (x for x in debts(state) if x.kind is DebtKind.PHOTO):
            yield Offered("photo", c.AddPhoto(kind="add_photo", id=uuid4(), cell=debt.cell, photo=PHOTO), BRAM)
        for cell in (x for x in open_cells(state) if x.kind == "loosen_pressure" and x.item == "free"):
            gap = self.chance.random() < 0.5
            yield Offered("stuck", c.ReportStuck(kind="report_stuck", id=uuid4(), cell=cell.key, gap=gap), BRAM)

    def _answers(self) -> list[Offered]:
        """A sound answer to some open call, or now and then a wrong one that is taken."""
        cells = list(open_cells(self.run.state))
        if not cells or asked_now(self.run.state, self.run.now):
            return []
        cell = self.chance.choice(cells)
        self.run.now += self.run.waiting(cell) + timedelta(seconds=1)
        if asked_now(self.run.state, self.run.now):
            return []
        sound = usual_answer(self.run.state, cell, self.chance, TOOLS, TODAY)
        wrong = [as_sure(answer) for answer in wrong_ways(cell, sound)]
        wanted = [self.chance.choice(wrong)] if wrong and self.chance.random() < 0.2 else []
        for answer in (*wanted, sound):
            found = self._taken(cell, answer)
            if found is not None:
                return [found]
        return []

    def _taken(self, cell: Cell, answer: ev.Answer) -> Offered | None:
        number = len(self.run.state.tries(cell.key)) + 1
        reading = c.RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=number, answer=answer)
        offered = Offered("answer", reading, BRAM)
        if isinstance(answer, ev.ValueAnswer) and cell.rule is Rule.RELEASE and tries(self.run.state, cell.step):
            up = {"step": cell.step, "text": answer.text, "unit": answer.unit}
            offered = Offered("ladder", c.TryPressure(kind="try_pressure", id=uuid4(), **up), BRAM)
            if self.run.state.ladder[-1].value == float(answer.text):
                offered = Offered("answer", reading, BRAM)
        if cell.ask is InputType.SIGNATURE:
            offered = Offered("sign", reading, INES)
        try:
            self._decide(offered)
        except Refusal as refusal:
            if refusal.kind is RefusalKind.ASKED:
                return self._taken(cell, as_sure(answer)) if not getattr(answer, "sure", None) else None
            return None
        return offered

    def _decide(self, offered: Offered) -> ev.EventData:
        people = {one.id: one for one in WRITERS.values()}
        tools = {tool.id: tool for tool in TOOLS}
        context = c.Context(
            offered.by, self.run.now, TODAY, tools, True, rejected={}, photos={PHOTO: (8, 6)}, writers=people
        )
        return decide(self.run.state, offered.command, context)

    def _demand_works(self, offered: Offered) -> None:
        try:
            self._decide(offered)
        except Refusal as refusal:
            raise DeadEndError(self._told(f"{offered.what} is offered and refused: {refusal}")) from refusal

    def _told(self, what: str) -> str:
        view = bench_view(UUID(int=0), self.run.state, self.run.looking(INES))
        asked = [(q.row.cell, q.row.verdict.value, [r.code for r in q.row.reasons]) for q in view.questions]
        last = [type(event.data).__name__ for event in self.run.events[-4:]]
        return f"{self.run.state.definition.procedure.id} seq {view.seq} {view.status}: {what}; asked {asked}; {last}"
