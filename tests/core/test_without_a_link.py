"""A tablet without a link walks on by itself; what it brings back is taken once, or kept for a person to decide."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import timedelta
from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import (
    AddPhoto,
    Command,
    Context,
    Late,
    Note,
    RecordReading,
    SettleClaim,
    StrikeReading,
    command_digest,
)
from jorvek.core.run.rules.claims import decide_late
from jorvek.core.run.rules.decide import decide
from jorvek.core.run.rules.judge import wait_left_s
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.offline_tasks import Ahead, offline_tasks
from jorvek.core.run.views.record import record_of
from jorvek.local.player import usual_answer
from tests.core.paper_run import BRAM, INES, LIO, PHOTO, TODAY, TOOLS, PaperRun


def reading(unit: str) -> ev.Answer:
    """What the thermometer and the stretch gauge show on these studs."""
    return ev.ValueAnswer(text="612.031" if unit == "mm" else "19.0", unit=unit)


@dataclass
class LoneTablet:
    """Lio's tablet: it knows the run as it was when the link was lost, and nothing else."""

    run: PaperRun
    ahead: Ahead
    saw: int
    known: frozenset[str]
    batch: UUID = field(default_factory=uuid4)
    box: list[tuple[Command, float]] = field(default_factory=list)
    filled: set[str] = field(default_factory=set)

    @classmethod
    def cut_off(cls, run: PaperRun) -> LoneTablet:
        return cls(run, offline_tasks(run.state, run.looking(LIO)), run.state.seq, frozenset(run.state.counting))

    def press(self, answer: ev.Answer | None = None) -> bool:
        """Answer the next call that it may answer alone; False at the end of what it has."""
        ready = (
            one.call
            for one in self.ahead.calls
            if one.call.cell not in self.filled | self.known and (self.filled | self.known).issuperset(one.needs)
        )
        call = next(ready, None)
        if call is None:
            return False
        given = answer or reading(call.units[0])
        self.box.append(
            (
                RecordReading(kind="record", id=uuid4(), cell=call.cell, attempt=call.attempt, answer=given),
                self.run.now.timestamp(),
            )
        )
        self.filled.add(call.cell)
        return True

    def photograph(self, cell: str) -> None:
        """Take a picture of a call."""
        taken = AddPhoto(kind="add_photo", id=uuid4(), cell=cell, photo=PHOTO, words="Seat of stud 1")
        self.box.append((taken, self.run.now.timestamp()))

    def bring_back(self) -> list[ev.EventData]:
        """The link is there again: everything goes out in order."""
        return [self._post(command, pressed) for command, pressed in self.box]

    def _post(self, command: Command, pressed: float) -> ev.EventData:
        run = self.run
        late = Late(batch=self.batch, saw=self.saw, kept_s=run.now.timestamp() - pressed)
        context = Context(LIO, run.now, TODAY, {}, photos={PHOTO: (8, 6)})
        data = decide_late(run.state, command, context, late, decide)
        run.take(data, LIO, command.id, command_digest(command))
        return data


def at_stretch() -> PaperRun:
    """Head 4 with four lengths to be read, each with the temperature of its stud first."""
    run = PaperRun()
    run.play("length-before/temperature/1")
    assert next_call(run.state) is not None
    return run


def settle(run: PaperRun, claim: int, take: bool, words: str | None = None, by: ev.Person = BRAM) -> None:
    run.send(SettleClaim(kind="settle_claim", id=uuid4(), claim=claim, take=take, words=words), by)


def first_key(run: PaperRun) -> str:
    cell = next_call(run.state)
    assert cell is not None
    return cell.key


def test_a_stage_done_without_a_link_is_the_stage_with_the_time_it_was_done() -> None:
    run = at_stretch()
    stage = first_key(run).split("/")[0]
    tablet = LoneTablet.cut_off(run)
    made = []
    while tablet.press():
        made.append(run.now)
        run.now += timedelta(seconds=40)
    assert len(made) == len(dict(run.state.definition.steps)[stage])
    run.now += timedelta(minutes=30)
    taken = tablet.bring_back()
    assert [one.kind for one in taken] == ["recorded"] * len(made)
    cell = next_call(run.state)
    assert cell is not None
    assert cell.step != stage
    done = [run.state.counting[c.cell].done_at for c, _ in tablet.box if isinstance(c, RecordReading)]
    assert done == made
    rows = [row for s in record_of(UUID(int=4), run.state, "0" * 64).sections for row in s.rows]
    assert [row.made_at for row in rows if row.made_at is not None] == made


def test_nothing_under_pressure_and_nothing_signed_is_done_without_a_link() -> None:
    for name in ("", "corvane-v10-head-tighten", "tarnholt-7l34-head-loosen", "ulvane-5x46-cover-loosen"):
        run = PaperRun(name, **({"tool": "bar"} if name.startswith("corvane-v10-head") else {}))
        kinds: set[str] = set()
        while (cell := next_call(run.state)) is not None:
            ahead = offline_tasks(run.state, run.looking(LIO))
            assert all(one.call.step == cell.step for one in ahead.calls)
            kinds |= {one.call.kind for one in ahead.calls}
            asks = {one.call.ask for one in ahead.calls}
            assert not asks & {"signature", "tool", "seen"}
            after = [c.key for c in run.state.definition.cells if c.step == cell.step][-1]
            run.play(after)
            last = run.state.definition.by_key[after]
            run.now += timedelta(seconds=60 + wait_left_s(run.state, last, run.now))
            answer = usual_answer(run.state, last, run.chance, TOOLS, TODAY)
            signs = isinstance(answer, ev.SignatureAnswer)
            run.record(after, answer, INES if signs else BRAM, pin=signs)
        assert kinds
        assert not kinds & {"tension", "ceiling", "relieve", "loosen_pressure", "hold_point", "turns_freely"}


def test_the_first_that_does_not_fit_and_all_after_it_wait_for_a_person() -> None:
    run = at_stretch()
    tablet = LoneTablet.cut_off(run)
    for _ in range(4):
        assert tablet.press()
    first = next(c for c, _ in tablet.box if isinstance(c, RecordReading))
    # Bram, who has a link, reads the second call of them meanwhile.
    run.record(first.cell, usual_answer(run.state, run.state.definition.by_key[first.cell], run.chance, TOOLS, TODAY))
    run.send(StrikeReading(kind="strike", id=uuid4(), cell=first.cell, attempt=1, reason="Wrong stud"))
    run.now += timedelta(minutes=5)
    taken = tablet.bring_back()
    assert [one.kind for one in taken] == ["claimed"] * 4
    whys = [one.why.code for one in taken if isinstance(one, ev.Claimed)]
    assert whys == ["cell_taken", "follows_claim", "follows_claim", "follows_claim"]
    view = bench_view(UUID(int=4), run.state, run.looking(BRAM))
    shown = view.claims
    assert [claim.about.cell for claim in shown if claim.about] == [
        c.cell for c, _ in tablet.box if isinstance(c, RecordReading)
    ]
    assert [row.by for row in shown[0].meanwhile] == [BRAM.name]
    assert sum(debt.kind is DebtKind.CLAIM for debt in debts(run.state)) == 4

    # A mechanic does not decide on it, leaving out wants a reason, and a claim is decided once.
    seqs = [claim.seq for claim in shown]
    for by, take, words, code in ((LIO, True, None, "not_your_right"), (BRAM, False, None, "words_owed")):
        with pytest.raises(Refusal) as refused:
            settle(run, seqs[0], take, words, by)
        assert refused.value.code == code
    settle(run, seqs[0], True)
    with pytest.raises(Refusal) as refused:
        settle(run, seqs[0], True)
    assert refused.value.code == "no_such_claim"
    settle(run, seqs[1], True)
    settle(run, seqs[2], False, "Read again")
    live = run.state.counting[first.cell]
    assert (live.by, live.number, live.source) == (LIO, 2, "claim")
    assert live.done_at == run.state.claims[0].done_at
    run.play()
    with pytest.raises(Refusal) as refused:
        settle(run, seqs[3], True)
    assert refused.value.code == "cell_taken"
    settle(run, seqs[3], False, "Bram's reading stands")
    assert not [debt for debt in debts(run.state) if debt.kind is DebtKind.CLAIM]


def test_a_reading_that_no_gauge_can_show_is_kept_and_a_closed_run_keeps_claims_too() -> None:
    run = at_stretch()
    tablet = LoneTablet.cut_off(run)
    tablet.press(ev.ValueAnswer(text="9999", unit="degC"))
    assert [one.kind for one in tablet.bring_back()] == ["claimed"]
    settle(run, run.state.claims[0].seq, False, "Mistyped")
    late = LoneTablet.cut_off(run)
    late.press()
    run.play()
    sign = next_call(run.state)
    assert sign is not None
    run.record(sign.key, ev.SignatureAnswer(), INES, pin=True)
    run.play("")
    run.take(ev.Closed(), INES)
    assert [one.kind for one in late.bring_back()] == ["claimed"]
    with pytest.raises(Refusal) as refused:
        settle(run, run.state.claims[-1].seq, True)
    assert refused.value.code == "run_closed"
    settle(run, run.state.claims[-1].seq, False, "Came after closing")


def test_a_picture_is_of_the_hour_it_was_taken_and_one_that_comes_after_closing_is_kept() -> None:
    look = "look/decision/1"
    run = PaperRun("tarnholt-7l34-head-loosen")
    run.play(look)
    tablet = LoneTablet.cut_off(run)
    tablet.press(ev.ChoiceAnswer(choice="reuse"))
    tablet.photograph(look)
    taken_at = run.now
    run.now += timedelta(minutes=40)
    assert [one.kind for one in tablet.bring_back()] == ["recorded", "photo_added"]
    assert (run.state.photos[0].at, run.state.photos[0].by) == (taken_at, LIO)
    assert DebtKind.PHOTO not in [debt.kind for debt in debts(run.state)]

    # The next look clashes, so that its picture waits with it; both are taken in as his.
    run.play("look/decision/2")
    tablet = LoneTablet.cut_off(run)
    tablet.press(ev.ChoiceAnswer(choice="reuse"))
    tablet.photograph("look/decision/2")
    run.record("look/decision/2", ev.ChoiceAnswer(choice="reuse"))
    assert [one.kind for one in tablet.bring_back()] == ["claimed", "claimed"]
    _, picture = bench_view(UUID(int=4), run.state, run.looking(BRAM)).claims
    assert (picture.work, picture.photo, picture.note, picture.by) == ("add_photo", PHOTO, "Seat of stud 1", LIO.name)
    settle(run, run.state.claims[0].seq, False, "Both say the same")
    settle(run, picture.seq, True)
    assert [photo.by for photo in run.state.photos] == [LIO, LIO]
    late = LoneTablet.cut_off(run)
    late.photograph("look/decision/2")
    run.play()
    run.take(ev.Closed(), INES)
    assert [one.kind for one in late.bring_back()] == ["claimed"]
    assert run.state.photo_names == {PHOTO}


def test_the_pin_of_whoever_decides_never_signs_for_another() -> None:
    run = PaperRun()
    run.play()
    sign = next_call(run.state)
    assert sign is not None
    tablet = LoneTablet.cut_off(run)
    answer = ev.SignatureAnswer()
    posted = RecordReading(kind="record", id=uuid4(), cell=sign.key, attempt=1, answer=answer)
    late = Late(batch=tablet.batch, saw=run.state.seq)
    run.take(decide_late(run.state, posted, Context(INES, run.now, TODAY, {}), late, decide), INES)
    claim = run.state.claims[-1]
    settling = SettleClaim(kind="settle_claim", id=uuid4(), claim=claim.seq, take=True)
    with pytest.raises(Refusal) as refused:
        run.send(settling, BRAM, pin=True)
    assert refused.value.code == "pin_needed"
    assert run.state.live(sign.key) is None


def test_a_clock_that_jumped_tells_no_time() -> None:
    run = at_stretch()
    tablet = LoneTablet.cut_off(run)
    tablet.press()
    command, pressed = tablet.box[0]
    tablet.box[0] = (command, pressed - 90 * 86_400)
    tablet.bring_back()
    assert isinstance(command, RecordReading)
    assert (live := run.state.live(command.cell)) is not None
    assert (live.kept_s, live.done_at) == (None, run.now)


@given(
    st.lists(st.sampled_from(["lone", "lone", "linked", "strike", "note", "picture"]), max_size=24), st.integers(0, 3)
)
def test_whatever_others_do_meanwhile_each_press_is_there_once_and_the_run_can_close(
    deeds: list[str], seed: int
) -> None:
    run = at_stretch()
    run.chance.seed(seed)
    tablet = LoneTablet.cut_off(run)
    for deed in deeds:
        run.now += timedelta(seconds=15)
        cell = next_call(run.state)
        last = max(run.state.counting.values(), key=lambda a: a.seq)
        if deed == "lone":
            tablet.press()
        elif deed == "picture":
            tablet.photograph(first_key(run))
        elif deed == "note":
            note = Note(kind="note", id=uuid4(), text="Grease on the datum")
            tablet.box.append((note, run.now.timestamp()))
        elif deed == "strike" and last.cell.startswith(first_key(at_stretch()).split("/")[0]):
            run.send(StrikeReading(kind="strike", id=uuid4(), cell=last.cell, attempt=last.number, reason="Slipped"))
        elif deed == "linked" and cell is not None and cell.step == tablet.ahead.step:
            run.record(cell.key, usual_answer(run.state, cell, run.chance, TOOLS, TODAY))
    before = len(run.events)
    tablet.bring_back()
    assert [event.id for event in run.events[before:]] == [command.id for command, _ in tablet.box]
    claimed = [event.data.kind == "claimed" for event in run.events[before:]]
    assert claimed == sorted(claimed)
    for claim in run.state.claims:
        try:
            settle(run, claim.seq, True)
        except Refusal:
            settle(run, claim.seq, False, "Another reading stands")
    run.play()
    assert next_call(run.state) is not None
    assert not debts(run.state)
