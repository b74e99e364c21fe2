"""Lists of paper, keyed in: what stands there was done already, and is written down with what spoke against it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import fold
from jorvek.core.overhaul.views.log_lines import entry_of
from jorvek.core.run.log.events import Person
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM
from tests.core.test_overhaul import no

AIR: dict[str, Any] = {"space": "crankcase", "permit": "P-1", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0}
MOVE: dict[str, Any] = {"to_deg": 90.0, "way": "ahead", "commander": "Bram", "looked_at": ["sweep"]}


def morning() -> PaperOverhaul:
    """An engine that has been open for six hours."""
    engine = PaperOverhaul()
    engine.now += timedelta(hours=6)
    return engine


def looked_at(engine: PaperOverhaul, kind: str, **said: Any) -> None:
    """A line of a list at which somebody has looked who did not key it in."""
    keyed(engine, kind, **said)
    engine.look(engine.state.seq, BRAM)


def keyed(
    engine: PaperOverhaul,
    kind: str,
    *,
    ago_min: float = 60.0,
    by: Person = LIO,
    keys: Person | None = None,
    **said: Any,
) -> Any:
    """A line of a list, written some minutes ago and keyed in now by a trainee, or for a lead hand by the chief."""
    paper = {"by": by.id, "at": engine.now - timedelta(minutes=ago_min)}
    kinds: dict[str, type[oc.ListedCommand]] = {
        "isolate": oc.Isolate, "restore_point": oc.RestorePoint, "hang_lock": oc.HangLock,
        "take_lock_off": oc.TakeLockOff, "enter": oc.Enter, "leave": oc.Leave,
        "find_crank": oc.FindCrank, "move_crank": oc.MoveCrank,
    }  # fmt: skip
    command: Any = kinds[kind].model_validate({"kind": kind, "id": uuid4(), "paper": paper, **said})
    engine.say(command, keys or (INES if by is BRAM else TAM))
    return engine.state.lines[-1].data


def test_a_line_stands_in_the_log_with_the_hand_and_the_time_of_whoever_wrote_it() -> None:
    engine = morning()
    written = engine.now - timedelta(minutes=60)
    told = keyed(engine, "isolate", by=BRAM, point="starting_air", lock="14")
    assert told.told == "safer"
    assert engine.state.in_force("starting_air") is None, "only told"
    line = engine.state.lines[-1]
    engine.look(line.seq, BRAM)
    now = engine.state.in_force("starting_air")
    assert now is not None
    assert (now.by.name, now.at, now.lock) == (BRAM.name, written, "14")
    assert (line.by.name, line.done_by.name) == (INES.name, BRAM.name), "keyed in by one, written by another"
    entry = entry_of(line)
    assert (entry.by, entry.written_by, entry.written_at, entry.against) == (INES.name, BRAM.name, written, None)
    assert fold(engine.events) == engine.state


def test_in_and_out_by_the_list_at_the_door() -> None:
    engine = morning()
    looked_at(engine, "isolate", ago_min=200, by=BRAM, point="turning_gear")
    entered = keyed(engine, "enter", ago_min=90, person=LIO.id, **AIR)
    assert entered.against is None
    (inside,) = engine.state.inside
    assert inside.person.name == LIO.name
    assert no(lambda: keyed(engine, "leave", ago_min=100, entered=inside.seq)) == "paper_overtaken", "out before in"
    keyed(engine, "leave", ago_min=30, entered=inside.seq)
    assert engine.state.inside, "the list alone takes nobody off the board"
    assert no(lambda: engine.look(engine.state.seq, BRAM)) == "not_theirs_to_take_off"
    engine.look(engine.state.seq, INES)
    assert not engine.state.inside


@pytest.mark.parametrize(
    ("kind", "said", "against"),
    [
        ("enter", {"person": LIO.id, **AIR}, "gear_not_locked"),
        ("isolate", {"point": "remote_start"}, "not_your_point"),
        ("find_crank", {"angle_deg": 10.0, "proof": "Pointer"}, "not_your_right"),
        ("move_crank", MOVE, "not_your_right"),
    ],
)
def test_what_a_rule_would_have_refused_is_written_down_with_the_rule(kind: str, said: Any, against: str) -> None:
    """It is done: refusing the line would only hide it."""
    assert keyed(morning(), kind, by=TAM, **said).against == against


def test_a_move_under_somebodys_hands_is_told_by_both_entries() -> None:
    engine = morning()
    looked_at(engine, "isolate", ago_min=300, by=BRAM, point="turning_gear")
    keyed(engine, "enter", ago_min=120, person=LIO.id, **AIR)
    assert keyed(engine, "move_crank", ago_min=60, by=BRAM, **MOVE).against == "sweep_blocked"
    engine.out(engine.state.inside[0].seq)
    told = keyed(engine, "enter", ago_min=90, person=TAM.id, **AIR)
    assert told.against == ov.MOVED_MEANWHILE, "the other line of the same list"


def test_anothers_lock_comes_off_by_the_list_and_says_so() -> None:
    engine = morning()
    keyed(engine, "hang_lock", ago_min=120, by=BRAM, lock="B-3")
    (lock,) = engine.state.locks
    assert lock.by.name == BRAM.name, "whoever wrote it hung it"
    assert keyed(engine, "take_lock_off", ago_min=10, by=TAM, hung=lock.seq).against == "anothers_lock"
    assert not engine.state.locks


def test_given_back_before_its_turn_by_the_list() -> None:
    engine = PaperOverhaul(small=True)
    engine.isolate("coolant", "fuel", "starting_air", "signs")
    engine.now += timedelta(hours=1)
    assert keyed(engine, "restore_point", ago_min=10, by=BRAM, point="signs").against == "restored_before_its_turn"
    assert engine.state.in_force("signs") is None
    assert no(lambda: keyed(engine, "restore_point", ago_min=5, by=BRAM, point="signs")) == "not_isolated"


def test_a_line_is_weighed_against_the_engine_as_it_stood_then() -> None:
    """Whoever went in later stood in nobody's way, and what was isolated later kept nobody safe before."""
    engine = morning()
    keyed(engine, "hang_lock", ago_min=90, by=BRAM, lock="7")
    (lock,) = engine.state.locks
    assert keyed(engine, "enter", ago_min=120, person=TAM.id, **AIR).against == "gear_not_locked"
    keyed(engine, "leave", ago_min=110, entered=engine.state.inside[0].seq)
    engine.look(engine.state.seq, INES)
    keyed(engine, "enter", ago_min=30, person=LIO.id, **AIR)
    assert keyed(engine, "move_crank", ago_min=60, by=BRAM, **MOVE).against is None
    assert keyed(engine, "move_crank", ago_min=20, by=BRAM, **MOVE).against == "sweep_blocked"
    assert keyed(engine, "take_lock_off", ago_min=25, by=BRAM, hung=lock.seq).told is None, "his own"


# ---- what a list cannot say ------------------------------------------------------------------------------------------


def test_an_older_line_does_not_undo_what_the_log_knows_better() -> None:
    engine = morning()
    engine.say(oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=120.0, proof="Pointer and cam"))
    assert no(lambda: keyed(engine, "find_crank", by=BRAM, angle_deg=10.0, proof="Mark")) == "paper_overtaken"
    moved = keyed(engine, "move_crank", by=BRAM, **MOVE)
    assert (moved.against, moved.told) == ("paper_overtaken", "less_safe"), "never refused, so that nothing is buried"
    assert engine.state.crank is not None
    assert engine.state.crank.angle_deg == 120.0
    engine.isolate("coolant")
    keyed(engine, "restore_point", by=BRAM, point="coolant")
    assert engine.state.in_force("coolant") is not None
    assert no(engine.move) == "sweep_blocked", "in doubt until somebody has looked at both"


def at_its_limits(minutes: int) -> PaperOverhaul:
    """An engine that was opened so long ago, now in the middle of a minute."""
    engine = PaperOverhaul()
    engine.now = engine.state.opened_at.replace(second=30) + timedelta(minutes=minutes)
    return engine


FORTNIGHT_MIN = 14 * 24 * 60


@pytest.mark.parametrize(
    ("opened_min", "ago_min", "taken"),
    [
        (360, 0, True),
        (360, -1, False),
        (360, 360, True),
        (360, 361, False),
        (2 * FORTNIGHT_MIN, FORTNIGHT_MIN, True),
        (2 * FORTNIGHT_MIN, FORTNIGHT_MIN + 1, False),
    ],
)
def test_a_line_lies_between_the_opening_and_now_and_within_a_fortnight(
    opened_min: int, ago_min: int, *, taken: bool
) -> None:
    engine = at_its_limits(opened_min)
    if taken:
        looked_at(engine, "isolate", ago_min=ago_min, by=BRAM, point="coolant")
        assert engine.state.in_force("coolant") is not None
    else:
        assert no(lambda: keyed(engine, "isolate", ago_min=ago_min, by=BRAM, point="coolant")) == "written_when"


@pytest.mark.parametrize(
    ("keys", "by", "code"),
    [
        (TAM, LIO, None),
        (LIO, TAM, None),
        (BRAM, LIO, None),
        (BRAM, BRAM, None),
        (INES, BRAM, None),
        (INES, INES, None),
        (TAM, BRAM, "writer_above"),
        (LIO, BRAM, "writer_above"),
        (TAM, INES, "writer_above"),
        (BRAM, INES, "writer_above"),
    ],
)
def test_nobody_keys_in_what_somebody_above_them_wrote(keys: Person, by: Person, code: str | None) -> None:
    engine = morning()
    if code is None:
        assert keyed(engine, "hang_lock", keys=keys, by=by, lock="7").paper.by.name == by.name
    else:
        assert no(lambda: keyed(engine, "hang_lock", keys=keys, by=by, lock="7")) == code


def test_who_records_nothing_has_written_nothing() -> None:
    engine = morning()
    author = LIO.model_copy(update={"id": uuid4(), "role": LIO.role.__class__.AUTHOR})
    engine.people = {**engine.people, author.id: author}
    assert no(lambda: keyed(engine, "hang_lock", by=author, lock="7")) == "no_writer"


def test_what_makes_no_sense_is_refused_like_anywhere_else() -> None:
    engine = morning()
    stranger = Person(id=uuid4(), name="Nobody", role=LIO.role)
    assert no(lambda: keyed(engine, "isolate", by=stranger, point="coolant")) == "no_such_person"
    assert no(lambda: keyed(engine, "isolate", by=BRAM, point="doors")) == "no_such_point"
    assert no(lambda: keyed(engine, "leave", entered=1)) == "no_such_entry"
    before = engine.state
    assert no(lambda: keyed(engine, "hang_lock", keys=stranger_without_rights(), lock="1")) == "not_your_right"
    assert engine.state == before


def stranger_without_rights() -> Person:
    """Somebody who may look and no more."""
    return TAM.model_copy(update={"role": TAM.role.__class__.AUTHOR})


def test_the_hand_that_wrote_it_is_not_the_hand_that_strikes_it() -> None:
    """Whoever keyed a line in strikes it: the paper is still there, and says what it says."""
    engine = morning()
    keyed(engine, "isolate", by=BRAM, point="coolant")
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=engine.state.seq, words="Wrong line")
    engine.say(strike, INES)
    assert engine.state.in_force("coolant") is None


def test_an_older_log_without_lists_reads_as_before() -> None:
    entered = ov.Isolated.model_validate({"kind": "isolated", "point": "coolant"})
    assert (entered.paper, entered.against) == (None, None)
