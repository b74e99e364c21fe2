"""The library of procedures: find, read, check, bring in, approve, withdraw, take away."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Path, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.work.library import archive, reading, revisions
from jorvek.work.library.checking import Difference, as_yaml, differences

router = APIRouter(prefix="/api/procedures", tags=["procedures"])
_READ = documented(401, 404, 422, 503)
_ACT = documented(401, 403, 404, 409, 413, 422, 503)

_ZIP = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}

_CHOICE = r"^[a-z0-9-]{1,60}:[a-z0-9-]{1,60}$"
Digest = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]


class Brought(BaseModel):
    """A document to bring in, as text."""

    document: Annotated[str, Field(min_length=1, max_length=1_000_000)]


class Taken(BaseModel):
    """The address of what was brought in."""

    hash: str


@router.get("", responses=documented(401, 422, 503))
def list_procedures(shop: Shop, actor: Actor) -> list[reading.ProcedureListed]:
    """Return the library."""
    return reading.listed(shop)


@router.post("", responses=_ACT)
def bring_in(shop: Shop, actor: Actor, brought: Brought) -> Taken:
    """Take in a document as a draft."""
    return Taken(hash=revisions.import_procedure(shop, actor, brought.document.encode("utf-8")))


@router.post("/archive", responses={**_ACT, **documented(429)}, openapi_extra=_ZIP)
async def bring_in_archive(shop: Shop, actor: Actor, request: Request) -> archive.Brought:
    """Take in every document of a zip as a draft, all or none."""
    raw = await request.body()
    return await run_in_threadpool(archive.import_archive, shop, actor, raw)


@router.get("/archive.zip", responses=documented(401, 503), response_class=Response)
def take_all_away(shop: Shop, actor: Actor) -> Response:
    """Return every revision of the library as one zip."""
    headers = {"Content-Disposition": 'attachment; filename="procedures.zip"'}
    return Response(archive.export_archive(shop), media_type="application/zip", headers=headers)


@router.get("/{digest}", responses=_READ)
def read_procedure(shop: Shop, actor: Actor, digest: Digest) -> reading.ProcedureRead:
    """Return one revision by its content address, read and checked."""
    return reading.read(shop, actor, digest)


@router.get("/{digest}/differences", responses=_READ)
def compare(
    shop: Shop, actor: Actor, digest: Digest, against: Annotated[str, Query(pattern=r"^[0-9a-f]{64}$")]
) -> list[Difference]:
    """Return where a revision differs from another, changed numbers first."""
    return differences(revisions.revision_of(shop, against).procedure, revisions.revision_of(shop, digest).procedure)


@router.get("/{digest}/document.yaml", responses=_READ, response_class=Response)
def take_away(shop: Shop, actor: Actor, digest: Digest) -> Response:
    """Return the document; it reads back to the same revision."""
    procedure = revisions.revision_of(shop, digest).procedure
    name = f"{procedure.id}-{procedure.revision}.yaml"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(as_yaml(procedure), media_type="application/yaml", headers=headers)


@router.get("/{digest}/worksheet.pdf", responses={**_READ, **documented(429)}, response_class=Response)
def print_sheet(
    shop: Shop,
    actor: Actor,
    digest: Digest,
    choose: Annotated[list[Annotated[str, Query(pattern=_CHOICE)]], Query(max_length=20)] = [],  # noqa: B006 — FastAPI copies it for each request
) -> Response:
    """Return the work sheet to be filled in by pencil; ``choose=option:choice`` for each option."""
    name, pdf = reading.work_sheet(shop, digest, dict(pair.split(":") for pair in choose))
    return Response(pdf, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})


@router.post("/{digest}/approve", status_code=204, responses=_ACT)
def approve(shop: Shop, actor: Actor, digest: Digest) -> None:
    """Approve a draft; from then on runs can start on it and nothing in it changes."""
    revisions.approve(shop, actor, digest)


@router.post("/{digest}/withdraw", status_code=204, responses=_ACT)
def withdraw(shop: Shop, actor: Actor, digest: Digest) -> None:
    """Withdraw a revision; no new run can start on it."""
    revisions.withdraw(shop, actor, digest)


format_router = APIRouter(prefix="/api/format", tags=["procedures"])


@format_router.get("/procedure.schema.json", response_model=dict[str, Any])
def procedure_schema() -> dict[str, Any]:
    """Return the JSON Schema of the procedure document."""
    return reading.schema_of_procedures()
