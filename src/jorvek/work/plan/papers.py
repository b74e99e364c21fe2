"""A plan for those who have no tablet in hand: the sheet of a day, a table, a diary."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from uuid import UUID
from zoneinfo import ZoneInfo

from jorvek.core.refusal import Refusal
from jorvek.messages import say
from jorvek.reports.plan_papers import Line, day_sheets_pdf, plan_csv, plan_ics
from jorvek.work.budget import PAPER
from jorvek.work.plan.current import plan_now
from jorvek.work.plan.views import PlanShown, WhyShown
from jorvek.work.workshop import Workshop


def _shown(workshop: Workshop, overhaul_id: UUID) -> PlanShown:
    shown = plan_now(workshop, overhaul_id)
    if not shown.work:
        raise Refusal("plan_none")
    return shown


def who_is(shown: PlanShown, number: int) -> str:
    """Return what somebody of a plan is called: by name, or by number."""
    return shown.people[number] if number < len(shown.people) else say("plan.hand_number", {"n": number + 1})


def why_words(why: WhyShown | None) -> str:
    """Return in words why something is not sooner."""
    if why is None or why.code == "none":
        return ""
    code = "hands_any" if why.code == "hands" and not why.what else why.code
    return say(f"plan.because.{code}", {"what": ", ".join(why.what)})


def _lines(shown: PlanShown) -> Iterator[Line]:
    for work in shown.work:
        yield Line(
            id=work.id,
            start_at=work.start_at,
            end_at=work.end_at,
            who=tuple(who_is(shown, k) for k in work.who),
            joint=work.label,
            what=work.title,
            hands=work.hands,
            sets=work.sets,
            crane=work.crane,
            angle_deg=work.angle_deg,
            known=work.known or "",
            why=why_words(work.why),
        )
    for move in shown.moves:
        yield Line(
            id=f"crank {move.start_at.isoformat()}",
            start_at=move.start_at,
            end_at=move.end_at,
            who=tuple(who_is(shown, k) for k in move.who),
            joint="",
            what=say("plan.move", {"angle": round(move.to_deg)}),
            hands=len(move.who),
            angle_deg=move.to_deg,
        )


def _sorted(shown: PlanShown, who: int | None) -> list[Line]:
    name = None if who is None else who_is(shown, who)
    return sorted((one for one in _lines(shown) if name is None or name in one.who), key=lambda one: one.start_at)


def plan_table(workshop: Workshop, overhaul_id: UUID) -> bytes:
    """Return the plan of an overhaul as CSV.

    Raises:
        Refusal: ``no_such_overhaul``; ``plan_none`` where there is none.
    """
    return plan_csv(_sorted(_shown(workshop, overhaul_id), None), workshop.site_zone)


def plan_diary(workshop: Workshop, overhaul_id: UUID, who: int | None) -> bytes:
    """Return the plan of everybody, or of one person by number, as iCalendar.

    Raises:
        Refusal: ``no_such_overhaul``; ``plan_none`` where there is none.
    """
    shown, engine = _shown(workshop, overhaul_id), workshop.overhauls.snapshot(overhaul_id).state.opened.engine
    return plan_ics(_sorted(shown, who), engine.name, shown.made_at or workshop.clock())


@PAPER
def day_sheets(workshop: Workshop, overhaul_id: UUID, day: date, who: int | None) -> bytes:
    """Return the sheets of a day as PDF, one a person.

    Raises:
        Refusal: ``no_such_overhaul``; ``plan_none`` where there is none.
    """
    shown, opened = _shown(workshop, overhaul_id), workshop.overhauls.snapshot(overhaul_id).state.opened
    tz = ZoneInfo(workshop.site_zone)
    numbers = range(shown.hands) if who is None else [who]
    people = [
        (who_is(shown, k), [one for one in _sorted(shown, k) if one.start_at.astimezone(tz).date() == day])
        for k in numbers
    ]
    return day_sheets_pdf(people, opened.engine.name, opened.title, day, workshop.site_zone, workshop.clock())
