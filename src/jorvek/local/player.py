"""A steady pair of hands: answers each next call of a run with readings that the physics allows.

Used to fill the demo world and to bring test runs to a wanted place. It works through the
same acts as a tablet does.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from uuid import uuid4

from jorvek.core.overhaul.log.commands import DeclareConditions, FreeGear, PutBackAfterTest
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import ground_of
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.options import selections
from jorvek.core.procedure.steps import DeflectionStep, GateStep, LubricateStep, ToolIssueStep
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, Role, may, may_sign_as
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.commands import AnswerAge, Close, Command, Pause, RecordReading, TakeOver, TryPressure
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.ageing import asked_now
from jorvek.core.run.rules.asked_first import still_turned
from jorvek.core.run.rules.authorization import wanted_rank
from jorvek.core.run.rules.friction import in_force
from jorvek.core.run.rules.judge import wait_left_s
from jorvek.core.run.rules.ladder_history import tries
from jorvek.core.run.rules.lengths import expected_length
from jorvek.core.run.rules.measured import chosen_part
from jorvek.core.run.rules.on_instrument import shown_on
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.core.run.rules.recording import demand_capable
from jorvek.core.run.rules.torque_angle_verdict import expected_movement_deg
from jorvek.core.sheet.access import Work, in_the_way
from jorvek.core.tools import Tool, check_tool
from jorvek.local.drawn import drawn_photo
from jorvek.store.runlog import Snapshot
from jorvek.work.engine import overhauls
from jorvek.work.library import revisions
from jorvek.work.people import accounts
from jorvek.work.runs import acts
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
        case InputType.TICK:
            return ev.TickAnswer()
        case InputType.FEELER:
            return ev.FeelerAnswer(enters="enters" in cell.choices)
        case InputType.SEEN:
            return ev.SeenAnswer()
        case InputType.TOOL:
            return ev.ToolAnswer(tool_id=fitting_tools(state, cell, tools, today)[0])
        case InputType.VALUE:
            return ev.ValueAnswer(text=_reading(state, cell, chance), unit=cell.unit or "")
        case InputType.SIGNATURE:
            return ev.SignatureAnswer()
        case InputType.CHOICE:
            return _usual_choice(state, cell)
        case InputType.WORDS:
            first = state.live(cell.uses[0]) if cell.rule is Rule.EQUAL else None
            if first is not None and isinstance(first.answer, ev.WordsAnswer):
                return first.answer
            of = cell.which or cell.item
            return ev.WordsAnswer(text=_WRITTEN.get(cell.item, f"{state.started.engine.serial[-4:]}-{of}"))
        case InputType.COUNT:
            return ev.CountAnswer(count=int(cell.target or 0))
        case InputType.PULL:
            return _usual_pull(state, cell, chance)
        case InputType.TURN:
            return ev.TurnAnswer(to_mark=True)


_SETTLED = 0.6
"""Share of the first cycle's movement that a settled gasket leaves for the second."""


def _usual_pull(state: RunState, cell: Cell, chance: random.Random) -> ev.PullAnswer:
    """Return a pull that moved about as far as it should, a settled joint less."""
    if cell.rule is Rule.STAYED:
        return ev.PullAnswer(outcome=ev.PullOutcome.STILL)
    # A steady hand slackens what had been turned before it is pulled again, and says so.
    slackened = still_turned(state, cell.fastener or "")
    wanted = expected_movement_deg(state, cell)
    if wanted is None:
        return ev.PullAnswer(outcome=ev.PullOutcome.MOVED, sure=slackened or None)
    moved = max(1.0, wanted * (1.0 if cell.cycle == 1 else _SETTLED) * chance.gauss(1.0, 0.07))
    return ev.PullAnswer(outcome=ev.PullOutcome.MOVED, moved=f"{moved:.0f}", sure=slackened or None)


_WRITTEN = {"batch": "B-2207", "second": "Tam Pereira"}


def _usual_choice(state: RunState, cell: Cell) -> ev.ChoiceAnswer:
    if cell.rule is Rule.CHOSEN:
        return ev.ChoiceAnswer(choice=chosen_part(state, cell).part or cell.choices[0])
    first = cell.choices[0]
    return ev.ChoiceAnswer(choice=first, note="Always new here" if first == "replace" else None)


def fitting_tools(state: RunState, cell: Cell, tools: list[Tool], today: date) -> list[str]:
    """Return the tools of the register that a call may be answered with."""
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, ToolIssueStep)
    wanted = next(t for t in step.tools if t.role == cell.tool_role)
    found: list[str] = []
    for tool in tools:
        if tool.tool_class == wanted.tool_class and not tool.out_of_date(today):
            with suppress(Refusal):
                check_tool(tool, wanted)
                demand_capable(state, cell, tool)
                found.append(tool.id)
    return found


def _reading(state: RunState, cell: Cell, chance: random.Random) -> str:
    match cell.what:
        case CellItem.FREE:
            return f"{5 * round((cell.target or 0.0) * (1 + chance.gauss(0, 0.01)) / 5):.0f}"
        case CellItem.TEMPERATURE:
            if cell.kind in ("temperature_gate", "wait"):
                return f"{(cell.upper or 40.0) - 12.0:.1f}"
            return f"{19.0 + (1.5 if cell.kind == 'stretch' else 0.0) + chance.gauss(0, 0.2):.1f}"
        case CellItem.LENGTH:
            target, _, _ = expected_length(state, cell)
            grown = 0.025 if cell.kind == "stud_length" else 0.0
            return f"{(target or 0.0) + grown + max(-0.02, min(0.02, chance.gauss(0, 0.008))):.3f}"
        case CellItem.THREAD:
            return f"{(cell.lower or 0.0) + 2.0 + chance.gauss(0, 0.4):.1f}"
        case CellItem.ZERO | CellItem.JOINT_TEMPERATURE:
            return "0" if cell.what is CellItem.ZERO else "20.5"
        case CellItem.TESTED_LOAD:
            return f"{_tested_load_kN(state, cell) * (1 + chance.gauss(0, 0.01)):.1f}"
        case CellItem.PROVE:
            shown = shown_on(state, cell)
            return f"{(shown.upper if shown is not None else cell.upper) or 0:.0f}"
        case CellItem.END_TORQUE:
            return f"{1.2 * (cell.lower or 0.0):.0f}"
        case CellItem.LOWEST:
            peak = state.live(cell.uses[0])
            return f"{(peak.judgement.value or 0) - 5:.0f}" if peak else "0"
        case _ if cell.kind in ("gate", "stagger", "crank_position", "torque"):
            return _measured(state, cell, chance)
        case _:
            shown = shown_on(state, cell)
            return f"{(shown.aim if shown is not None else cell.target) or 0:.0f}"


def _tested_load_kN(state: RunState, cell: Cell) -> float:
    """Return the load of a test bolt with the oil that is at hand."""
    step = state.definition.steps_by_id[cell.step_id]
    assert isinstance(step, LubricateStep)
    assert step.friction_test is not None
    assert step.group is not None
    model, now = state.definition.models[step.group], in_force(state)[step.group].friction
    mu = _SOME_FRICTION if now is None else now[1]
    return model.torque_load_N(step.friction_test.torque.value, mu) / 1000.0


_SOME_FRICTION = 0.12
_NOMINAL = {"bore": 200.25, "journal": 200.0, "bore_temperature": 20.0, "journal_temperature": 20.0, "aft": 0.0}


def _measured(state: RunState, cell: Cell, chance: random.Random) -> str:
    """Return a reading in the middle of its limits; where it has none, one that the sums like."""
    if cell.target is not None:
        return f"{cell.target:.0f}"
    if cell.rule is Rule.STRIP:
        shown = shown_on(state, cell)
        assert shown is not None
        good = [w for w in (shown.lower, shown.upper) if w is not None]
        return f"{sum(good) / len(good) + (0.05 if cell.what is CellItem.WIDEST else -0.05):.2f}"
    if cell.lower is not None or cell.upper is not None:
        low = cell.lower if cell.lower is not None else 0.0
        high = cell.upper if cell.upper is not None else low + 2.0
        return f"{(low + high) / 2.0 + chance.gauss(0, (high - low) / 60.0):.3f}"
    step = state.definition.steps_by_id[cell.step_id]
    if isinstance(step, DeflectionStep):
        return f"{chance.gauss(0, step.closes_within.value / 12.0):.3f}"
    assert isinstance(step, GateStep)
    match step.gate.measure:
        case "bore_form":
            return f"{step.gate.nominal.value + 0.12 + chance.gauss(0, 0.01):.3f}"
        case "protrusion":
            return f"{0.5 + chance.gauss(0, 0.01):.3f}"
        case "end_float":
            # A float has a limit on one side at least.
            middle = ((step.gate.limits.lower or step.gate.limits.upper).value) * 1.4  # type: ignore[union-attr]  # a gate with neither limit is refused by the check
            return f"{middle if cell.what is CellItem.FORWARD else 0.0:.3f}"
        case "straightness":
            return f"{chance.gauss(0, 0.004):.3f}"
        case _:
            return f"{_NOMINAL[cell.item_word] + chance.gauss(0, 0.002):.3f}"


_ROUNDS = 4
"""What stands in the way of one joint may hide what stands in the way of the next."""


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

    def start(
        self,
        engine_id: str,
        joint_key: str,
        procedure_hash: str,
        selection: dict[str, str] | None = None,
        *,
        find: bool = True,
    ) -> Snapshot:
        """Start the run; what decides the numbers is found as it should be, and so is the engine if it may be."""
        procedure = revisions.revision_of(self.workshop, procedure_hash).procedure
        serial = overhauls.engine_of(self.workshop, engine_id).serial
        observed = tuple(
            ev.Observed(key=k.id, value=serial if k.serials else k.values[0], evidence=k.evidence)
            for k in procedure.variants
        )
        chosen = selection if selection is not None else next(iter(selections(procedure)))
        if find:
            self.find_ready(engine_id, Work(joint_key, procedure.begins, procedure.leaves, chosen))
        command = acts.StartRun(
            id=uuid4(),
            run_id=self.run_id,
            engine_id=engine_id,
            joint_key=joint_key,
            procedure_hash=procedure_hash,
            selection=chosen,
            observed=observed,
        )
        return acts.start_run(self.workshop, self.hands, command)

    def find_ready(self, engine_id: str, work: Work) -> None:
        """Let a lead hand find the engine as the work needs it, where no run of the overhaul says otherwise."""
        lead = next(accounts.as_actor(p) for p in self.workshop.registers.people() if may(p.role, Act.LEAD_OVERHAUL))
        overhaul = overhauls.open_on(self.workshop, engine_id)
        if overhaul is None:
            opening = overhauls.OpenOverhaul(
                id=uuid4(), overhaul_id=uuid4(), engine_id=engine_id, title="Outage", as_it_ran=True
            )
            overhaul = overhauls.open_overhaul(self.workshop, lead, opening).state
        for _ in range(_ROUNDS):
            now = overhauls.engine_now(self.workshop, overhaul)
            spoken_for = {run.joint for run in now.runs} - {work.joint}
            ways = in_the_way(ground_of(now.overhaul, now.sheet, now.runs), work)
            found = {o.joint: o.wanted[0] for o in ways if o.wanted and o.joint not in spoken_for}
            if not found or any(run.open and run.joint in found for run in now.runs):
                return
            said = DeclareConditions(kind="declare_conditions", id=uuid4(), found=found, words="Found so")
            overhaul = overhauls.act(self.workshop, lead, overhaul.overhaul_id, said).state

    def state(self) -> RunState:
        """Return the run as it stands."""
        return self.workshop.log.snapshot(self.run_id).state

    def play(self, until: Callable[[Cell], bool] = lambda _: False) -> RunState:
        """Answer call after call until one matches ``until``, or a signature is asked for."""
        state = self.state()
        while True:
            cell = next_call(state)
            if cell is None or cell.ask is InputType.SIGNATURE or until(cell):
                return state
            if self._age_answered(state):
                state = self.state()
                continue
            self.clock.forward(max(self.chance.uniform(6, 24), wait_left_s(state, cell, self.clock())))
            tools = self.workshop.registers.tools() if cell.ask is InputType.TOOL else []
            usual = usual_answer(state, cell, self.chance, tools, self.workshop.today())
            if isinstance(usual, ev.ValueAnswer) and cell.rule is Rule.RELEASE and tries(state, cell.step):
                # Once the ladder is in use, the pressure stands there before a nut comes free at it.
                raised = {"step": cell.step, "text": usual.text, "unit": usual.unit}
                state = self.send(TryPressure(kind="try_pressure", id=uuid4(), **raised)).state
            with self._hands_of_rank(wanted_rank(state, cell)):
                state = self.answer(cell, usual, state=state).state

    @contextmanager
    def _hands_of_rank(self, wanted: Role | None) -> Iterator[None]:
        """Let somebody of the wanted rank come over for one answer."""
        before = self.hands
        if wanted is not None and not may_sign_as(before.role, wanted):
            able = next(p for p in self.workshop.registers.people() if may_sign_as(p.role, wanted))
            self.hands = accounts.as_actor(able)
        yield
        self.hands = before

    def _age_answered(self, state: RunState) -> bool:
        """Answer what grew old on the way: looked at where that will do, else done again."""
        old = next(iter(asked_now(state, self.clock())), None)
        if old is not None:
            good = not old.what.only_again
            words = "Looked at again: as it was" if good else "Done again"
            self.send(AnswerAge(kind="answer_age", id=uuid4(), step=old.what.step, good=good, words=words))
        return old is not None

    def answer(self, cell: Cell, answer: ev.Answer, pin: str | None = None, state: RunState | None = None) -> Snapshot:
        """Give one answer; what others on the engine still rely on is left to whoever is last.

        Args:
            cell: the call.
            answer: what is said.
            pin: for a signature.
            state: the run as it stands, where that is known.
        """
        attempt = len((state or self.state()).tries(cell.key)) + 1
        record = RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=attempt, answer=answer)
        try:
            return self.send(record, pin)
        except Refusal as refusal:
            if refusal.code == "aged" and self._age_answered(self.state()):
                return self.answer(cell, answer, pin)
            if refusal.params.get("why") == "gear_isolated":
                self.free_gear()
                return self.answer(cell, answer, pin)
            gear = self.state().gear
            if refusal.code == "gear_freed" and gear is not None and gear.own:
                self.lock_gear()
                return self.answer(cell, answer, pin)
            if refusal.code == "isolation_relied_on":
                return self.send(record.model_copy(update={"answer": ev.LeftToEngineAnswer()}), pin)
            if isinstance(answer, ev.ToolAnswer) and refusal.code in ("tool_elsewhere", "tool_at_work"):
                return self._draw_another(cell, record, answer)
            raise

    def free_gear(self) -> None:
        """Take the lock of the turning gear off for a call that turns the crank."""
        overhaul = self._overhaul()
        free = FreeGear(kind="free_gear", id=uuid4(), commander=self.hands.name, run=self.run_id)
        overhauls.act(self.workshop, self.hands, overhaul.overhaul_id, free)

    def lock_gear(self) -> None:
        """Lock the turning gear again before any other work goes on."""
        overhaul = self._overhaul()
        assert overhaul.gear_freed is not None
        lock = PutBackAfterTest(kind="put_back_after_test", id=uuid4(), lifted=overhaul.gear_freed.seq)
        overhauls.act(self.workshop, self.hands, overhaul.overhaul_id, lock)

    def _overhaul(self) -> Overhaul:
        overhaul = overhauls.open_on(self.workshop, self.state().started.engine.id)
        assert overhaul is not None
        return overhaul

    def _draw_another(self, cell: Cell, record: RecordReading, wanted: ev.ToolAnswer) -> Snapshot:
        """Draw another tool that fits, or have the one handed on that lies idle elsewhere."""
        tools, today = self.workshop.registers.tools(), self.workshop.today()
        names = fitting_tools(self.state(), cell, tools, today)
        others = [ev.ToolAnswer(tool_id=name) for name in names if name != wanted.tool_id]
        handed = [ev.ToolAnswer(tool_id=name, handed_on=True) for name in names]
        for answer in (*others, *handed):
            with suppress(Refusal):
                return self.send(record.model_copy(update={"answer": answer}))
        raise LookupError(f"no tool free for {cell.key}")

    def send(self, command: Command, pin: str | None = None) -> Snapshot:
        """Send a command in the name of the hands."""
        return acts.act(self.workshop, self.hands, self.run_id, command, pin)

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
        """Close the run, photographs and all."""
        for debt in debts(self.state()):
            if debt.kind is DebtKind.PHOTO:
                self.photograph(debt.cell)
        gear = self.state().gear
        if gear is not None and gear.own:
            self.lock_gear()
        self.clock.forward(120)
        return acts.act(self.workshop, closer, self.run_id, Close(kind="close", id=uuid4()))

    def photograph(self, cell: str, words: str | None = None) -> Snapshot:
        """Put a picture to a call."""
        self.clock.forward(20)
        sent = acts.SentPhoto(uuid4(), cell, drawn_photo(self.chance.randrange(1000)), words)
        return acts.add_photo(self.workshop, self.hands, self.run_id, sent)

    def pause(self) -> Snapshot:
        """Pause the run."""
        return self.send(Pause(kind="pause", id=uuid4()))

    def take_over(self, hands: ev.Person) -> Snapshot:
        """Let somebody else go on."""
        self.hands = hands
        return self.send(TakeOver(kind="take_over", id=uuid4()))
