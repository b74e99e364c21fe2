"""The plan of an overhaul: asked for, looked at, stopped."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from fastapi import APIRouter

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.plan.problem import Problem
from jorvek.core.plan.result import Plan
from jorvek.work import plans

router = APIRouter(prefix="/api/overhauls", tags=["plan"])
_READ = documented(401, 404, 422, 503)
_WRITE = documented(400, 401, 403, 404, 413, 422, 503)


@router.get("/{overhaul_id}/plan", responses=_READ)
def read_plan(shop: Shop, actor: Actor, overhaul_id: UUID) -> plans.PlanShown:
    """Return the plan of an overhaul as found so far."""
    return plans.plan_now(shop, overhaul_id)


@router.post("/{overhaul_id}/plan", status_code=202, responses=_WRITE)
def ask_for_plan(shop: Shop, actor: Actor, overhaul_id: UUID, body: plans.PlanAsked) -> plans.PlanShown:
    """Begin to look for a plan, beside everything else."""
    return plans.begin_plan(shop, actor, overhaul_id, body)


@router.delete("/{overhaul_id}/plan", responses=_WRITE)
def stop_plan(shop: Shop, actor: Actor, overhaul_id: UUID) -> plans.PlanShown:
    """Stop looking; what was found so far stays."""
    return plans.stop_plan(shop, actor, overhaul_id)


format_router = APIRouter(prefix="/api/format", tags=["plan"])


@format_router.get("/plan-problem.schema.json", response_model=dict[str, Any])
def problem_schema() -> dict[str, Any]:
    """Return the JSON Schema of what a plan is asked for."""
    return Problem.model_json_schema()


@format_router.get("/plan.schema.json", response_model=dict[str, Any])
def plan_schema() -> dict[str, Any]:
    """Return the JSON Schema of a plan."""
    return Plan.model_json_schema()
