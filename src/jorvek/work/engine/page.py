"""The engine's page, and what the start sheet says of one joint."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from functools import lru_cache
from typing import Literal
from uuid import UUID

import structlog

from jorvek.core.engine.layout import Engine
from jorvek.core.overhaul.log.state import Overhaul, nothing_said
from jorvek.core.overhaul.rules.closing import closes
from jorvek.core.overhaul.rules.crank import angle_at_height
from jorvek.core.overhaul.rules.joint_conditions import ground_of, owed
from jorvek.core.overhaul.rules.return_to_service import CHECKS, relying
from jorvek.core.overhaul.views.crank import CrankView, crank_view
from jorvek.core.overhaul.views.engine import EngineView, engine_view
from jorvek.core.overhaul.views.joints import JointNow, Known, joints_now, next_up
from jorvek.core.overhaul.views.log_lines import A_PAGE, LogPage, log_page
from jorvek.core.overhaul.views.permits import hot_work_now
from jorvek.core.rights import Act, may
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.labels import View
from jorvek.store.registers import RevisionHead
from jorvek.work.engine.overhauls import engine_now, engine_of, open_on, sheet_for, sheet_in_force
from jorvek.work.library.revisions import on_offer
from jorvek.work.workshop import Workshop

_log = structlog.get_logger()


class EnginePage(View):
    """An engine for whoever looks.

    Attributes:
        engine: as the register has it.
        now: server time when it was made.
        overhaul: the open overhaul; None where the engine is not worked on.
        may_lead: whoever looks may open an overhaul, declare conditions and close it.
        may_close: whoever looks may close its overhaul.
        may_work: whoever looks may move the crank and begin work.
        may_record: whoever looks may go in and out, hang locks, leave remarks.
        me: who looks.
        fault: why the overhaul cannot be shown though it is stored; None on a whole page.
    """

    engine: Engine
    now: datetime
    overhaul: EngineView | None
    may_lead: bool
    may_work: bool
    may_close: bool
    may_record: bool
    me: UUID
    fault: str | None = None


def known_for(workshop: Workshop, engine: Engine, heads: list[RevisionHead] | None = None) -> list[Known]:
    """Return the procedures on offer for engines of a type."""
    return [
        Known(h.hash, h.id, h.title, h.revision, h.joint, h.purpose, h.begins, h.leaves)
        for h in on_offer(workshop.registers.revisions() if heads is None else heads, engine.type)
    ]


def engine_page(workshop: Workshop, actor: Person, engine_id: str) -> EnginePage:
    """Return the page of an engine.

    Raises:
        Refusal: ``no_such_engine``.
    """
    engine = engine_of(workshop, engine_id)
    overhaul = open_on(workshop, engine_id)
    view, fault = None, None
    try:
        view = None if overhaul is None else view_of(workshop, engine, overhaul)
    except Exception as error:
        # What is stored is stored: a page that cannot be worked out is a fault of the program, never a refusal.
        _log.exception("engine_not_shown", engine=engine_id)
        fault = type(error).__name__
    return EnginePage(
        engine=engine,
        now=workshop.clock(),
        overhaul=view,
        fault=fault,
        may_lead=may(actor.role, Act.LEAD_OVERHAUL),
        may_work=may(actor.role, Act.START_RUN),
        may_close=may(actor.role, closes(small=overhaul is not None and overhaul.opened.small)),
        may_record=may(actor.role, Act.RECORD),
        me=actor.id,
    )


def log_of(workshop: Workshop, overhaul_id: UUID, before: int | None, *, from_paper: bool) -> LogPage:
    """Return older lines of an engine's log.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    overhaul = workshop.overhauls.snapshot(overhaul_id).state
    return log_page(overhaul, A_PAGE, before, from_paper=from_paper)


def view_of(workshop: Workshop, engine: Engine, overhaul: Overhaul) -> EngineView:
    """Return the view of an overhaul as it stands."""
    now = engine_now(workshop, overhaul)
    return engine_view(now.overhaul, now.sheet, now.runs, known_for(workshop, engine), now.silent, workshop.clock())


@dataclass(frozen=True)
class WholeEngine:
    """What the home screen says of an engine.

    Attributes:
        joints: every joint as it stands.
        next: the joints whose work is next, in working order.
        overhaul: title of its open overhaul; None where it is not worked on.
        inside: who is in a confined space of it.
        hot_work: where somebody works with flame, by a permit that holds.
        hot_work_out: where the permit for it does not hold any more.
        under_pressure: joints on which a tool is under pressure.
        owed: how much runs have left for others to put right.
    """

    joints: tuple[JointNow, ...]
    next: tuple[str, ...]
    overhaul: str | None
    inside: tuple[str, ...] = ()
    hot_work: tuple[str, ...] = ()
    hot_work_out: tuple[str, ...] = ()
    under_pressure: tuple[str, ...] = ()
    owed: int = 0


@dataclass(frozen=True)
class _AtRest:
    """An engine that is not worked on, as its page is worked out from: the same again, the same page again."""

    text: str
    sheet: str | None
    known: tuple[Known, ...]
    engine: Engine = field(compare=False)
    workshop: Workshop = field(compare=False)


@lru_cache(maxsize=2000)
def _joints_at_rest(one: _AtRest) -> tuple[JointNow, ...]:
    bare = nothing_said(one.engine, one.workshop.clock())
    return joints_now(bare, sheet_for(one.workshop, one.engine, one.sheet), (), one.known)


class Fleet:
    """All engines for the home screen: what stands in one table for all of them is asked once."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop
        self._heads = workshop.registers.revisions()
        self._worked_on = {row.engine_id for row in workshop.overhauls.rows() if row.open}
        self._sheets: dict[str, str | None] = {}

    def whole(self, engine: Engine) -> WholeEngine:
        """Return an engine for the home screen; of one without an overhaul nobody knows how its joints stand."""
        known = known_for(self._workshop, engine, self._heads)
        overhaul = open_on(self._workshop, engine.id) if engine.id in self._worked_on else None
        if overhaul is not None:
            return _worked_on(self._workshop, overhaul, known)
        if engine.type not in self._sheets:
            self._sheets[engine.type] = self._workshop.sheets.approved_for(engine.type)
        sheet = self._sheets[engine.type]
        at_rest = _AtRest(engine.model_dump_json(), sheet, tuple(known), engine, self._workshop)
        return WholeEngine(_joints_at_rest(at_rest), (), None)


def _worked_on(workshop: Workshop, overhaul: Overhaul, known: list[Known]) -> WholeEngine:
    now = engine_now(workshop, overhaul)
    joints = joints_now(overhaul, now.sheet, now.runs, known)
    following = next_up(ground_of(overhaul, now.sheet, now.runs), joints)
    return WholeEngine(
        joints=joints,
        next=tuple(joint.key for joint in following),
        overhaul=overhaul.opened.title,
        inside=tuple(i.person.name for i in overhaul.inside),
        hot_work=_flames(workshop, overhaul, run_out=False),
        hot_work_out=_flames(workshop, overhaul, run_out=True),
        under_pressure=tuple(run.label for run in now.runs if run.open and run.under_pressure),
        owed=sum(1 for _ in owed(overhaul, now.runs)),
    )


def _flames(workshop: Workshop, overhaul: Overhaul, *, run_out: bool) -> tuple[str, ...]:
    """Return where somebody works with flame by a permit that holds, or by one that does not any more."""
    now = workshop.clock()
    return tuple(one.place for one in hot_work_now(overhaul, now) if one.run_out is run_out)


class Sweep(View):
    """What a run's call that turns the crank has in its way, and whom it concerns.

    Attributes:
        overhaul: the open overhaul of its engine.
        freed: the entry that freed the turning gear for a move; None while it is locked.
    """

    overhaul: UUID | None = None
    freed: int | None = None
    crank: CrankView | None


def sweep_for(workshop: Workshop, run_id: UUID) -> Sweep:
    """Return what stands in the way of the crank for a run that asks.

    Raises:
        Refusal: ``no_such_run``.
    """
    state = workshop.log.snapshot(run_id).state
    overhaul = open_on(workshop, state.started.engine.id)
    if overhaul is None:
        return Sweep(crank=None)
    now = engine_now(workshop, overhaul)
    return Sweep(
        overhaul=overhaul.overhaul_id,
        freed=overhaul.gear_freed.seq if overhaul.gear_freed else None,
        crank=crank_view(now.overhaul, now.sheet, now.runs, now.silent, run_id),
    )


class CrankAngle(View):
    """An angle of the crank after the firing dead centre of the first cylinder of the firing order."""

    angle_deg: float


def angle_for(
    workshop: Workshop, engine_id: str, cylinder: str, below_mm: float, side: Literal["before", "after"]
) -> CrankAngle:
    """Return where the crank is with a piston so far below its top.

    Raises:
        Refusal: ``no_such_engine``; those of ``angle_at_height``.
    """
    engine, overhaul = engine_of(workshop, engine_id), open_on(workshop, engine_id)
    sheet = sheet_in_force(workshop, engine) if overhaul is None else engine_now(workshop, overhaul).sheet
    return CrankAngle(angle_deg=angle_at_height(engine, sheet.crank, cylinder, below_mm, side))


class EngineGlance(View):
    """What is always in sight at a run: where the engine as a whole stands.

    Attributes:
        overhaul: whether the run belongs to one; else nothing is known.
        isolated: points in force, of all that the sheet has.
        lifted: the test for which isolations are lifted.
        gear_free: who commands the move for which the turning gear is free; None where it is free for none.
        inside: who is in a confined space.
        hot_work: where somebody works with flame, by a permit that holds.
        hot_work_out: where the permit for it does not hold any more.
        under_pressure: joints on which a tool is under pressure.
        relied_on: what else relies on the isolations.
    """

    engine_id: str
    overhaul: bool
    isolated: int = 0
    points: int = 0
    lifted: str | None = None
    gear_free: str | None = None
    inside: tuple[str, ...] = ()
    hot_work: tuple[str, ...] = ()
    hot_work_out: tuple[str, ...] = ()
    under_pressure: tuple[str, ...] = ()
    crank_deg: float | None = None
    relied_on: tuple[str, ...] = ()


def glance(workshop: Workshop, run_id: UUID) -> EngineGlance:
    """Return what is always in sight at a run.

    Raises:
        Refusal: ``no_such_run``.
    """
    state = workshop.log.snapshot(run_id).state
    engine = state.started.engine
    overhaul = open_on(workshop, engine.id)
    if overhaul is None:
        return EngineGlance(engine_id=engine.id, overhaul=False)
    now = engine_now(workshop, overhaul)
    # A document may isolate more than the sheet names: what is isolated is among what is counted.
    points = {p.point for p in now.sheet.isolations if p.point not in CHECKS} | set(overhaul.isolations)
    return EngineGlance(
        engine_id=engine.id,
        overhaul=True,
        isolated=sum(p.lifted is None for p in overhaul.isolations.values()),
        points=len(points),
        lifted=next((test.test for test in overhaul.tests if not test.moves_crank), None),
        gear_free=overhaul.gear_freed.guards if overhaul.gear_freed else None,
        inside=tuple(i.person.name for i in overhaul.inside),
        hot_work=_flames(workshop, overhaul, run_out=False),
        hot_work_out=_flames(workshop, overhaul, run_out=True),
        under_pressure=tuple(run.label for run in now.runs if run.open and run.under_pressure),
        crank_deg=overhaul.crank.angle_deg if overhaul.crank else None,
        relied_on=tuple(relying(overhaul, now.sheet, now.runs, state.started.joint_label)),
    )
