"""The plan of an overhaul: asked for, looked at, stopped, taken; on paper and in a diary; what is next for whom."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.overhaul.log.commands import TakePlan
from jorvek.core.plan.problem import Problem
from jorvek.core.plan.result import Plan
from jorvek.work.plan import current, papers, search
from jorvek.work.plan.problem import PlanAsked
from jorvek.work.plan.today import ForMe, today_for
from jorvek.work.plan.views import PlanShown

router = APIRouter(prefix="/api/overhauls", tags=["plan"])
_READ = documented(401, 404, 422, 503)
_WRITE = documented(400, 401, 403, 404, 409, 413, 422, 503)

Who = Annotated[int | None, Query(ge=0, le=98)]


@router.get("/{overhaul_id}/plan", responses=_READ)
def read_plan(shop: Shop, actor: Actor, overhaul_id: UUID) -> PlanShown:
    """Return the plan of an overhaul: what was found, or the one in force as it goes."""
    search.begin_again(shop, overhaul_id)
    return current.plan_now(shop, overhaul_id)


@router.post("/{overhaul_id}/plan", status_code=202, responses=_WRITE)
def ask_for_plan(shop: Shop, actor: Actor, overhaul_id: UUID, body: PlanAsked) -> PlanShown:
    """Begin to look for a plan, beside everything else."""
    search.begin_plan(shop, actor, overhaul_id, body)
    return current.plan_now(shop, overhaul_id)


@router.delete("/{overhaul_id}/plan", responses=_WRITE)
def stop_plan(shop: Shop, actor: Actor, overhaul_id: UUID) -> PlanShown:
    """Stop looking; what was found so far stays."""
    search.stop_plan(shop, actor, overhaul_id)
    return current.plan_now(shop, overhaul_id)


class TakenPlan(BaseModel):
    """The plan to take, by when it was asked for."""

    command: TakePlan = Field(description="Which one was looked at.")


@router.post("/{overhaul_id}/plan/take", responses=_WRITE)
def take_plan(shop: Shop, actor: Actor, overhaul_id: UUID, body: TakenPlan) -> PlanShown:
    """Take the plan that was found: work goes by it."""
    search.take_plan(shop, actor, overhaul_id, body.command)
    return current.plan_now(shop, overhaul_id)


def _file(content: bytes, kind: str, name: str) -> Response:
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/{overhaul_id}/plan.csv", response_class=Response, responses=_READ)
def plan_table(shop: Shop, actor: Actor, overhaul_id: UUID) -> Response:
    """Return the plan as a table."""
    return _file(papers.plan_table(shop, overhaul_id), "text/csv", f"jorvek-{overhaul_id}-plan.csv")


@router.get("/{overhaul_id}/plan.ics", response_class=Response, responses=_READ)
def plan_diary(shop: Shop, actor: Actor, overhaul_id: UUID, who: Who = None) -> Response:
    """Return the plan of everybody, or of one person by number, for a diary."""
    return _file(papers.plan_diary(shop, overhaul_id, who), "text/calendar", f"jorvek-{overhaul_id}-plan.ics")


@router.get("/{overhaul_id}/plan/day.pdf", response_class=Response, responses={**_READ, **documented(429)})
def day_sheets(shop: Shop, actor: Actor, overhaul_id: UUID, day: date, who: Who = None) -> Response:
    """Return the sheet of a day for everybody, or for one person by number."""
    return _file(papers.day_sheets(shop, overhaul_id, day, who), "application/pdf", f"jorvek-{overhaul_id}-{day}.pdf")


today_router = APIRouter(prefix="/api", tags=["plan"])


@today_router.get("/today", responses=documented(401, 422, 503))
def read_today(shop: Shop, actor: Actor) -> tuple[ForMe, ...]:
    """Return what is next for whoever is signed in, by the plans in force."""
    return today_for(shop, actor)


format_router = APIRouter(prefix="/api/format", tags=["plan"])


@format_router.get("/plan-problem.schema.json", response_model=dict[str, Any])
def problem_schema() -> dict[str, Any]:
    """Return the JSON Schema of what a plan is asked for."""
    return Problem.model_json_schema()


@format_router.get("/plan.schema.json", response_model=dict[str, Any])
def plan_schema() -> dict[str, Any]:
    """Return the JSON Schema of a plan."""
    return Plan.model_json_schema()
