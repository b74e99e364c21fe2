"""The home screen: engines as long sections, what waits for whom, what is due."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from typing import Final, Literal, TypeAlias
from uuid import UUID
from zoneinfo import ZoneInfo

from jorvek.core.engine.layout import Engine, JointKind
from jorvek.core.overhaul.views.joints import JointNow, Offer
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.rights import Act, may
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.events import Person
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.authorization import barred
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.core.run.views.bench import RunStatus, status_of
from jorvek.core.run.views.labels import View, step_title
from jorvek.store.run_summaries import RunSummary
from jorvek.store.runindex import RunRow
from jorvek.work.engine.page import Fleet
from jorvek.work.upkeep.hours_and_due import DueWork, due_work
from jorvek.work.workshop import Workshop

RunsAsked: TypeAlias = Literal["open", "closed", "exceptions"]
RunJointState = Literal["under_way", "question", "closed"]
JointState = Literal[RunJointState, "to_do", "no_procedure"]
Direction = Literal["undone", "put_back"]
_DUE_SOON = timedelta(days=30)


class JointCell(View):
    """One joint in the long section.

    Attributes:
        slot: place along the section, in cylinder pitches.
        filled: share of the calls done in the run that is under way, 0 … 1.
        condition: what the joint is like; None where nobody knows.
        home: that is the condition in which the engine runs.
        going: which way the work under way takes it.
        done: it was apart in this overhaul and is back.
        next: its work is next in the engine's overhaul.
        offers: what can be done with it, in working order.
    """

    key: str
    kind: JointKind
    label: str
    name: str
    slot: float
    state: JointState
    filled: float
    condition: Condition | None
    home: bool
    going: Direction | None
    done: bool
    next: bool
    run_id: UUID | None
    offers: tuple[Offer, ...]


class EngineStrip(View):
    """One engine as a long section.

    Attributes:
        overhaul: title of its open overhaul; None where it is not worked on.
        inside: who is in a confined space of it.
        hot_work: where somebody works with flame, by a permit that holds.
        hot_work_out: where the permit for it does not hold any more.
        under_pressure: joints on which a tool is under pressure.
        owed: how much runs have left for others to put right.
    """

    id: str
    name: str
    type: str
    serial: str
    place: str
    layout: str
    pitches: int
    left_end: str
    right_end: str
    overhaul: str | None
    inside: tuple[str, ...]
    hot_work: tuple[str, ...]
    hot_work_out: tuple[str, ...]
    under_pressure: tuple[str, ...]
    owed: int
    joints: tuple[JointCell, ...]
    joint_words: dict[JointKind, str]


WaitsFor = Literal["sign", "question", "close", "sister", "claim"]


class Waiting(View):
    """Something that waits for the person who looks."""

    run_id: UUID
    engine: str
    joint: str
    what: WaitsFor
    title: str
    since: datetime
    by: str


class Due(View):
    """A calibration that runs out."""

    tool: str
    name: str
    due: date
    days: int


class EngineNamedOn(View):
    """Who works where."""

    run_id: UUID
    by: str
    engine: str
    joint: str
    title: str
    status: RunStatus


class Berth(View):
    """The home screen."""

    engines: tuple[EngineStrip, ...]
    waiting: tuple[Waiting, ...]
    due: tuple[Due, ...]
    later: tuple[DueWork, ...]
    on_engine: tuple[EngineNamedOn, ...]


class RunListed(View):
    """A run in the list of records."""

    run_id: UUID
    engine: str
    joint: str
    procedure_title: str
    revision: str
    status: RunStatus
    started_at: datetime
    closed_at: datetime | None
    people: tuple[str, ...]
    readings: int
    exceptions: int


class Asked(View):
    """What waits in a run, closed or not: a check asked for by a joint of the same kind, or work from a lost link."""

    title: str
    since: datetime
    by: str


class JointSummary(View):
    """What the home screen says of a run.

    Attributes:
        filled: share of the calls done, 0 … 1.
        sisters: checks that faults on joints of the same kind ask for.
        claim: the first piece of work from a lost link that waits for a decision.
    """

    engine: str
    joint: str
    state: RunJointState
    filled: float
    sisters: tuple[Asked, ...]
    claim: Asked | None


def joint_summary(_: UUID, state: RunState) -> JointSummary:
    """Return what the home screen says of a run."""
    claim = next((one for one in state.claims if one.taken is None), None)
    return JointSummary(
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        state=_joint_state(state),
        filled=_filled(state),
        sisters=tuple(
            Asked(title=check.cause, since=check.at, by=check.by.name)
            for check in state.sister_checks
            if check.found_too is None
        ),
        claim=Asked(title="", since=claim.at, by=claim.by.name) if claim else None,
    )


def _asks(summary: JointSummary) -> bool:
    """Tell whether anything in a run waits for somebody, whether it is closed or not."""
    return bool(summary.sisters) or summary.claim is not None


_JOINT: Final = RunSummary("joint", JointSummary, joint_summary)


class EngineNamed(View):
    """An engine to choose."""

    id: str
    name: str


def engines_named(workshop: Workshop) -> tuple[EngineNamed, ...]:
    """Return the engines that anything was ever worked on, by name."""
    worked_on = workshop.registers.engines_worked_on()
    named = (EngineNamed(id=e.id, name=e.name) for e in workshop.registers.engines() if e.id in worked_on)
    return tuple(sorted(named, key=lambda one: one.name))


def berth(workshop: Workshop, actor: Person) -> Berth:
    """Return the home screen for a person."""
    registers = workshop.registers
    newest, opened = registers.newest_runs.look()
    fleet, summaries = Fleet(workshop), workshop.summaries.of(_JOINT, newest.values())
    open_states = [(row.id, workshop.log.snapshot(row.id).state) for row in opened]
    return Berth(
        engines=tuple(_strip(fleet, e, newest, summaries) for e in registers.engines()),
        waiting=_waiting(workshop, open_states, actor),
        due=_due(workshop),
        later=tuple(due_work(workshop)),
        on_engine=tuple(_on_engine(run_id, state) for run_id, state in open_states),
    )


def _strip(
    fleet: Fleet, engine: Engine, newest: dict[tuple[str, str], RunRow], summaries: dict[UUID, JointSummary]
) -> EngineStrip:
    whole = fleet.whole(engine)
    cells: list[JointCell] = []
    for joint in whole.joints:
        row = newest.get((engine.id, joint.key))
        cells.append(_joint_cell(joint, row, summaries[row.id] if row else None, joint.key in whole.next))
    return EngineStrip(
        id=engine.id,
        name=engine.name,
        type=engine.type,
        serial=engine.serial,
        place=engine.place,
        layout=engine.layout,
        pitches=engine.cylinders_per_bank,
        left_end=engine.landmarks.x_minus,
        right_end=engine.landmarks.x_plus,
        overhaul=whole.overhaul,
        inside=whole.inside,
        hot_work=whole.hot_work,
        hot_work_out=whole.hot_work_out,
        under_pressure=whole.under_pressure,
        owed=whole.owed,
        joints=tuple(cells),
        joint_words=engine.joint_words,
    )


def _joint_cell(joint: JointNow, row: RunRow | None, summary: JointSummary | None, following: bool) -> JointCell:
    # A closed run of an earlier overhaul says nothing of the joint as it is now.
    state = summary.state if summary and (joint.run_id is not None or summary.state != "closed") else None
    return JointCell(
        key=joint.key,
        kind=joint.kind,
        label=joint.label,
        name=joint.name,
        slot=joint.slot,
        state=state or ("to_do" if joint.offers else "no_procedure"),
        filled=summary.filled if summary and joint.under_way else 0.0,
        condition=joint.condition,
        home=joint.home,
        going=joint.going,
        done=joint.done,
        next=following,
        run_id=row.id if row else None,
        offers=joint.offers,
    )


def _joint_state(state: RunState) -> RunJointState:
    if state.status == "closed":
        # A fault found on a joint of the same kind, and here too or not looked for yet, takes the certainty away again.
        return "question" if any(check.found_too is not False for check in state.sister_checks) else "closed"
    asked = any(d.kind is DebtKind.UNRESOLVED for d in debts(state))
    return "question" if asked else "under_way"


def _filled(state: RunState) -> float:
    cells = state.definition.cells
    return sum(state.live(c.key) is not None for c in cells) / len(cells)


def _waits(run_id: UUID, state: RunState, what: WaitsFor, title: str = "") -> Waiting:
    """Return one line of what waits, since the newest event of the run."""
    return Waiting(
        run_id=run_id,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        what=what,
        title=title,
        since=state.last_at,
        by=state.watches[-1].by.name,
    )


def _waiting(workshop: Workshop, opened: list[tuple[UUID, RunState]], actor: Person) -> tuple[Waiting, ...]:
    """Return what waits for a person, on whatever engine."""
    asking = workshop.summaries.mattering(_JOINT, workshop.registers.run_index, _asks)
    return (
        *(w for run_id, state in opened for w in _waiting_on(run_id, state, actor)),
        *(w for run_id, summary in asking.items() for w in _sisters_asked(run_id, summary, actor)),
        *(w for run_id, summary in asking.items() for w in _claims(run_id, summary, actor)),
    )


def _waiting_on(run_id: UUID, state: RunState, actor: Person) -> list[Waiting]:
    found: list[Waiting] = []
    call = next_call(state)
    if call is not None and call.ask is InputType.SIGNATURE and barred(state, call, actor.id, actor.role) is None:
        found.append(_waits(run_id, state, "sign", step_title(state, call.step)))
    if may(actor.role, Act.ACCEPT):
        asked = [d for d in debts(state) if d.kind is DebtKind.UNRESOLVED]
        if asked:
            cell = state.definition.by_key[asked[0].cell]
            found.append(_waits(run_id, state, "question", step_title(state, cell.step)))
    if may(actor.role, Act.CLOSE_RUN) and status_of(state) == "complete":
        found.append(_waits(run_id, state, "close"))
    return found


def _asked(run_id: UUID, summary: JointSummary, what: WaitsFor, asked: Asked) -> Waiting:
    return Waiting(
        run_id=run_id,
        engine=summary.engine,
        joint=summary.joint,
        what=what,
        title=asked.title,
        since=asked.since,
        by=asked.by,
    )


def _sisters_asked(run_id: UUID, summary: JointSummary, actor: Person) -> list[Waiting]:
    """Return the checks that faults on joints of the same kind ask for; closed runs have them, too."""
    if not may(actor.role, Act.RECORD):
        return []
    return [_asked(run_id, summary, "sister", check) for check in summary.sisters]


def _claims(run_id: UUID, summary: JointSummary, actor: Person) -> list[Waiting]:
    """Return that work from a lost link waits for a decision; it may come after closing."""
    if summary.claim is None or not may(actor.role, Act.ACCEPT):
        return []
    return [_asked(run_id, summary, "claim", summary.claim)]


def _due(workshop: Workshop) -> tuple[Due, ...]:
    today = workshop.today()
    soon = [t for t in workshop.registers.tools() if t.calibration_due <= today + _DUE_SOON]
    soon.sort(key=lambda t: t.calibration_due)
    return tuple(
        Due(tool=t.id, name=t.name, due=t.calibration_due, days=(t.calibration_due - today).days) for t in soon
    )


def _on_engine(run_id: UUID, state: RunState) -> EngineNamedOn:
    call = next_call(state)
    return EngineNamedOn(
        run_id=run_id,
        by=state.watches[-1].by.name,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        title=step_title(state, call.step) if call else "",
        status=status_of(state),
    )


class MyRun(View):
    """A run that the person who looks has in hand, and what it waits for; None where it goes on."""

    run_id: UUID
    joint: str
    waits: Literal["sign", "question"] | None


class Mine(View):
    """What every screen knows of whoever is signed in: the runs in their hands, and what waits for them elsewhere."""

    runs: tuple[MyRun, ...]
    waiting: tuple[Waiting, ...]


def mine(workshop: Workshop, actor: Person) -> Mine:
    """Return what a person has in hand and what waits for them: their tablet says when either changes."""
    _, opened = workshop.registers.newest_runs.look()
    states = [(row.id, workshop.log.snapshot(row.id).state) for row in opened]
    held = [(run_id, state) for run_id, state in states if state.watches[-1].by.id == actor.id]
    return Mine(
        runs=tuple(
            MyRun(
                run_id=run_id, joint=f"{state.started.engine.name} · {state.started.joint_label}", waits=_held_by(state)
            )
            for run_id, state in held
        ),
        waiting=_waiting(workshop, states, actor),
    )


def _held_by(state: RunState) -> Literal["sign", "question"] | None:
    call = next_call(state)
    if call is not None and call.ask is InputType.SIGNATURE:
        return "sign"
    return "question" if any(d.kind is DebtKind.UNRESOLVED for d in debts(state)) else None


class RunsListed(View):
    """The list of records.

    Attributes:
        engines: those that anything was ever worked on, by name.
        found: how many runs match what was asked for.
        runs: the newest of them.
    """

    engines: tuple[EngineNamed, ...]
    found: int
    runs: tuple[RunListed, ...]


def runs_listed(
    workshop: Workshop, engine_id: str | None = None, words: str = "", state: RunsAsked | None = None
) -> RunsListed:
    """Return runs for the list of records, newest first; years of them are not handed out whole.

    Args:
        workshop: the workshop.
        engine_id: one engine; all of them when None.
        words: each is part of the engine's name, the joint's, the procedure's, of somebody who worked on it, or of the
            date as it is written at the site.
        state: those that are open, closed, or have exceptions; all when None.
    """
    engines, rows = engines_named(workshop), workshop.registers.runs(engine_id)
    if state in ("open", "closed"):
        rows = [row for row in rows if row.open is (state == "open")]
    wanted = words.casefold().split()
    if not wanted and state != "exceptions":
        shown = tuple(workshop.summaries.of(_LISTED, rows[:_MOST_LISTED]).values())
        return RunsListed(engines=engines, found=len(rows), runs=shown)
    zone = ZoneInfo(workshop.site_zone)
    found = [
        one
        for one in workshop.summaries.of(_LISTED, rows).values()
        if (state != "exceptions" or one.exceptions) and all(word in _said(one, zone) for word in wanted)
    ]
    return RunsListed(engines=engines, found=len(found), runs=tuple(found[:_MOST_LISTED]))


def _said(run: RunListed, zone: ZoneInfo) -> str:
    """Return what somebody may look for a run by."""
    day = f"{run.started_at.astimezone(zone):%Y-%m-%d %d.%m.%Y %d %b, %H:%M}"
    return " ".join((run.engine, run.joint, run.procedure_title, *run.people, day)).casefold()


def listed_digest(run_id: UUID, state: RunState) -> RunListed:
    """Return what the list of records says of a run."""
    tries = [a for attempts in state.attempts.values() for a in attempts]
    odd = [a for a in tries if not a.settled or a.accepted is not None or a.rejected is not None]
    return RunListed(
        run_id=run_id,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        procedure_title=state.definition.procedure.title,
        revision=state.definition.procedure.revision,
        status=status_of(state),
        started_at=state.started_at,
        closed_at=state.closed_at,
        people=tuple(dict.fromkeys(a.by.name for a in sorted(tries, key=lambda a: a.seq))),
        readings=len(tries),
        exceptions=len(odd),
    )


_MOST_LISTED: Final = 100
_LISTED: Final = RunSummary("listed", RunListed, listed_digest)
