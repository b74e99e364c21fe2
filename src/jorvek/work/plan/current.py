"""A plan as one looks at it: what was found last, or the one in force as it goes."""

from __future__ import annotations

from uuid import UUID

from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import PlanInForce
from jorvek.core.overhaul.views.phases import CRANE
from jorvek.core.plan.crew import Timed
from jorvek.core.refusal import Refusal
from jorvek.work.helpers import SOLVING
from jorvek.work.plan.files import Made, file_of, read, seal_of
from jorvek.work.plan.problem import Outage, PlanAsked, sets_there
from jorvek.work.plan.progress import against, asked_of, forecast, in_force_now
from jorvek.work.plan.views import PlannedMove, PlannedWork, PlanShown, bound_of, moves_of, work_of
from jorvek.work.workshop import Workshop


def plan_now(workshop: Workshop, overhaul_id: UUID) -> PlanShown:
    """Return the plan of an overhaul: what was found last, or, once that was taken, the one in force as it goes.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    state = workshop.overhauls.snapshot(overhaul_id).state
    made, taken = read(file_of(workshop, overhaul_id)), state.plan
    in_force = None if taken is None else in_force_now(workshop, overhaul_id, taken)
    if taken is not None and (made is None or made.made_at == taken.plan.made_at):
        shown = _as_it_goes(workshop, overhaul_id, taken, made)
    elif made is None:
        shown = PlanShown(state="none", asked=PlanAsked())
    else:
        shown = _found(workshop, overhaul_id, made, old=made.seal != seal_of(workshop, overhaul_id))
        if taken is not None and shown.finish_at is not None:
            shown = shown.model_copy(update=against(workshop, overhaul_id, taken, shown, in_force))
    return shown.model_copy(update={"in_force": in_force})


def _found(workshop: Workshop, overhaul_id: UUID, made: Made, *, old: bool) -> PlanShown:
    shown = PlanShown(
        state=made.state,
        asked=made.asked,
        refused=made.refused,
        refused_with=made.refused_with,
        made_at=made.made_at,
        old=old,
        left_out=made.left_out,
        crank_assumed=made.crank_assumed,
        what_if=made.what_if,
        wondering=made.wondering,
        again=made.again,
        before=SOLVING.before(overhaul_id),
        people=_names(workshop, made.asked.who),
        hands=made.asked.hands,
        sets={} if made.problem is None else {k: n for k, n in made.problem.sets.items() if k != CRANE},
    )
    if made.plan is None or made.problem is None or made.midnight is None:
        return shown
    asked = Outage(made.problem, made.midnight, made.pieces, made.left_out, crank_assumed=made.crank_assumed)
    laid = Timed(made.plan.placed, made.plan.moves, {})
    return shown.model_copy(
        update={
            "finish_at": asked.at(made.plan.finish_min),
            "first_come_at": None if made.first_come_min is None else asked.at(made.first_come_min),
            "barring_deg": made.plan.barring_deg,
            "proven": made.plan.proven,
            "gap_percent": round(100 * made.plan.gap, 1),
            "bounds": tuple(bound_of(asked, b.code, b.value, b.what) for b in made.plan.bound_parts[:3]),
            "work": tuple(work_of(asked, laid, made.who, made.reasons, set(made.asked.pins))),
            "moves": tuple(moves_of(asked, laid, made.moves_who)),
        }
    )


def _names(workshop: Workshop, who: tuple[UUID, ...]) -> tuple[str, ...]:
    known = {p.id: p.name for p in workshop.registers.people()}
    return tuple(known[one] for one in who if one in known)


def _as_it_goes(workshop: Workshop, overhaul_id: UUID, taken: PlanInForce, made: Made | None) -> PlanShown:
    plan = taken.plan
    shown = PlanShown(
        state="in_force",
        asked=asked_of(plan),
        made_at=plan.made_at,
        hands=plan.hands,
        people=tuple(p.name for p in plan.people),
        gap_percent=plan.gap_percent,
        what_if=() if made is None else made.what_if,
        wondering=made is not None and made.wondering,
    )
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal as refusal:
        with_ = {name: str(value) for name, value in refusal.params.items()}
        there = sets_there(workshop, workshop.overhauls.snapshot(overhaul_id).state.opened.engine.id)
        sets = {one: there.get(one, 0) for piece in plan.pieces for one in piece.sets}
        return shown.model_copy(
            update={"refused": refusal.code, "refused_with": with_, "sets": sets, **_as_taken(plan)}
        )
    return shown.model_copy(
        update={
            "finish_at": goes.asked.at(goes.laid.finish_min),
            "barring_deg": goes.laid.barring_deg,
            "work": tuple(work_of(goes.asked, goes.laid, goes.who, goes.why, set(plan.pins))),
            "moves": tuple(moves_of(goes.asked, goes.laid, goes.moves_who)),
            "left_out": goes.asked.left_out,
            "crank_assumed": goes.asked.crank_assumed,
            "sets": {k: n for k, n in goes.asked.problem.sets.items() if k != CRANE},
        }
    )


def _as_taken(plan: ov.PlanTaken) -> dict[str, object]:
    """Where nobody can tell how it goes on, it is shown as it was taken."""
    return {
        "finish_at": plan.finish_at,
        "barring_deg": plan.barring_deg,
        "work": tuple(
            PlannedWork(
                **{name: getattr(p, name) for name in ("id", "joint", "label", "title", "start_at", "end_at", "hands")},
                angle_deg=p.angle_deg,
                sets=p.sets,
                crane=p.crane,
                who=p.who,
                why=None,
                pinned=p.id in plan.pins,
                known=None,
                late_min=0,
            )
            for p in plan.pieces
        ),
        "moves": tuple(PlannedMove(**move.model_dump()) for move in plan.moves),
    }
