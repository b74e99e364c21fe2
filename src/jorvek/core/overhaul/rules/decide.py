"""What a command on an overhaul leads to: one event, or a refusal that changes nothing."""

from __future__ import annotations

from typing import Final

from jorvek.core.engine.layout import joints_of
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Line, Overhaul
from jorvek.core.overhaul.rules.closing import closes, demand_closable
from jorvek.core.overhaul.rules.entering import MAY_WAIT, go_or_come
from jorvek.core.overhaul.rules.hot_work import hot_work
from jorvek.core.overhaul.rules.isolating import isolate
from jorvek.core.overhaul.rules.joint_conditions import newest_on, owed
from jorvek.core.overhaul.rules.late_entry import collect_objections, from_paper, take_from_paper, then, told_later
from jorvek.core.overhaul.rules.open_places import to_clear
from jorvek.core.overhaul.rules.return_to_service import see_to
from jorvek.core.overhaul.rules.running_in import note_run_in
from jorvek.core.overhaul.rules.shaft import read_deflections
from jorvek.core.overhaul.rules.stops import note_stop
from jorvek.core.overhaul.rules.sweep import demand_clear, demand_gear_free, demand_nobody_inside, doubted
from jorvek.core.overhaul.rules.told_late import look_at_told
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand


def decide(state: Overhaul, command: oc.OverhaulCommand, context: oc.EngineContext) -> ov.OverhaulData:
    """Decide on a command: the event that answers it, or a refusal that changes nothing.

    Raises:
        Refusal: naming what was wrong.
    """
    if context.happened_at is not None and not isinstance(command, MAY_WAIT):
        raise Refusal("moment_gone")
    if state.status == "closed" and not isinstance(command, oc.NoteRunIn):
        raise Refusal("overhaul_closed")
    if isinstance(command, oc.ListedCommand) and command.paper is not None:
        as_written = take_from_paper(state, command, context)
        written = from_paper(command, as_written, _decide(state, command, as_written))
        return told_later(state, command, as_written, written)
    data = _decide(state, command, context)
    return data if context.happened_at is None else told_later(state, command, context, data)


def _decide(state: Overhaul, command: oc.OverhaulCommand, context: oc.EngineContext) -> ov.OverhaulData:
    match command:
        case oc.SetScope() | oc.Remark() | oc.PayDebt() | oc.TakePlan():
            return _say(state, command, context)
        case oc.DeclareConditions():
            return _declare(state, command, context)
        case oc.Isolate() | oc.LiftForTest() | oc.FreeGear() | oc.PutBackAfterTest() | oc.RestorePoint():
            return isolate(state, command, context)
        case (
            oc.HangLock()
            | oc.TakeLockOff()
            | oc.MoveDoor()
            | oc.Enter()
            | oc.Leave()
            | oc.TestAir()
            | oc.AnswerForTablet()
            | oc.RelieveAttendant()
        ):
            return go_or_come(state, command, context)
        case oc.LookAtTold():
            return look_at_told(state, command, context)
        case oc.BeginHotWork() | oc.EndHotWork():
            return hot_work(state, command, context)
        case oc.FindCrank() | oc.LoseCrank() | oc.MoveCrank() | oc.SetAttitude() | oc.CarryCrank():
            return _crank(state, command, context)
        case oc.NoteRunIn():
            return note_run_in(state, command, context)
        case oc.NoteStop():
            return note_stop(state, command, context)
        case oc.StrikeEntry():
            return _strike(state, command, context)
        case oc.HandOverEngine():
            return _hand_over(state, command, context)
        case oc.SeeTo() | oc.ReadDeflections() | oc.Witness() | oc.CloseOverhaul():
            return _close_out(state, command, context)


def _say(
    state: Overhaul, command: oc.SetScope | oc.Remark | oc.PayDebt | oc.TakePlan, context: oc.EngineContext
) -> ov.OverhaulData:
    match command:
        case oc.TakePlan():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            if context.plan is None or context.plan.made_at != command.made_at:
                raise Refusal("plan_gone")
            return context.plan
        case oc.SetScope():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            _known_joints(state, context, command.scope)
            return ov.ScopeSet(scope=tuple(dict.fromkeys(command.scope)))
        case oc.Remark():
            demand(context.actor.role, Act.RECORD)
            return ov.Remarked(words=command.words)
        case oc.PayDebt():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            if not any(
                (run.run_id, debt.cell) == (command.run, command.cell) for run, debt in owed(state, context.runs)
            ):
                raise Refusal("nothing_owed")
            return ov.DebtPaid(run=command.run, cell=command.cell, words=command.words)


def _close_out(
    state: Overhaul, command: oc.SeeTo | oc.ReadDeflections | oc.Witness | oc.CloseOverhaul, context: oc.EngineContext
) -> ov.OverhaulData:
    match command:
        case oc.SeeTo():
            return see_to(state, command, context)
        case oc.ReadDeflections():
            return read_deflections(state, command, context)
        case oc.Witness():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            return ov.Witnessed(attends=command.attends, name=command.name, words=command.words)
        case oc.CloseOverhaul():
            demand(context.actor.role, closes(small=state.opened.small))
            demand_closable(state, context)
            if not (state.opened.small or context.pin_confirmed):
                raise Refusal("pin_needed")
            return ov.OverhaulClosed()


def _crank(
    state: Overhaul,
    command: oc.FindCrank | oc.LoseCrank | oc.MoveCrank | oc.SetAttitude | oc.CarryCrank,
    context: oc.EngineContext,
) -> ov.OverhaulData:
    match command:
        case oc.FindCrank():
            _on_the_circle(context, command.angle_deg)
            against = collect_objections(context, lambda: demand(context.actor.role, Act.START_RUN))
            return ov.CrankFound(angle_deg=command.angle_deg, proof=command.proof, against=against)
        case oc.LoseCrank():
            demand(context.actor.role, Act.RECORD)
            return ov.CrankLost(words=command.words)
        case oc.MoveCrank():
            return _move(state, command, context)
        case oc.SetAttitude():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            demand_nobody_inside(state)
            demand_clear(state, context.sheet, context.runs, context.silent)
            return ov.AttitudeSet(attitude=command.attitude)
        case oc.CarryCrank():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
            return ov.CrankCarried(carried=command.carried, words=command.words)


def _known_joints(state: Overhaul, context: oc.EngineContext, joints: tuple[str, ...]) -> None:
    known = {place.key for place in joints_of(state.opened.engine, context.sheet.joints)}
    for joint in joints:
        if joint not in known:
            raise Refusal("no_such_joint", joint=joint, engine=state.opened.engine.name)


def _declare(state: Overhaul, command: oc.DeclareConditions, context: oc.EngineContext) -> ov.ConditionsDeclared:
    """The run speaks for a joint while somebody works on it; before and after that a person may."""
    against = collect_objections(context, lambda: demand(context.actor.role, Act.LEAD_OVERHAUL))
    _known_joints(state, context, tuple(command.found))
    kinds = {place.key: place for place in joints_of(state.opened.engine, context.sheet.joints)}
    for joint, condition in command.found.items():
        place = kinds[joint]
        ladder = context.sheet.ladders.get(place.kind)
        if ladder is None or condition not in ladder.conditions:
            allowed = ", ".join(ladder.conditions) if ladder else ""
            raise Refusal("no_such_condition", joint=place.label, got=condition, allowed=allowed)
        if any(run.open and run.joint == joint for run in context.runs):
            raise Refusal("joint_taken", joint=place.label)
    newest = {joint: newest_on(joint, context.runs) for joint in command.found}
    after = {joint: run for joint, run in newest.items() if run is not None}
    return ov.ConditionsDeclared(found=dict(command.found), after=after, words=command.words, against=against)


def _on_the_circle(context: oc.EngineContext, angle_deg: float) -> None:
    cycle = context.sheet.crank.cycle.value
    if angle_deg >= cycle:
        raise Refusal("E_RANGE", name="angle_deg", got=angle_deg, low=0, high=cycle)


def _move(state: Overhaul, command: oc.MoveCrank, context: oc.EngineContext) -> ov.CrankMoved:
    against = collect_objections(context, lambda: _demand_may_move(then(state, context), command, context))
    if command.to_deg is not None:
        _on_the_circle(context, command.to_deg)
    return ov.CrankMoved(
        from_deg=state.crank.angle_deg if state.crank else None,
        to_deg=command.to_deg,
        way=command.way,
        commander=command.commander,
        looked_at=command.looked_at,
        clear=command.clear,
        against=against,
    )


def _demand_may_move(state: Overhaul, command: oc.MoveCrank, context: oc.EngineContext) -> None:
    demand(context.actor.role, Act.START_RUN)
    if command.way not in context.sheet.crank.ways:
        raise Refusal("way_not_allowed", way=command.way)
    if command.stays is not None:
        demand(context.actor.role, Act.LEAD_OVERHAUL)
    demand_clear(state, context.sheet, context.runs, context.silent, word=command.stays is not None)
    demand_gear_free(state)
    for one in to_clear(state, context.sheet, context.runs):
        if one.id not in command.clear:
            raise Refusal("not_clear", joint=one.joint, what=one.what)


_STRUCK: Final = (
    ov.ConditionsDeclared,
    ov.Isolated,
    ov.DoorMoved,
    ov.Entered,
    ov.AirTested,
    ov.HotWorkBegan,
    ov.EngineStopped,
    ov.CrankFound,
    ov.CrankMoved,
    ov.LockHung,
    ov.AttitudeSet,
    ov.CrankCarried,
    ov.DebtPaid,
    ov.SeenTo,
    ov.DeflectionsRead,
    ov.Witnessed,
    ov.PlanTaken,
)
"""Entries that may be wrong in themselves; what undoes another is simply done again."""


def _strike(state: Overhaul, command: oc.StrikeEntry, context: oc.EngineContext) -> ov.StruckOut:
    demand(context.actor.role, Act.RECORD)
    line = state.line(command.entry)
    if line is None:
        raise Refusal("no_such_entry", entry=command.entry)
    if line.struck_by is not None or not isinstance(line.data, _STRUCK):
        raise Refusal("not_to_be_struck", entry=command.entry)
    if line.by.id != context.actor.id:
        demand(context.actor.role, Act.LEAD_OVERHAUL)
    if isinstance(line.data, ov.ConditionsDeclared):
        _nobody_works_on(context, line.data)
    if line in doubted(state):
        # What makes the engine less safe is looked at; whoever told it does not take it back unseen.
        raise Refusal("in_doubt", by=line.done_by.name)
    still = next((one for one in state.inside if one.seq == line.seq), None)
    if still is not None:
        # Whoever is inside goes out; nobody is struck off the board.
        raise Refusal("person_inside", name=still.person.name)
    if isinstance(line.data, ov.Isolated):
        demand_nobody_inside(state)
    if isinstance(line.data, ov.DoorMoved) and any(i.door == line.data.door for i in state.inside):
        demand_nobody_inside(state)
    _not_built_upon(state, line)
    return ov.StruckOut(entry=command.entry, words=command.words)


def _nobody_works_on(context: oc.EngineContext, said: ov.ConditionsDeclared) -> None:
    for run in context.runs:
        if run.open and run.joint in said.found:
            raise Refusal("joint_taken", joint=run.label)


def _not_built_upon(state: Overhaul, line: Line) -> None:
    """What a later entry undoes or ends is not struck under it."""
    for later in state.lines[line.seq :]:
        data = later.data
        ends = getattr(data, "entered", None) or getattr(data, "hung", None) or getattr(data, "began", None)
        same = isinstance(line.data, ov.Isolated) and getattr(data, "point", None) == line.data.point
        if later.struck_by is None and (ends == line.seq or same):
            raise Refusal("not_to_be_struck", entry=line.seq)


def _hand_over(state: Overhaul, command: oc.HandOverEngine, context: oc.EngineContext) -> ov.HandedOver:
    demand(context.actor.role, Act.START_RUN)
    person = context.people.get(command.to)
    if person is None:
        raise Refusal("no_such_person")
    if person.id == context.actor.id:
        raise Refusal("already_yours")
    if not (context.pin_confirmed and context.other_pin_confirmed):
        raise Refusal("pin_needed")
    return ov.HandedOver(to=person, words=command.words)
