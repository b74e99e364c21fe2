"""What stands over single runs: home screen, strip sheets, gates, tools."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from jorvek import __version__
from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.work.berth import Berth, berth
from jorvek.work.surveys import EngineGates, StripSheet, gates_along, strip_sheets

router = APIRouter(prefix="/api", tags=["overview"])
_READ = documented(401, 422, 503)


class ToolListed(BaseModel):
    """A tool to draw."""

    id: str
    name: str
    tool_class: str
    pieces: int
    calibration_due: date
    out_of_date: bool


class Health(BaseModel):
    """That the program runs and reaches its database."""

    version: str


@router.get("/health", responses=documented(503))
def health(shop: Shop) -> Health:
    """Answer when the database answers."""
    shop.database.check()
    return Health(version=__version__)


@router.get("/berth", responses=_READ)
def read_berth(shop: Shop, actor: Actor) -> Berth:
    """Return the home screen of whoever is signed in."""
    return berth(shop, actor)


@router.get("/strips", responses=_READ)
def read_strips(shop: Shop, actor: Actor) -> tuple[StripSheet, ...]:
    """Return the release pressures of all runs, newest first."""
    return strip_sheets(shop)


@router.get("/gates", responses=_READ)
def read_gates(shop: Shop, actor: Actor) -> tuple[EngineGates, ...]:
    """Return the newest gates of every joint, engine by engine."""
    return gates_along(shop)


@router.get("/tools", responses=_READ)
def list_tools(
    shop: Shop, actor: Actor, tool_class: Annotated[str | None, Query(max_length=60)] = None
) -> list[ToolListed]:
    """Return the tools, of one class if wanted."""
    today = shop.today()
    return [
        ToolListed(
            id=t.id,
            name=t.name,
            tool_class=t.tool_class,
            pieces=t.pieces,
            calibration_due=t.calibration_due,
            out_of_date=t.out_of_date(today),
        )
        for t in shop.registers.tools()
        if tool_class in (None, t.tool_class)
    ]
