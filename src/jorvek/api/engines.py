"""Engines as a whole: their page, their overhaul, what stands in the way of the crank."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Body, Path, Query, Response
from pydantic import BaseModel, Field

from jorvek.api.problems import documented
from jorvek.api.session import Actor, Shop
from jorvek.core.overhaul.log.commands import OverhaulCommand
from jorvek.core.overhaul.views.log_lines import LogPage
from jorvek.core.sheet.document import EngineSheet
from jorvek.work.engine import overhauls, page, paper_sheets
from jorvek.work.library import engine_sheets
from jorvek.work.paper import dossiers
from jorvek.work.runs import follow_ups
from jorvek.work.upkeep import hours_and_due

router = APIRouter(prefix="/api", tags=["engines"])
_READ = documented(401, 404, 422, 503)
_WRITE = documented(400, 401, 403, 404, 409, 413, 422, 429, 503)

EngineId = Annotated[str, Path(max_length=60)]


class KeptPhoto(BaseModel):
    """A photograph that is kept, by the digest of its content."""

    photo: str


class PaperSheet(BaseModel):
    """The lines of a sheet of paper, in the order in which they are keyed in."""

    lines: Annotated[tuple[OverhaulCommand, ...], Field(min_length=1, max_length=60)]


class OverhaulEnvelope(BaseModel):
    """A command; the PIN again when it is signed, and that of whoever takes the engine over.

    Attributes:
        kept_s: how long it has waited on a tablet without a link; None for one that came at once.
    """

    command: OverhaulCommand
    pin: Annotated[str | None, Field(max_length=20)] = None
    other_pin: Annotated[str | None, Field(max_length=20)] = None
    kept_s: Annotated[float | None, Field(ge=0, le=365 * 86_400, allow_inf_nan=False)] = None


@router.get("/engines/{engine_id}", responses=_READ)
def read_engine(shop: Shop, actor: Actor, engine_id: EngineId) -> page.EnginePage:
    """Return the page of an engine."""
    return page.engine_page(shop, actor, engine_id)


@router.get("/engines/{engine_id}/crank/height", responses=_READ)
def read_angle(
    shop: Shop,
    actor: Actor,
    engine_id: EngineId,
    cylinder: Annotated[str, Query(min_length=1, max_length=8)],
    below_mm: Annotated[float, Query(ge=0, le=10_000, allow_inf_nan=False)],
    side: Literal["before", "after"] = "before",
) -> page.CrankAngle:
    """Return where the crank is with a piston so far below its top: "30 mm before the top" as an angle."""
    return page.angle_for(shop, engine_id, cylinder, below_mm, side)


class ReadHours(BaseModel):
    """Running hours as read, with their date."""

    hours: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
    on: date


class StartedRun(BaseModel):
    """The run that was started."""

    run_id: UUID


class FollowedUp(BaseModel):
    """What was found, and how."""

    words: Annotated[str, Field(min_length=1, max_length=1000, pattern=r"\S")]


@router.post("/engines/{engine_id}/hours", status_code=204, responses=_WRITE)
def read_hours(shop: Shop, actor: Actor, engine_id: EngineId, body: ReadHours) -> None:
    """Enter running hours as read."""
    hours_and_due.read_hours(shop, actor, engine_id, body.hours, body.on)


@router.post("/runs/{run_id}/follow-ups/{step}", status_code=204, responses=_WRITE)
def follow_up(
    shop: Shop, actor: Actor, run_id: UUID, step: Annotated[str, Path(max_length=80)], body: FollowedUp
) -> None:
    """Say that work which a run had asked for later was done."""
    hours_and_due.follow_up(shop, actor, run_id, step, body.words)


@router.post("/runs/{run_id}/follow-ups/{step}/run", status_code=201, responses=_WRITE)
def start_follow_up(
    shop: Shop, actor: Actor, run_id: UUID, step: Annotated[str, Path(max_length=80)], body: follow_ups.StartFollowUp
) -> StartedRun:
    """Start the work that a run had asked for later."""
    follow_ups.start_follow_up(shop, actor, run_id, step, body)
    return StartedRun(run_id=body.run_id)


@router.post("/overhauls", responses=_WRITE)
def open_overhaul(shop: Shop, actor: Actor, body: overhauls.OpenOverhaul) -> page.EnginePage:
    """Open an overhaul."""
    overhauls.open_overhaul(shop, actor, body)
    return page.engine_page(shop, actor, body.engine_id)


@router.post("/overhauls/{overhaul_id}/commands", responses=_WRITE)
def command_overhaul(shop: Shop, actor: Actor, overhaul_id: UUID, body: OverhaulEnvelope) -> page.EnginePage:
    """Carry out a command on an overhaul; the answer means that it is stored for good."""
    snapshot = overhauls.act(shop, actor, overhaul_id, body.command, body.pin, body.other_pin, body.kept_s)
    return page.engine_page(shop, actor, snapshot.state.opened.engine.id)


@router.post("/overhauls/{overhaul_id}/photos", status_code=201, responses=_WRITE)
def keep_sheet_photo(
    shop: Shop, actor: Actor, overhaul_id: UUID, content: Annotated[bytes, Body(media_type="image/jpeg")]
) -> KeptPhoto:
    """Keep the photograph of a sheet of paper; the file is the body, and the lines that stand on it name it."""
    return KeptPhoto(photo=paper_sheets.keep_photo(shop, actor, overhaul_id, content))


@router.post("/overhauls/{overhaul_id}/paper", responses=_WRITE)
def key_in_sheet(shop: Shop, actor: Actor, overhaul_id: UUID, body: PaperSheet) -> page.EnginePage:
    """Key in a sheet of paper as one act: all its lines, or none."""
    snapshot = paper_sheets.key_in(shop, actor, overhaul_id, body.lines)
    return page.engine_page(shop, actor, snapshot.state.opened.engine.id)


@router.get("/overhauls/{overhaul_id}/log", responses=_READ)
def read_log(
    shop: Shop,
    actor: Actor,
    overhaul_id: UUID,
    before: Annotated[int | None, Query(ge=1)] = None,
    from_paper: bool = False,
) -> LogPage:
    """Read the log of an overhaul, newest first, a page at a time."""
    return page.log_of(shop, overhaul_id, before, from_paper=from_paper)


def _file(content: bytes, kind: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Content-Encoding": "identity"}
    return Response(content, media_type=kind, headers=headers)


@router.get("/overhauls/{overhaul_id}/card.pdf", response_class=Response, responses={**_READ, **documented(429)})
def print_card(shop: Shop, actor: Actor, overhaul_id: UUID) -> Response:
    """Return the card of an engine for a hand-over as PDF."""
    return _file(dossiers.engine_card(shop, actor, overhaul_id), "application/pdf", f"jorvek-{overhaul_id}-card.pdf")


@router.get("/overhauls/{overhaul_id}/lists.pdf", response_class=Response, responses={**_READ, **documented(429)})
def print_lists(shop: Shop, actor: Actor, overhaul_id: UUID) -> Response:
    """Return the lists that are written on where there is no tablet, as PDF."""
    return _file(dossiers.engine_lists(shop, overhaul_id), "application/pdf", f"jorvek-{overhaul_id}-lists.pdf")


@router.get("/overhauls/{overhaul_id}/dossier", responses=_READ)
def read_printing(shop: Shop, actor: Actor, overhaul_id: UUID) -> dossiers.Printing:
    """Return how the printing of a dossier stands."""
    return dossiers.printing(shop, overhaul_id)


@router.post("/overhauls/{overhaul_id}/dossier", status_code=202, responses=_WRITE)
def print_dossier(shop: Shop, actor: Actor, overhaul_id: UUID) -> dossiers.Printing:
    """Begin to print a dossier, beside everything else."""
    return dossiers.print_dossier(shop, overhaul_id)


@router.get(
    "/overhauls/{overhaul_id}/dossier.pdf", response_class=Response, responses=documented(401, 404, 409, 422, 503)
)
def take_dossier(shop: Shop, actor: Actor, overhaul_id: UUID) -> Response:
    """Return a dossier that was printed."""
    return _file(dossiers.printed(shop, overhaul_id), "application/pdf", f"jorvek-{overhaul_id}-dossier.pdf")


@router.get("/overhauls/{overhaul_id}/archive.zip", response_class=Response, responses=_READ)
def take_archive(shop: Shop, actor: Actor, overhaul_id: UUID) -> Response:
    """Return an overhaul as one archive that reads back into an empty installation."""
    return _file(dossiers.export_overhaul(shop, overhaul_id), "application/zip", f"jorvek-{overhaul_id}.zip")


@router.get("/runs/{run_id}/engine", responses=_READ)
def read_glance(shop: Shop, actor: Actor, run_id: UUID) -> page.EngineGlance:
    """Return what is always in sight of the engine at a run."""
    return page.glance(shop, run_id)


@router.get("/runs/{run_id}/sweep", responses=_READ)
def read_sweep(shop: Shop, actor: Actor, run_id: UUID) -> page.Sweep:
    """Return what stands in the way of the crank for a run that asks."""
    return page.sweep_for(shop, run_id)


sheet_router = APIRouter(prefix="/api/sheets", tags=["engines"])
_ACT = documented(401, 403, 404, 409, 413, 422, 503)
Digest = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]


class BroughtSheet(BaseModel):
    """The document of an engine sheet, as text."""

    document: Annotated[str, Field(min_length=1, max_length=1_000_000)]


class TakenSheet(BaseModel):
    """The address of the sheet that was brought in."""

    hash: str


@sheet_router.get("", responses=_READ)
def list_sheets(shop: Shop, actor: Actor) -> list[engine_sheets.SheetListed]:
    """Return all revisions of engine sheets."""
    return engine_sheets.listed_sheets(shop, actor)


@sheet_router.post("", responses=_ACT)
def bring_in_sheet(shop: Shop, actor: Actor, brought: BroughtSheet) -> TakenSheet:
    """Take in an engine sheet as a draft."""
    return TakenSheet(hash=engine_sheets.import_sheet(shop, actor, brought.document.encode("utf-8")))


@sheet_router.get("/default/{engine_id}", responses=_READ)
def read_default_sheet(shop: Shop, actor: Actor, engine_id: EngineId) -> EngineSheet:
    """Return the default by layout of an engine."""
    return engine_sheets.default_for(shop, engine_id)


@sheet_router.get("/{digest}", responses=_READ)
def read_sheet(shop: Shop, actor: Actor, digest: Digest) -> EngineSheet:
    """Return one revision of an engine sheet."""
    return engine_sheets.sheet_read(shop, digest)


@sheet_router.post("/{digest}/approve", status_code=204, responses=_ACT)
def approve_sheet(shop: Shop, actor: Actor, digest: Digest) -> None:
    """Approve a draft; overhauls opened from then on go by it."""
    engine_sheets.approve_sheet(shop, actor, digest)


@sheet_router.post("/{digest}/withdraw", status_code=204, responses=_ACT)
def withdraw_sheet(shop: Shop, actor: Actor, digest: Digest) -> None:
    """Withdraw a revision; open overhauls go on by it."""
    engine_sheets.withdraw_sheet(shop, actor, digest)


sheet_format_router = APIRouter(prefix="/api/format", tags=["engines"])


@sheet_format_router.get("/engine-sheet.schema.json", response_model=dict[str, Any])
def sheet_schema() -> dict[str, Any]:
    """Return the JSON Schema of the engine sheet."""
    return engine_sheets.schema_of_sheets()
