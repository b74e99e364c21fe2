"""A run as JSON that rebuilds it, hash for hash, in an empty database."""

from __future__ import annotations

import json
from typing import Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, ValidationError

from jorvek.core.engine.layout import Engine
from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.record import RunRecord, record_of
from jorvek.core.site_log.entries import Inclusion
from jorvek.store.eventlog import Brought
from jorvek.store.runlog import Snapshot
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop


class ExportedEvent(BaseModel):
    """One event, byte for byte, with its hash."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    body: str
    hash: str


class ExportedRun(BaseModel):
    """A whole run: enough to rebuild it, a readable record beside it, and what the site vouches for.

    Attributes:
        site: shows offline that the newest event is in the site log; None where there is none.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["jorvek-run/1"] = "jorvek-run/1"
    procedure: str
    events: tuple[ExportedEvent, ...]
    record: RunRecord
    site: Inclusion | None = None


def export_run(workshop: Workshop, run_id: UUID) -> ExportedRun:
    """Return a run for export.

    Raises:
        Refusal: ``no_such_run``.
    """
    snapshot = workshop.log.snapshot(run_id)
    return ExportedRun(
        procedure=snapshot.state.definition.procedure.canonical(),
        events=tuple(ExportedEvent(body=s.body, hash=s.hash) for s in workshop.log.stored(run_id)),
        record=record_of(run_id, snapshot.state, snapshot.head_hash),
        site=_inclusion(workshop, run_id, snapshot.state.seq),
    )


def _inclusion(workshop: Workshop, run_id: UUID, seq: int) -> Inclusion | None:
    if workshop.site_log is None or sealed(workshop) is None:
        return None
    try:
        return workshop.site_log.inclusion("run", str(run_id), seq)
    except Refusal:
        # Somebody has gone on with it this very moment.
        return None


def import_run(workshop: Workshop, actor: Person, text: str) -> Snapshot:
    """Rebuild an exported run; procedure and engine come along when they are not here yet.

    Its record says that it comes from elsewhere: nothing in it was signed here. It comes in whole, or not at all.

    Raises:
        Refusal: ``not_your_right``; ``E_DATA`` when it is no export; ``log_broken``;
            ``id_reused`` when the run is here already.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    try:
        raw = json.loads(text)
        procedure = Procedure.from_body(raw["procedure"])
        lines = [(str(e["body"]), str(e["hash"])) for e in raw["events"]]
        engine = Engine.model_validate(json.loads(lines[0][0])["data"]["engine"])
    except (ValueError, KeyError, TypeError, IndexError, ValidationError) as error:
        raise Refusal("E_DATA", name="run export") from error

    def whole(_: object) -> Snapshot:
        _bring_procedure(workshop, actor, procedure)
        if engine.id not in {e.id for e in workshop.registers.engines()}:
            workshop.registers.add_engine(engine, workshop.clock())
        return workshop.log.restore(lines, Brought(actor.id, workshop.clock()))

    return workshop.database.transact(whole)


def _bring_procedure(workshop: Workshop, actor: Person, procedure: Procedure) -> None:
    if workshop.registers.revision(procedure.content_hash()) is None:
        workshop.registers.add_revision(procedure, actor.id, workshop.clock())
