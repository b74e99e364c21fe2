"""Before the crank moves: what moves with it, what stands in its way, and whom it concerns."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Final, Literal
from uuid import UUID

from jorvek.core.engine.layout import JointKind, joints_of
from jorvek.core.overhaul.log.commands import SilentTablet
from jorvek.core.overhaul.log.state import TURNING_GEAR, Line, Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, declared_now, newest_on, shown_condition
from jorvek.core.refusal import Refusal
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import EngineSheet
from jorvek.core.sheet.relations import related

SweepCode = Literal[
    "under_pressure",
    "person_inside",
    "in_sweep",
    "hung",
    "liner_loose",
    "rod_loose",
    "rod_off",
    "tool_on",
    "test_lifted",
    "tablet_silent",
    "gear_isolated",
    "in_doubt",
]


@dataclass(frozen=True)
class InSweep:
    """One thing that stands in the way of the crank.

    Attributes:
        code: what sort of thing.
        joint: label of the joint; None for what belongs to the engine.
        what: the part, or the person.
        by_word: a lead hand may let it stay.
    """

    code: SweepCode
    joint: str | None
    what: str
    by_word: bool = False


def in_sweep(
    overhaul: Overhaul,
    sheet: EngineSheet,
    runs: Iterable[RunOnEngine],
    silent: Iterable[SilentTablet],
    asking: UUID | None = None,
) -> tuple[InSweep, ...]:
    """Return everything that stands in the way of the crank.

    Args:
        overhaul: the overhaul.
        sheet: the engine's sheet.
        runs: the runs on the engine, newest first.
        silent: tablets on which somebody may have gone in that nobody else knows of.
        asking: the run whose call asks for the move: what its own document allows in the sweep is its own affair.
    """
    mine = [run for run in runs if counts(overhaul, run)]
    return (
        *(InSweep("person_inside", None, i.person.name) for i in overhaul.inside),
        *(InSweep("tablet_silent", None, tablet.person) for tablet in unanswered(overhaul, silent)),
        *(InSweep("in_doubt", None, line.done_by.name) for line in doubted(overhaul)),
        *(obstacle for run in mine if run.open for obstacle in _of_run(run, asking)),
        *(obstacle for run in mine if not run.open for obstacle in _left_by(overhaul, run, mine)),
        *_liners(overhaul, sheet, mine),
        *_big_ends(overhaul, sheet, mine, next((run.joint for run in mine if run.run_id == asking), None)),
    )


def doubted(overhaul: Overhaul) -> tuple[Line, ...]:
    """Return what was told later, makes the engine less safe, and has not been looked at yet."""
    return tuple(line for line in overhaul.told if getattr(line.data, "told", None) == "less_safe")


def demand_no_doubt(overhaul: Overhaul) -> None:
    """Refuse what relies on the engine being as the log says while something that was told later says otherwise.

    Raises:
        Refusal: ``in_doubt``.
    """
    for line in doubted(overhaul):
        raise Refusal("in_doubt", by=line.done_by.name)


def unanswered(overhaul: Overhaul, silent: Iterable[SilentTablet]) -> tuple[SilentTablet, ...]:
    """Return the silent tablets for which nobody has answered since they were heard last."""
    return tuple(tablet for tablet in silent if overhaul.answered.get(tablet.id) != tablet.heard_at)


def _of_run(run: RunOnEngine, asking: UUID | None) -> Iterator[InSweep]:
    if run.under_pressure:
        yield InSweep("under_pressure", run.label, run.title)
    elif run.tools_on:
        yield InSweep("tool_on", run.label, run.title, by_word=run.kind is JointKind.HEAD)
    if run.run_id != asking:
        yield from _parts_of(run)


def _parts_of(run: RunOnEngine) -> Iterator[InSweep]:
    for part in run.in_sweep:
        yield InSweep("in_sweep", run.label, part.called)
    for part in run.hung:
        if part.kind in ("rod", "piston", "cap"):
            yield InSweep("hung", run.label, part.called)


def _left_by(overhaul: Overhaul, run: RunOnEngine, mine: list[RunOnEngine]) -> Iterator[InSweep]:
    """What the last work on a joint left standing for the next; closing a run clears nothing away, a word does."""
    if newest_on(run.joint, mine) == run.run_id and declared_now(overhaul, run.joint, mine) is None:
        yield from _parts_of(run)


def _liners(overhaul: Overhaul, sheet: EngineSheet, mine: list[RunOnEngine]) -> Iterator[InSweep]:
    """A liner that was fitted in this overhaul, without its head and without its clamps, is pulled up by the rings."""
    engine = overhaul.opened.engine
    places = joints_of(engine, sheet.joints)
    for run in mine:
        fitted = run.kind is JointKind.LINER and not run.open and run.leaves == "landed"
        if not fitted or newest_on(run.joint, mine) != run.run_id or any(p.kind == "clamp" for p in run.left_on):
            continue
        liner = next((place for place in places if place.key == run.joint), None)
        heads = [] if liner is None else related(engine, liner, JointKind.HEAD, "same_cylinder", places)
        if any(shown_condition(overhaul, head.key, mine) == "open" for head in heads):
            yield InSweep("liner_loose", run.label, run.title)


_BIG_ENDS: Final = (JointKind.ROD, JointKind.CRANKPIN)
_HEAD_IS_ON: Final = ("closed_up", "tight", "loose", "landed")


def _big_ends(overhaul: Overhaul, sheet: EngineSheet, mine: list[RunOnEngine], asking: str | None) -> Iterator[InSweep]:
    """Big ends that came loose, and feet that somebody found off their pins under pistons that are still in.

    A piston leaves through the top. Where the head is on, a foot that is off its pin stands in the crankcase, and the
    pin strikes it. Of a foot that a run took off, the parts of the run tell where it is; a joint whose own call asks
    for the move is its own document's affair.
    """
    engine = overhaul.opened.engine
    places = joints_of(engine, sheet.joints)
    for place in (one for one in places if one.kind in _BIG_ENDS and one.key != asking):
        condition = shown_condition(overhaul, place.key, mine)
        if condition == "loose":
            yield InSweep("rod_loose", place.label, place.label)
        elif condition == "open" and declared_now(overhaul, place.key, mine) is not None:
            heads = related(engine, place, JointKind.HEAD, "same_cylinder", places)
            if any(shown_condition(overhaul, head.key, mine) in _HEAD_IS_ON for head in heads):
                yield InSweep("rod_off", place.label, place.label)


def not_known(overhaul: Overhaul, sheet: EngineSheet, runs: Iterable[RunOnEngine]) -> tuple[str, ...]:
    """Return the joints along the crank of which neither people nor runs say how they are: they are never "clear"."""
    mine = [run for run in runs if counts(overhaul, run)]
    places = (p for p in joints_of(overhaul.opened.engine, sheet.joints) if p.kind in _ALONG_THE_CRANK)
    known = {run.joint for run in mine if run.open}
    return tuple(
        place.label for place in places if place.key not in known and shown_condition(overhaul, place.key, mine) is None
    )


_ALONG_THE_CRANK: Final = (
    JointKind.HEAD,
    JointKind.LINER,
    JointKind.ROD,
    JointKind.CROSSHEAD,
    JointKind.CRANKPIN,
    JointKind.MAIN,
    JointKind.COUNTERWEIGHT,
)
"""What moves with the crank, or what it pulls at."""


@dataclass(frozen=True)
class Concerned:
    """Somebody whom a move concerns: their work relies on where the crank is."""

    run_id: UUID
    joint: str
    by: str


def concerned(overhaul: Overhaul, runs: Iterable[RunOnEngine], asking: UUID | None = None) -> tuple[Concerned, ...]:
    """Return the open runs that rely on where the crank is."""
    return tuple(
        Concerned(run.run_id, run.label, run.by)
        for run in runs
        if counts(overhaul, run) and run.open and run.crank_cell is not None and run.run_id != asking
    )


def demand_gear_free(overhaul: Overhaul, asking: UUID | None = None) -> None:
    """Refuse to move the crank by a turning gear that the log says is locked, or that is free for a run's own move.

    Raises:
        Refusal: ``sweep_blocked``, ``gear_freed``.
    """
    if overhaul.gear_freed is not None and overhaul.gear_freed.run != asking:
        raise Refusal("gear_freed", by=overhaul.gear_freed.guards)
    if overhaul.in_force(TURNING_GEAR) is not None:
        raise Refusal("sweep_blocked", why="gear_isolated", joint="", what="")


def demand_clear(
    overhaul: Overhaul,
    sheet: EngineSheet,
    runs: Iterable[RunOnEngine],
    silent: Iterable[SilentTablet],
    asking: UUID | None = None,
    *,
    word: bool = False,
) -> None:
    """Refuse a move of the crank while anything stands in its way.

    Args:
        overhaul: the overhaul.
        sheet: the engine's sheet.
        runs: the runs on the engine, newest first.
        silent: tablets on which somebody may have gone in that nobody else knows of.
        asking: the run whose call asks for it.
        word: a lead hand has said that what may stay stays.

    Raises:
        Refusal: ``sweep_blocked`` naming the first thing.
    """
    for one in in_sweep(overhaul, sheet, runs, silent, asking):
        if not (one.by_word and word):
            raise Refusal("sweep_blocked", why=one.code, joint=one.joint or "", what=one.what)


def demand_nobody_inside(state: Overhaul) -> None:
    """Refuse what waits for everybody to be out.

    Raises:
        Refusal: ``person_inside``.
    """
    if state.inside:
        raise Refusal("person_inside", name=", ".join(i.person.name for i in state.inside))


def demand_no_test(state: Overhaul) -> None:
    """Refuse what waits until everything that is lifted is isolated again.

    Raises:
        Refusal: ``gear_freed`` where the turning gear is free for a move, ``test_under_way`` for a test.
    """
    for one in state.tests:
        if one.moves_crank:
            raise Refusal("gear_freed", by=one.guards)
        raise Refusal("test_under_way", test=one.test)
