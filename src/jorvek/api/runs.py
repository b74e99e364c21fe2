"""Runs: start, work, read, take away."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field
from starlette.requests import Request

from jorvek.api.live import Live
from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.run.commands import Command
from jorvek.core.run.record import RunRecord
from jorvek.core.run.view import BenchView
from jorvek.reports.sheet import record_pdf
from jorvek.reports.table import write_csv
from jorvek.store.runlog import Snapshot
from jorvek.work import exports, runs
from jorvek.work.berth import RunListed, runs_listed
from jorvek.work.workshop import Workshop

router = APIRouter(prefix="/api/runs", tags=["runs"])

_READ = documented(401, 404, 422, 503)
_WRITE = documented(400, 401, 403, 404, 409, 413, 422, 429, 503)


class BenchAnswer(BaseModel):
    """The Bench of a run, and the server's time when it was made."""

    now: datetime
    view: BenchView


class CommandEnvelope(BaseModel):
    """A command, and the PIN again when it is a signature."""

    command: Command
    pin: Annotated[str | None, Field(max_length=20)] = None


class RedoScope(BaseModel):
    """What would open again."""

    cells: tuple[str, ...]


def _bench(shop: Workshop, run_id: UUID, snapshot: Snapshot) -> Response:
    # Written out directly: the view is validated by its own types, and this is the hot path.
    answer = BenchAnswer(now=shop.clock(), view=runs.view(run_id, snapshot))
    return Response(answer.model_dump_json(), media_type="application/json")


@router.get("", responses=documented(401, 422, 503))
def list_runs(shop: Shop, actor: Actor) -> list[RunListed]:
    """Return all runs, newest first."""
    return list(runs_listed(shop))


@router.post("", response_model=BenchAnswer, responses=_WRITE)
def start_run(shop: Shop, actor: Actor, body: runs.StartRun) -> Response:
    """Start a run."""
    return _bench(shop, body.run_id, runs.start_run(shop, actor, body))


@router.get("/{run_id}", response_model=BenchAnswer, responses=_READ)
def read_run(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the Bench of a run."""
    return _bench(shop, run_id, shop.log.snapshot(run_id))


@router.post("/{run_id}/commands", response_model=BenchAnswer, responses=_WRITE)
def command_run(shop: Shop, actor: Actor, run_id: UUID, body: CommandEnvelope) -> Response:
    """Carry out a command; the answer means that it is stored for good."""
    return _bench(shop, run_id, runs.act(shop, actor, run_id, body.command, body.pin))


@router.get("/{run_id}/redo", responses=_READ)
def read_redo(shop: Shop, actor: Actor, run_id: UUID, cell: Annotated[str, Query(max_length=200)]) -> RedoScope:
    """Return what would open again if the work of a cell were done again."""
    return RedoScope(cells=runs.scope_of_redo(shop, run_id, cell))


@router.get("/{run_id}/record", responses=_READ)
def read_record(shop: Shop, actor: Actor, run_id: UUID) -> RunRecord:
    """Return the record of a run."""
    return runs.record(shop, run_id)


def _file(content: bytes | str, kind: str, run_id: UUID, ending: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="jorvek-{run_id}.{ending}"'}
    return Response(content, media_type=kind, headers=headers)


def _content(kind: str) -> dict[int | str, dict[str, object]]:
    return {200: {"content": {kind: {"schema": {"type": "string"}}}, "description": "The file"}}


@router.get("/{run_id}/record.pdf", response_class=Response, responses={**_READ, **_content("application/pdf")})
def read_pdf(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the record as PDF."""
    pdf = record_pdf(runs.record(shop, run_id), shop.base_url, shop.site_zone)
    return _file(pdf, "application/pdf", run_id, "pdf")


@router.get("/{run_id}/record.csv", response_class=Response, responses={**_READ, **_content("text/csv")})
def read_csv(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the table of readings as CSV."""
    return _file(write_csv(runs.record(shop, run_id)), "text/csv", run_id, "csv")


@router.get("/{run_id}/record.json", responses=_READ)
def read_json(shop: Shop, actor: Actor, run_id: UUID, response: Response) -> exports.ExportedRun:
    """Return the run as JSON that rebuilds it."""
    response.headers["Content-Disposition"] = f'attachment; filename="jorvek-{run_id}.json"'
    return exports.export_run(shop, run_id)


live_router = APIRouter(prefix="/api", tags=["runs"])


@live_router.get(
    "/live",
    response_class=StreamingResponse,
    responses={**documented(401, 422, 503), **_content("text/event-stream")},
)
def listen(actor: Actor, request: Request) -> StreamingResponse:
    """Stream which run has reached which event (server-sent events)."""
    live = request.app.state.live
    assert isinstance(live, Live)
    return StreamingResponse(live.stream(), media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})
