"""What stands over single runs: home screen, strip sheets, gates, tools."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from jorvek import __version__
from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.work.engine import tools
from jorvek.work.engine.berth import Berth, Mine, berth, mine
from jorvek.work.engine.surveys import SHEETS_AT_FIRST, Gates, Strips, gates_along, strip_sheets
from jorvek.work.library.search import Hit, search

router = APIRouter(prefix="/api", tags=["overview"])
_READ = documented(401, 422, 503)
_Engine = Annotated[str | None, Query(max_length=60)]


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


@router.get("/mine", responses=_READ)
def read_mine(shop: Shop, actor: Actor) -> Mine:
    """Return the open runs that whoever is signed in has in hand, and what waits for them elsewhere."""
    return mine(shop, actor)


@router.get("/strips", responses=_READ)
def read_strips(
    shop: Shop, actor: Actor, engine: _Engine = None, most: Annotated[int, Query(ge=1, le=2400)] = SHEETS_AT_FIRST
) -> Strips:
    """Return the release pressures of an engine's newest runs, newest first."""
    return strip_sheets(shop, engine, most)


@router.get("/gates", responses=_READ)
def read_gates(shop: Shop, actor: Actor, engine: _Engine = None) -> Gates:
    """Return the newest gates of every joint along an engine."""
    return gates_along(shop, engine)


class ToolWords(BaseModel):
    """Why."""

    words: Annotated[str, Field(min_length=1, max_length=1000, pattern=r"\S")]


ToolId = Annotated[str, Path(max_length=20)]


@router.get("/search", responses=_READ)
def find(shop: Shop, actor: Actor, words: Annotated[str, Query(max_length=200)]) -> tuple[Hit, ...]:
    """Return what is called by all the words: joints, studs, runs, procedures, tools, people."""
    return search(shop, words)


_ACT = documented(401, 403, 404, 409, 422, 503)


@router.get("/tools", responses=_READ)
def list_tools(shop: Shop, actor: Actor) -> list[tools.ToolNow]:
    """Return the tools, each with its place."""
    return tools.tools_now(shop)


@router.get("/tools/{tool_id}/touched", responses=documented(401, 404, 422, 503))
def list_touched(shop: Shop, actor: Actor, tool_id: ToolId) -> list[tools.Touched]:
    """Return the runs in which a tool was used, newest first."""
    return tools.touched_by(shop, tool_id)


@router.post("/tools/{tool_id}/withdraw", status_code=204, responses=_ACT)
def withdraw_tool(shop: Shop, actor: Actor, tool_id: ToolId, body: ToolWords) -> None:
    """Withdraw a tool: it is not drawn any more until it is taken back."""
    tools.withdraw_tool(shop, actor, tool_id, body.words)


@router.post("/tools/{tool_id}/back", status_code=204, responses=_ACT)
def take_tool_back(shop: Shop, actor: Actor, tool_id: ToolId, body: ToolWords) -> None:
    """Take a withdrawn tool back after it was checked."""
    tools.take_tool_back(shop, actor, tool_id, body.words)
