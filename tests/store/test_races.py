"""Two people in the same moment: whatever one decides by, the other cannot change meanwhile.

Each race is held open on purpose: both sides wait for each other right after they have looked and before they
write. Without the lock both have then seen an engine that neither has changed yet; with it the second looks only
after the first has written, so the wait ends in vain and the second is refused.
"""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from threading import Barrier, BrokenBarrierError, Event
from typing import Any
from uuid import UUID, uuid4

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import selections
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import AskSister, NameCause, RecordReading
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules import same_kind_joints
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player, SetClock
from jorvek.store.registers import RevisionRow
from jorvek.store.row_locks import engine_lock, take
from jorvek.work.library import revisions
from jorvek.work.people import accounts
from jorvek.work.runs import acts, studs
from jorvek.work.runs.row_locks import locks_of
from jorvek.work.workshop import Workshop
from tests.conftest import START, World, new_workshop, on_another_node

MAIN = "tarnholt-7l34-main-loosen"
_HELD_OPEN_S = 0.4
"""Only how long the second waits in vain; the outcome does not hang on it."""


def outcome(act: Callable[[], object]) -> str:
    try:
        act()
    except Refusal as refusal:
        return refusal.code
    return "done"


def together(*acts: Callable[[], object]) -> list[str]:
    """Let acts run at once, each in a thread of its own, and return how each ended, sorted."""
    with ThreadPoolExecutor(len(acts)) as pool:
        return sorted(pool.map(outcome, acts))


def held_open(monkeypatch: pytest.MonkeyPatch, module: object, name: str, sides: int = 2) -> None:
    """Let every caller of a question wait for the others once it has its answer."""
    ask, meet = getattr(module, name), Barrier(sides)

    def asked(*args: Any, **rest: Any) -> Any:
        try:
            return ask(*args, **rest)
        finally:
            with suppress(BrokenBarrierError):
                meet.wait(_HELD_OPEN_S)

    monkeypatch.setattr(module, name, asked)


def one_inside_the_other(
    monkeypatch: pytest.MonkeyPatch, slow: Player, act: Callable[[], object], meanwhile: Callable[[], object]
) -> tuple[str, str]:
    """Let one act be decided and not yet written while another is asked for; return how both ended.

    Without the lock the other decides by what was there before, and both are done.
    """
    gather, looked, other_is_through = acts._context, Event(), Event()

    def gathered(workshop: Workshop, run_id: UUID, *rest: Any) -> Any:
        context = gather(workshop, run_id, *rest)
        if run_id == slow.run_id:
            looked.set()
            other_is_through.wait(_HELD_OPEN_S)
        return context

    def other() -> str:
        looked.wait()
        end = outcome(meanwhile)
        other_is_through.set()
        return end

    monkeypatch.setattr(acts, "_context", gathered)
    with ThreadPoolExecutor(2) as pool:
        ends = pool.submit(outcome, act), pool.submit(other)
        return ends[0].result(), ends[1].result()


def two_workshops(world: World) -> tuple[Workshop, Workshop]:
    """One database as two servers see it, each by a node of its own in a cluster: nothing in memory is shared."""
    return world.workshop, new_workshop(on_another_node(world.url), world.clock)


def shelf(workshop: Workshop, name: str) -> RevisionRow:
    """The approved revision of a procedure by its name."""
    heads = workshop.registers.revisions()
    return revisions.revision_of(workshop, next(r.hash for r in heads if (r.id, r.status) == (name, "approved")))


def start_of(workshop: Workshop, joint: str, name: str = MAIN) -> acts.StartRun:
    revision = shelf(workshop, name)
    procedure = revision.procedure
    observed = tuple(ev.Observed(key=k.id, value=k.values[0], evidence=k.evidence) for k in procedure.variants)
    return acts.StartRun(
        id=uuid4(),
        run_id=uuid4(),
        engine_id="unit-2",
        joint_key=joint,
        procedure_hash=revision.hash,
        selection=next(iter(selections(procedure))),
        observed=observed,
        as_it_ran=True,
    )


@pytest.mark.parametrize("servers", [1, 2])
def test_two_neighbouring_mains_are_never_opened_at_the_same_moment(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    held_open(monkeypatch, acts, "demand_start")
    bram = actor(first, "Bram Okafor")
    ends = together(
        lambda: acts.start_run(first, bram, start_of(first, "main-2")),
        lambda: acts.start_run(second, bram, start_of(second, "main-3")),
    )
    assert sorted(ends) == ["access_under_way", "done"]
    assert len(first.registers.runs()) == 1


def _start_elsewhere(url: str, joint: str, gate: Any, ends: Any) -> None:
    workshop = new_workshop(url, SetClock(START))
    command = start_of(workshop, joint)
    bram = actor(workshop, "Bram Okafor")
    gate.wait()
    ends.put(outcome(lambda: acts.start_run(workshop, bram, command)))


def test_two_processes_never_open_neighbours_either(world: World) -> None:
    spawn = multiprocessing.get_context("spawn")
    gate, ends = spawn.Barrier(2), spawn.Queue()
    both = [
        spawn.Process(target=_start_elsewhere, args=(world.url, joint, gate, ends)) for joint in ("main-4", "main-5")
    ]
    for process in both:
        process.start()
    assert sorted(ends.get() for _ in both) == ["access_under_way", "done"]
    for process in both:
        process.join()


def seating_and_barring(world: World, first: Workshop, second: Workshop) -> tuple[tuple[Player, Cell], ...]:
    """One is about to seat a tool on head 4, another to turn the crank for rod 6."""
    tensioning = Player(first, world.clock, actor(first, "Bram Okafor"), 1)
    tensioning.start("unit-2", "head-4", world.procedure)
    seat = _at(tensioning, lambda c: c.traits.tool == "on")
    turning = Player(second, world.clock, actor(second, "Lio Sandvik"), 2)
    turning.start("unit-2", "rod-6", shelf(first, "tarnholt-7l34-rod-loosen").hash)
    return (tensioning, seat), (turning, _at(turning, lambda c: c.traits.crank == "turns" and c.item == "reached"))


@pytest.mark.parametrize("servers", [1, 2])
def test_the_crank_is_never_moved_while_somebody_seats_a_tool(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    (tensioning, seat), (turning, bar) = seating_and_barring(world, first, second)
    ends = one_inside_the_other(
        monkeypatch,
        tensioning,
        lambda: tensioning.answer(seat, ev.TickAnswer()),
        lambda: turning.answer(bar, ev.ValueAnswer(text=f"{bar.target:g}", unit="deg")),
    )
    assert ends == ("done", "sweep_blocked")
    assert turning.state().live(bar.key) is None


def _at(player: Player, wanted: Callable[[Cell], bool]) -> Cell:
    state = player.play(wanted)
    cell = next_call(state)
    assert cell is not None
    assert wanted(cell)
    return cell


@pytest.mark.parametrize("servers", [1, 2])
def test_a_stud_is_not_taken_back_while_it_is_being_rejected_elsewhere(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    looks = []
    for workshop, name, joint in ((first, "Bram Okafor", "head-4"), (second, "Lio Sandvik", "head-5")):
        player = Player(workshop, world.clock, actor(workshop, name), 3)
        player.start("unit-2", joint, shelf(workshop, "tarnholt-7l34-head-loosen").hash)
        looks.append((player, _at(player, lambda c: c.kind == "inspect" and "reuse" in c.choices)))
    (rejecting, reject), (reusing, reuse) = looks
    ends = one_inside_the_other(
        monkeypatch,
        rejecting,
        lambda: rejecting.answer(reject, ev.ChoiceAnswer(choice="replace", note="Grown", piece="A-17")),
        lambda: reusing.answer(reuse, ev.ChoiceAnswer(choice="reuse", piece="a17")),
    )
    assert ends == ("done", "piece_rejected")
    assert reusing.state().live(reuse.key) is None


@pytest.mark.parametrize("servers", [1, 2])
def test_a_revision_is_approved_and_withdrawn_once_however_many_press(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    ines = actor(first, "Ines Halloran")
    held_open(monkeypatch, revisions, "check_with")
    digest = _draft(first)
    ends = together(lambda: revisions.approve(first, ines, digest), lambda: revisions.approve(second, ines, digest))
    assert ends == ["done", "not_a_draft"]
    ends = together(lambda: revisions.withdraw(first, ines, digest), lambda: revisions.withdraw(second, ines, digest))
    assert ends == ["done", "withdrawn_already"]


def _draft(workshop: Workshop) -> str:
    plain = shelf(workshop, "tarnholt-7l34-head-tighten").procedure.plain()
    author = accounts.person_by_name(workshop, "Bram Okafor")
    draft = Procedure.model_validate({**plain, "revision": "ZZ"})
    return workshop.registers.add_revision(draft, author.id, workshop.clock())


@pytest.mark.parametrize("servers", [1, 2])
def test_of_two_documents_that_contradict_each_other_one_is_approved_however_they_meet(
    world: World, monkeypatch: pytest.MonkeyPatch, servers: int
) -> None:
    first, second = two_workshops(world) if servers == 2 else (world.workshop, world.workshop)
    ines = actor(first, "Ines Halloran")
    author = accounts.person_by_name(first, "Bram Okafor")
    old = shelf(first, "tarnholt-7l34-head-loosen")
    revisions.withdraw(first, ines, old.hash)
    drafts = []
    for name, turns in (("half", "0.75 turn"), ("whole", "0.8 turn")):
        plain = old.procedure.plain()
        next(s for s in plain["steps"] if s["id"] == "seat")["back_off"] = turns
        draft = Procedure.model_validate({**plain, "id": f"head-loosen-{name}"})
        drafts.append(first.registers.add_revision(draft, author.id, first.clock()))
    held_open(monkeypatch, revisions, "check_with")
    ends = together(
        lambda: revisions.approve(first, ines, drafts[0]), lambda: revisions.approve(second, ines, drafts[1])
    )
    assert sorted(ends) == ["check_not_clean", "done"]


def test_a_withdrawn_revision_is_not_started_in_the_moment_of_its_withdrawal(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, second = two_workshops(world)
    command, ines = start_of(first, "main-2"), actor(first, "Ines Halloran")
    held_open(monkeypatch, acts, "revision_of", sides=3)
    ends = together(
        lambda: acts.start_run(first, ines, command),
        lambda: revisions.withdraw(second, ines, command.procedure_hash),
    )
    started = bool(first.registers.runs())
    assert ends == (["done", "done"] if started else ["done", "not_approved"])


def test_no_run_begins_on_what_was_known_of_the_studs_before_the_last_one_closed(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    world.procedure = shelf(world.workshop, "tarnholt-7l34-head-loosen").hash
    before, after = world.started("Bram Okafor", "head-5"), world.player("Lio Sandvik")
    chief, ask = actor(world.workshop, "Ines Halloran"), studs.stud_history
    last = before.play(lambda cell: cell.key == "look/decision/4").definition.by_key["look/decision/4"]
    looked, closed = Event(), Event()

    def slowly(*joint: Any) -> Any:
        known = ask(*joint)
        looked.set()
        closed.wait()
        return known

    def throw_it_out_and_close() -> None:
        looked.wait(_HELD_OPEN_S)
        before.answer(last, ev.ChoiceAnswer(choice="replace", note="Nick in the thread", piece="S-4"))
        before.play()
        before.sign(chief, DEMO_PIN)
        before.close(chief)
        closed.set()

    def begin() -> str:
        return outcome(lambda: after.start("unit-2", "head-5", world.procedure))

    monkeypatch.setattr(acts, "stud_history", slowly)
    with ThreadPoolExecutor(2) as pool:
        ends = pool.submit(begin), pool.submit(outcome, throw_it_out_and_close)
        assert [end.result() for end in ends] == ["joint_taken", "done"]
    assert begin() == "done"
    assert set(after.state().started.first_lengths) == {"1", "2", "3"}


def test_thirty_wrong_pins_at_once_are_thirty_tries(world: World) -> None:
    first, second = two_workshops(world)
    lio = accounts.person_by_name(first, "Lio Sandvik")

    def guess(k: int) -> str:
        workshop = first if k % 2 else second
        return outcome(lambda: accounts.check_pin(workshop, lio.id, f"{k:06d}"))

    with ThreadPoolExecutor(30) as pool:
        ends = list(pool.map(guess, range(30)))
    assert (ends.count("pin_wrong"), ends.count("pin_delay")) == (5, 25)
    assert outcome(lambda: accounts.check_pin(first, lio.id, "000000")) == "pin_delay"


def test_a_right_pin_is_never_in_the_way_of_another_however_many_come_at_once(world: World) -> None:
    """The tablets of a shift wake up together: one person on twelve of them, then everybody from one address."""
    first, second = two_workshops(world)
    people = first.registers.people()
    lio = accounts.person_by_name(first, "Lio Sandvik")
    for whose in ([lio] * 8, [people[k % len(people)] for k in range(8)]):
        with ThreadPoolExecutor(8) as pool:
            asked = list(enumerate(whose))
            ends = pool.map(
                lambda one: outcome(lambda: accounts.check_pin(first if one[0] % 2 else second, one[1].id, DEMO_PIN)),
                asked * 3,
            )
            assert set(ends) == {"done"}


def test_a_name_is_given_once_however_it_is_written(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    first, second = two_workshops(world)
    held_open(monkeypatch, accounts, "_folded", sides=4)
    ends = together(
        lambda: accounts.add_person(first, "Ask Berg", Role.MECHANIC, "445566"),
        lambda: accounts.add_person(second, "ASK BERG", Role.MECHANIC, "445566"),
    )
    assert ends == ["done", "name_taken"]


def test_a_check_made_while_a_cause_is_named_on_its_sister_is_not_forgotten(
    world: World, monkeypatch: pytest.MonkeyPatch
) -> None:
    finder, sister = world.started("Bram Okafor", "head-4"), world.started("Lio Sandvik", "head-5")
    check = _at(finder, lambda c: c.traits.on_same_kind)
    finder.answer(check, ev.TickAnswer())
    ends = one_inside_the_other(
        monkeypatch,
        sister,
        lambda: sister.answer(check, ev.TickAnswer()),
        lambda: finder.send(NameCause(kind="name_cause", id=uuid4(), cell=check.key, cause="Dirt under the nut")),
    )
    assert ends == ("done", "done")
    assert [one.cause for one in sister.state().sister_checks] == ["Dirt under the nut"]


def test_a_cause_and_all_its_questions_are_stored_or_nothing_is(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    finder, *others = [world.started("Bram Okafor", joint) for joint in ("head-4", "head-5", "head-6")]
    check = _at(finder, lambda c: c.traits.on_same_kind)
    for player in (finder, *others):
        player.answer(check, ev.TickAnswer())
    before = [len(world.workshop.log.stored(player.run_id)) for player in (finder, *others)]
    asked, ask = list[UUID](), same_kind_joints.ask

    def asked_once(state: RunState, command: AskSister) -> ev.SisterAsked:
        asked.append(command.id)
        if len(asked) == 2:
            raise Refusal("run_closed")
        return ask(state, command)

    monkeypatch.setattr(same_kind_joints, "ask", asked_once)
    cause = NameCause(kind="name_cause", id=uuid4(), cell=check.key, cause="Dirt under the nut")
    assert outcome(lambda: finder.send(cause)) == "run_closed"
    assert [len(world.workshop.log.stored(player.run_id)) for player in (finder, *others)] == before
    assert [player.state().seq for player in (finder, *others)] == before, "nor is it remembered"
    monkeypatch.undo()
    finder.send(cause)
    finder.send(cause)
    assert [len(player.state().sister_checks) for player in others] == [1, 1], "sent again, asked once"


def test_a_reading_that_changes_nothing_shared_waits_for_nobody_on_the_engine(world: World) -> None:
    """Somebody holds the engine; a length is kept all the same, a tool on a stud has to wait."""
    player = world.started()
    length = _at(player, lambda c: c.kind == "stud_length" and c.item == "temperature")

    command = RecordReading(
        kind="record", id=uuid4(), cell=length.key, attempt=1, answer=ev.ValueAnswer(text="19", unit="degC")
    )
    assert locks_of(player.state(), command) == frozenset()
    with world.workshop.database.engine.begin() as holding:
        take(holding, {engine_lock("unit-2")})
        acts.act(world.workshop, player.hands, player.run_id, command)
    assert player.state().live(length.key) is not None
    seat = _at(player, lambda c: c.traits.tool == "on")
    seating = command.model_copy(update={"cell": seat.key})
    assert locks_of(player.state(), seating) == {engine_lock("unit-2")}
