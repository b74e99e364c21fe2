"""An exported run looked at far from its site: with the file and the site's public key, and nothing else."""

from __future__ import annotations

import json
from collections.abc import Iterator

from pydantic import BaseModel, ConfigDict, ValidationError

from jorvek.core.refusal import Refusal
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
    """What of an export is looked at; the readable record beside it is not, and says nothing by itself."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    events: tuple[_Line, ...]
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
    if export.site is None:
        yield "the site has not vouched for it: it was exported before it was in the site log"
        return
    yield from _faults_of_inclusion(export.site, public_key, run_id, hashes)


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
