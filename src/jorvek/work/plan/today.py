"""What is next for somebody, by the plans in force on all engines."""

from __future__ import annotations

from typing import Final
from uuid import UUID

from jorvek.core.overhaul.log import events as ov
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.labels import View
from jorvek.work.engine.overhauls import open_on
from jorvek.work.plan.progress import forecast
from jorvek.work.plan.views import PlannedWork, work_of
from jorvek.work.workshop import Workshop


class ForMe(View):
    """What is next for somebody by the plans in force; ``others`` are there with them."""

    engine_id: str
    engine: str
    overhaul_id: UUID
    work: PlannedWork
    others: tuple[str, ...]


_THINGS: Final = 3


def today_for(workshop: Workshop, actor: Person) -> tuple[ForMe, ...]:
    """Return the next few things for somebody by the plans in force, the soonest first."""
    found: list[ForMe] = []
    for engine in workshop.registers.engines():
        overhaul = open_on(workshop, engine.id)
        if overhaul is None or overhaul.plan is None:
            continue
        people = overhaul.plan.plan.people
        mine = next((k for k, person in enumerate(people) if person.id == actor.id), None)
        if mine is None:
            continue
        for work in _todo(workshop, overhaul.overhaul_id, overhaul.plan.plan):
            if mine in work.who:
                others = tuple(people[k].name for k in work.who if k != mine and k < len(people))
                found.append(
                    ForMe(
                        engine_id=engine.id,
                        engine=engine.name,
                        overhaul_id=overhaul.overhaul_id,
                        work=work,
                        others=others,
                    )
                )
    return tuple(sorted(found, key=lambda one: one.work.start_at)[:_THINGS])


def _todo(workshop: Workshop, overhaul_id: UUID, plan: ov.PlanTaken) -> tuple[PlannedWork, ...]:
    try:
        goes = forecast(workshop, overhaul_id, plan)
    except Refusal:
        return ()
    return tuple(work_of(goes.asked, goes.laid, goes.who, goes.why, set(plan.pins)))
