"""Runs: start, work, read, take away."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Body, Path, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field
from starlette.requests import Request

from jorvek.api.live import Live
from jorvek.api.problems import documented
from jorvek.api.session import Actor, Member, PersonListed, Shop, Token
from jorvek.core.run.log.commands import LONGEST_KEPT_S, Command, Late
from jorvek.core.run.views.hand_over import HandOver
from jorvek.core.run.views.record import RunRecord
from jorvek.work.engine import tools
from jorvek.work.engine.berth import RunsAsked, RunsListed, runs_listed
from jorvek.work.paper import records
from jorvek.work.people.accounts import as_actor, token_hash
from jorvek.work.runs import acts, exports, reading

router = APIRouter(prefix="/api/runs", tags=["runs"])

_AS_IT_IS = {"Content-Encoding": "identity"}
"""Pictures and PDF are compressed already."""
_READ = documented(401, 404, 422, 503)
_WRITE = documented(400, 401, 403, 404, 409, 413, 422, 428, 429, 503)


class CommandEnvelope(BaseModel):
    """A command; the PIN again when it is a signature; how it waited when the tablet had no link.

    Somebody else may do this one act on the tablet: then ``by`` names them, and the PIN is theirs. ``knows`` is the
    version of the view that the tablet shows: it is then answered with what has changed.
    """

    command: Command
    by: UUID | None = None
    pin: Annotated[str | None, Field(max_length=20)] = None
    late: Late | None = None
    knows: Annotated[str | None, Field(max_length=64)] = None


class RedoScope(BaseModel):
    """What would open again."""

    cells: tuple[str, ...]


def _bench(answer: str) -> Response:
    # Written out already: the view is validated by its own types, and this is the hot path.
    return Response(answer, media_type="application/json")


def _file(content: bytes | str, kind: str, run_id: UUID, ending: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="jorvek-{run_id}.{ending}"'}
    return Response(content, media_type=kind, headers=headers | (_AS_IT_IS if kind == "application/pdf" else {}))


def _content(kind: str) -> dict[int | str, dict[str, object]]:
    return {200: {"content": {kind: {"schema": {"type": "string"}}}, "description": "The file"}}


@router.get("", responses=documented(401, 422, 503))
def list_runs(
    shop: Shop,
    actor: Actor,
    engine: Annotated[str | None, Query(max_length=60)] = None,
    words: Annotated[str, Query(max_length=200)] = "",
    state: RunsAsked | None = None,
) -> RunsListed:
    """Return the newest runs that match, newest first."""
    return runs_listed(shop, engine, words, state)


@router.post("", response_model=reading.BenchAnswer, responses=_WRITE)
def start_run(shop: Shop, member: Member, body: acts.StartRun) -> Response:
    """Start a run."""
    return _bench(reading.bench(shop, member, body.run_id, acts.start_run(shop, as_actor(member), body)))


@router.get("/{run_id}", response_model=reading.BenchAnswer, responses=_READ)
def read_run(shop: Shop, member: Member, run_id: UUID) -> Response:
    """Return the Bench of a run."""
    return _bench(reading.bench(shop, member, run_id))


@router.post("/{run_id}/commands", response_model=reading.BenchAnswer, responses=_WRITE)
def command_run(shop: Shop, member: Member, run_id: UUID, body: CommandEnvelope) -> Response:
    """Carry out a command; the answer means that it is stored for good."""
    snapshot = acts.act(shop, as_actor(member), run_id, body.command, body.pin, body.late, body.by)
    return _bench(reading.bench(shop, member, run_id, snapshot, body.command, body.knows))


@router.post("/{run_id}/photos", response_model=reading.BenchAnswer, responses=_WRITE)
def add_photo(
    shop: Shop,
    member: Member,
    run_id: UUID,
    id: UUID,
    cell: Annotated[str, Query(max_length=200)],
    content: Annotated[bytes, Body(media_type="image/jpeg")],
    words: Annotated[str | None, Query(min_length=1, max_length=1000)] = None,
    batch: UUID | None = None,
    saw: Annotated[int, Query(ge=0)] = 0,
    kept_s: Annotated[float | None, Query(ge=0, le=LONGEST_KEPT_S)] = None,
) -> Response:
    """Put a photograph to a call; the file is the body, and how it waited without a link stands beside it."""
    sent = acts.SentPhoto(id, cell, content, words)
    late = None if batch is None else Late(batch=batch, saw=saw, kept_s=kept_s)
    return _bench(reading.bench(shop, member, run_id, acts.add_photo(shop, as_actor(member), run_id, sent, late)))


@router.get("/{run_id}/redo", responses=_READ)
def read_redo(shop: Shop, actor: Actor, run_id: UUID, cell: Annotated[str, Query(max_length=200)]) -> RedoScope:
    """Return what would open again if the work of a cell were done again."""
    return RedoScope(cells=reading.scope_of_redo(shop, run_id, cell))


@router.get("/{run_id}/able", responses=_READ)
def read_able(
    shop: Shop, actor: Actor, run_id: UUID, cell: Annotated[str, Query(max_length=200)]
) -> list[PersonListed]:
    """Return the people who may answer a call."""
    return [PersonListed(id=p.id, name=p.name, role=p.role) for p in reading.who_may_answer(shop, run_id, cell)]


@router.get("/{run_id}/tools", responses=_READ)
def read_tools(
    shop: Shop, actor: Actor, run_id: UUID, cell: Annotated[str, Query(max_length=200)]
) -> list[tools.ToolForCall]:
    """Return the tools of the class that a call asks for, each with what bars it."""
    return tools.tools_for(shop, run_id, cell)


@router.get("/{run_id}/sheet", responses=_READ)
def read_sheet(shop: Shop, actor: Actor, run_id: UUID) -> reading.WorkSheet:
    """Return the lines of a run's work sheet, to be keyed in."""
    return reading.work_sheet(shop, run_id)


@router.get(
    "/{run_id}/sheet.pdf",
    response_class=Response,
    responses={**_READ, **documented(429), **_content("application/pdf")},
)
def print_sheet(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the work sheet of exactly this run, to be filled in by pencil."""
    return _file(records.work_sheet(shop, run_id), "application/pdf", run_id, "pdf")


@router.get("/{run_id}/hand-over", responses=_READ)
def read_hand_over(shop: Shop, actor: Actor, run_id: UUID) -> HandOver:
    """Return the hand-over card of a run."""
    return reading.hand_over_card(shop, run_id)


@router.get(
    "/{run_id}/hand-over.pdf",
    response_class=Response,
    responses={**_READ, **documented(429), **_content("application/pdf")},
)
def print_hand_over(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the hand-over card on one sheet."""
    return _file(records.hand_over_card(shop, run_id), "application/pdf", run_id, "pdf")


@router.get("/{run_id}/record", responses=_READ)
def read_record(shop: Shop, actor: Actor, run_id: UUID) -> RunRecord:
    """Return the record of a run."""
    return reading.record(shop, run_id)


@router.get(
    "/{run_id}/record.pdf",
    response_class=Response,
    responses={**_READ, **documented(429), **_content("application/pdf")},
)
def read_pdf(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the record as PDF."""
    return _file(records.record_sheet(shop, run_id), "application/pdf", run_id, "pdf")


@router.get("/{run_id}/record.csv", response_class=Response, responses={**_READ, **_content("text/csv")})
def read_csv(shop: Shop, actor: Actor, run_id: UUID) -> Response:
    """Return the table of readings as CSV."""
    return _file(records.record_table(shop, run_id), "text/csv", run_id, "csv")


@router.get("/{run_id}/record.json", responses=_READ)
def read_json(shop: Shop, actor: Actor, run_id: UUID, response: Response) -> exports.ExportedRun:
    """Return the run as JSON that rebuilds it."""
    response.headers["Content-Disposition"] = f'attachment; filename="jorvek-{run_id}.json"'
    return exports.export_run(shop, run_id)


photo_router = APIRouter(prefix="/api/photos", tags=["runs"])


@photo_router.get("/{photo}.jpg", response_class=Response, responses={**_READ, **_content("image/jpeg")})
def read_photo(shop: Shop, actor: Actor, photo: Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]) -> Response:
    """Return a photograph; its name is its content, so that it never changes."""
    lasting = {"Cache-Control": "private, max-age=31536000, immutable", **_AS_IT_IS}
    return Response(shop.photos.read(photo), media_type="image/jpeg", headers=lasting)


live_router = APIRouter(prefix="/api", tags=["runs"])


@live_router.get(
    "/live",
    response_class=StreamingResponse,
    responses={**documented(401, 422, 503), **_content("text/event-stream")},
)
def listen(shop: Shop, actor: Actor, request: Request, jorvek_session: Token = None) -> StreamingResponse:
    """Stream which run has reached which event (server-sent events), for as long as one is signed in."""
    live = request.app.state.live
    assert isinstance(live, Live)
    stream = live.stream(token_hash(jorvek_session or ""))
    return StreamingResponse(stream, media_type="text/event-stream", headers={"X-Accel-Buffering": "no"})
