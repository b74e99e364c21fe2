"""Isolations of the engine: made once, relied on by all, given back by whoever is really the last."""

from __future__ import annotations

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import TURNING_GEAR, Overhaul
from jorvek.core.overhaul.rules.hot_work import demand_no_hot_work
from jorvek.core.overhaul.rules.joint_conditions import counts
from jorvek.core.overhaul.rules.late_entry import collect_objections, then
from jorvek.core.overhaul.rules.return_to_service import CHECKS, demand_in_turn
from jorvek.core.overhaul.rules.sweep import demand_clear, demand_no_test, demand_nobody_inside
from jorvek.core.procedure.parts import Isolation
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, Role, demand, may_sign_as
from jorvek.core.run.log.events import Person
from jorvek.core.sheet.document import EngineSheet, IsolationPoint


def isolate(
    state: Overhaul,
    command: oc.Isolate | oc.LiftForTest | oc.FreeGear | oc.PutBackAfterTest | oc.RestorePoint,
    context: oc.EngineContext,
) -> ov.OverhaulData:
    """Isolate a point, lift some for a test or the gear for a move, put them back, or give one back for good.

    Raises:
        Refusal: ``isolated_already``, ``no_such_entry``; those of ``demand_may_lift``, ``demand_may_free_gear`` and
            ``demand_may_restore``.
    """
    match command:
        case oc.Isolate():
            demand_point(context.sheet, command.point)
            if state.in_force(command.point) is not None:
                raise Refusal("isolated_already", point=command.point)
            against = collect_objections(context, lambda: demand_rank(context.sheet, command.point, context.actor))
            return ov.Isolated(point=command.point, lock=command.lock, permit=command.permit, against=against)
        case oc.LiftForTest():
            demand_may_lift(state, command, context)
            return ov.Lifted(points=command.points, test=command.test, guards=command.guards)
        case oc.FreeGear():
            demand_may_free_gear(state, command, context)
            return ov.GearFreed(commander=command.commander, run=command.run)
        case oc.PutBackAfterTest():
            demand(context.actor.role, Act.RECORD)
            lifted = next((t for t in state.tests if t.seq == command.lifted), None)
            if lifted is None:
                raise Refusal("no_such_entry", entry=command.lifted)
            return ov.GearLocked(freed=lifted.seq) if lifted.moves_crank else ov.PutBack(lifted=lifted.seq)
        case oc.RestorePoint():
            demand_point(context.sheet, command.point)
            if command.point not in state.isolations:
                raise Refusal("not_isolated", point=command.point)
            against = collect_objections(
                context, lambda: demand_may_restore(then(state, context), command.point, context)
            )
            return ov.Restored(point=command.point, against=against)


def demand_point(sheet: EngineSheet, point: Isolation) -> IsolationPoint:
    """Return what a sheet says of a point.

    Raises:
        Refusal: ``no_such_point``.
    """
    stated = sheet.point(point)
    if stated is None or point in CHECKS:
        raise Refusal("no_such_point", point=point)
    return stated


def demand_rank(sheet: EngineSheet, point: Isolation, actor: Person) -> None:
    """Refuse a point to whoever may not isolate it or give it back.

    Raises:
        Refusal: ``no_such_point``, ``not_your_point``.
    """
    wanted = Role(demand_point(sheet, point).by)
    if not may_sign_as(actor.role, wanted):
        raise Refusal("not_your_point", role=actor.role.value, wanted=wanted.value)


def demand_may_restore(state: Overhaul, point: Isolation, context: oc.EngineContext) -> None:
    """Refuse to give a point back while anything relies on it, or before its turn.

    Raises:
        Refusal: ``not_isolated``, ``isolation_relied_on``, ``restored_before_its_turn``; those of ``demand_rank``.
    """
    demand_rank(context.sheet, point, context.actor)
    if point not in state.isolations:
        raise Refusal("not_isolated", point=point)
    demand_in_turn(state, context.sheet, context.runs, point)


def demand_may_lift(state: Overhaul, command: oc.LiftForTest, context: oc.EngineContext) -> None:
    """Refuse to lift isolations for a test while anybody is inside or works with flame, or what is never lifted.

    Raises:
        Refusal: ``person_inside``, ``hot_work_there``, ``not_isolated``, ``never_lifted``, ``test_under_way``,
            ``sweep_blocked``; those of ``demand_rank``.
    """
    demand_nobody_inside(state)
    demand_no_hot_work(state)
    demand_no_test(state)
    for point in command.points:
        demand_rank(context.sheet, point, context.actor)
        stated = context.sheet.point(point)
        if stated is None or not stated.for_test:
            raise Refusal("never_lifted", point=point)
        if state.in_force(point) is None:
            raise Refusal("not_isolated", point=point)
    pressed = next((run for run in context.runs if counts(state, run) and run.under_pressure), None)
    if pressed is not None:
        raise Refusal("sweep_blocked", why="under_pressure", joint=pressed.label, what=pressed.title)


def demand_may_free_gear(state: Overhaul, command: oc.FreeGear, context: oc.EngineContext) -> None:
    """Refuse to free the turning gear while anything stands in the way of the crank.

    What a lead hand may let stay by a word is asked about at the move itself.

    Raises:
        Refusal: ``not_your_right``, ``no_such_run``, ``test_under_way``, ``gear_freed``, ``not_isolated``,
            ``sweep_blocked``.
    """
    demand(context.actor.role, Act.START_RUN)
    if command.run is not None and not any(run.run_id == command.run and run.open for run in context.runs):
        raise Refusal("no_such_run")
    demand_no_test(state)
    if state.in_force(TURNING_GEAR) is None:
        raise Refusal("not_isolated", point=TURNING_GEAR)
    demand_clear(state, context.sheet, context.runs, context.silent, command.run, word=True)
