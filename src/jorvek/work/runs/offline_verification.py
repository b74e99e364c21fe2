"""An exported run looked at far from its site: with the file and the site's public key, and nothing else."""

from __future__ import annotations

import json
from collections.abc import Iterator
from uuid import UUID

from pydantic import BaseModel, ConfigDict, JsonValue, ValidationError

from jorvek.core import CORE_VERSION
from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import define
from jorvek.core.run.log.fold import fold
from jorvek.core.run.views.record import record_of
from jorvek.core.site_log.entries import Inclusion, Root, SiteLogEntry
from jorvek.core.site_log.tree import includes, leaf_hash
from jorvek.store.eventlog import GENESIS, seal
from jorvek.store.site_key import signed
from jorvek.store.sitelog import HEAD


class _Line(BaseModel):
    model_config = ConfigDict(frozen=True, extra="ignore")

    body: str
    hash: str


class _Export(BaseModel):
    """What of an export is looked at: the procedure and the readable record are held against the sealed events."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    events: tuple[_Line, ...]
    procedure: str = ""
    record: dict[str, JsonValue] = {}
    site: Inclusion | None = None


def faults_of_record(text: str, public_key: str) -> Iterator[str]:
    """Yield what speaks against an exported run; nothing means that the site has vouched for all of it.

    Args:
        text: the export.
        public_key: the site's, in hex, from somebody who knows it; the one in the file proves nothing.

    Raises:
        Refusal: ``E_DATA`` when it is no export.
    """
    try:
        export = _Export.model_validate_json(text)
        run_id = str(json.loads(export.events[0].body)["run_id"])
    except (ValidationError, ValueError, KeyError, TypeError, IndexError) as error:
        raise Refusal("E_DATA", name="run export") from error
    hashes: list[str] = []
    previous = GENESIS
    for seq, line in enumerate(export.events, start=1):
        if seal(previous, line.body) != line.hash:
            yield f"event {seq}: its text, or one before it, was changed"
            return
        previous = line.hash
        hashes.append(previous)
    yield from _faults_of_words(export, run_id)
    if export.site is None:
        yield "the site has not vouched for it: it was exported before it was in the site log"
        return
    yield from _faults_of_inclusion(export.site, public_key, run_id, hashes)


def _faults_of_words(export: _Export, run_id: str) -> Iterator[str]:
    """Derive the readable part from the events, which the seal covers, and compare."""
    try:
        events = [ev.Event.model_validate_json(line.body) for line in export.events]
        procedure, started = Procedure.from_body(export.procedure), events[0].data
        if not isinstance(started, ev.RunStarted):
            raise ValueError("no start")
        state = fold(define(procedure, started.selection or None, started.again), events)
    except (Refusal, ValueError, KeyError, TypeError):
        yield "the procedure beside the events is not the one that they were done by"
        return
    version = export.record.get("core_version")
    if version != CORE_VERSION:
        yield f"its readable part was made by core {version}, and this is {CORE_VERSION}: nobody can compare it here"
        return
    derived = record_of(UUID(run_id), state, export.events[-1].hash).model_dump(mode="json")
    for name in sorted({*derived, *export.record} - {"brought_in"}):
        if derived.get(name) != export.record.get(name):
            yield f"its readable part says something else than the events: {name}"


def _faults_of_inclusion(site: Inclusion, public_key: str, run_id: str, hashes: list[str]) -> Iterator[str]:
    try:
        entry, root = SiteLogEntry.model_validate_json(site.entry), Root.model_validate_json(site.root)
    except ValidationError:
        yield "what the site says of it cannot be read"
        return
    if not signed(public_key, site.root, site.signature):
        yield "the seal was not signed with that key"
    proof = [bytes.fromhex(part) for part in site.proof]
    if not includes(bytes.fromhex(root.root), root.size, leaf_hash(site.entry), site.index, proof):
        yield "the seal does not stand for it"
    if (entry.kind, entry.key) != (HEAD.format("run"), run_id):
        yield "the site speaks of another run"
    elif entry.seq != len(hashes) or entry.digest != hashes[-1]:
        yield "the site has vouched for another state of this run"
