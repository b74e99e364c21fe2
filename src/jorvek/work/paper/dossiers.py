"""What leaves an overhaul: the card for a hand-over, the dossier, and one archive that reads back."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Final, Literal
from uuid import UUID, uuid5
from zipfile import ZIP_DEFLATED, ZipFile

from pydantic import ValidationError

from jorvek.core.canonical import sha256_hex
from jorvek.core.engine.layout import Engine, joints_of
from jorvek.core.overhaul.log.events import OverhaulEvent
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.views.dossier import Dossier, dossier
from jorvek.core.overhaul.views.log_lines import entry_of
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.labels import View
from jorvek.core.run.views.record import record_of
from jorvek.core.sheet.document import EngineSheet
from jorvek.documents.zipped import Most, members
from jorvek.messages import clock_zone, speaking
from jorvek.reports.engine_papers import dossier_pdf, engine_card_pdf, engine_lists_pdf
from jorvek.reports.table import write_csv
from jorvek.store.database import Database
from jorvek.store.eventlog import Brought
from jorvek.work.budget import PAPER
from jorvek.work.engine.overhauls import engine_now, sheet_for
from jorvek.work.engine.page import view_of
from jorvek.work.helpers import PRINTING, helper
from jorvek.work.runs.exports import export_run, import_run
from jorvek.work.sealing import site_seal
from jorvek.work.workshop import Workshop

FORMAT: Final = "jorvek-overhaul/1"
_HEAD: Final = "overhaul.json"


def dossier_of(workshop: Workshop, overhaul_id: UUID, told: Callable[[int, int], None] = lambda _, __: None) -> Dossier:
    """Return the dossier of an overhaul.

    Args:
        workshop: the workshop.
        overhaul_id: the overhaul.
        told: is told how many runs were read, of how many.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    now = engine_now(workshop, snapshot.state)
    records = {}
    for count, run in enumerate(now.runs):
        told(count, len(now.runs))
        there = workshop.log.snapshot(run.run_id)
        records[run.run_id] = record_of(run.run_id, there.state, there.head_hash)
    hours = hours_run(workshop, now.overhaul)
    return dossier(now.overhaul, snapshot.head_hash, now.sheet, now.runs, records, hours, workshop.today())


def hours_run(workshop: Workshop, overhaul: Overhaul) -> dict[str, float]:
    """Return the running hours of each joint since it was put together last before an overhaul; since new where never.

    Hours are those read last before a joint was closed up; a joint that was closed up before anybody read any is left
    out.
    """
    engine, opened_at, hours = overhaul.opened.engine, overhaul.opened_at, overhaul.opened.hours
    if hours is None:
        return {}
    read = workshop.upkeep.hours(engine.id)
    found = {place.key: hours for place in joints_of(engine, sheet_for(workshop, engine, overhaul.opened.sheet).joints)}
    for row in sorted(workshop.registers.runs(engine.id), key=lambda row: row.started_at):
        if row.open or row.started_at >= opened_at:
            continue
        state = workshop.log.snapshot(row.id).state
        whole = state.definition.procedure.applies_to.purpose == "tighten" and state.started.again is None
        if not whole or state.closed_at is None or state.closed_at >= opened_at:
            continue
        then = next((h.hours for h in reversed(read) if h.at <= state.closed_at), None)
        found.pop(row.joint_key, None)
        if then is not None:
            found[row.joint_key] = hours - then
    return found


class Printing(View):
    """How the printing of a dossier stands.

    Attributes:
        state: not asked for as the overhaul stands now; under way; ready to be taken; gone wrong.
        done: runs that were read, of ``of``.
        before: so many others are printed first; 0 once it is its turn.
    """

    state: Literal["none", "under_way", "ready", "failed"]
    done: int
    of: int
    before: int = 0


def _names(overhaul_id: UUID, seal: str) -> tuple[str, str]:
    spoken = "" if speaking.get() == "en" else f"-{speaking.get()}"
    stem = f"dossier/{overhaul_id}/{seal[:16]}{spoken}"
    return f"{stem}.pdf", f"{stem}.json"


def printing(workshop: Workshop, overhaul_id: UUID) -> Printing:
    """Return how the printing of an overhaul's dossier stands.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    pdf, progress = _names(overhaul_id, _seal_of(workshop, overhaul_id))
    if workshop.files.has(pdf):
        return Printing(state="ready", done=1, of=1)
    try:
        stands = Printing.model_validate_json(workshop.files.read(progress) or b"")
        return stands.model_copy(update={"before": PRINTING.before(uuid5(overhaul_id, pdf))})
    except ValidationError:
        return Printing(state="none", done=0, of=0)


def _seal_of(workshop: Workshop, overhaul_id: UUID) -> str:
    """Return what the dossier rests on: the newest event of the overhaul and of each of its runs."""
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    rows = workshop.registers.runs(snapshot.state.opened.engine.id)
    return sha256_hex(snapshot.head_hash, *(row.head_hash for row in rows))


def print_dossier(workshop: Workshop, overhaul_id: UUID) -> Printing:
    """Begin to print a dossier in a process of its own, so that no reading waits for it.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    stands = printing(workshop, overhaul_id)
    if stands.state in ("under_way", "ready"):
        return stands
    pdf, progress = _names(overhaul_id, _seal_of(workshop, overhaul_id))
    current = _seal_of(workshop, overhaul_id)[:16]
    for older in workshop.files.names(f"dossier/{overhaul_id}/"):
        if current not in older:
            workshop.files.drop(older)
    begun = Printing(state="under_way", done=0, of=1)
    workshop.files.keep(progress, begun.model_dump_json().encode())
    url = workshop.database.url
    files = (str(workshop.photo_dir), str(overhaul_id), pdf, progress)
    rest = (workshop.site_zone, workshop.base_url, *files, site_seal(workshop), speaking.get())

    def ended(code: int | None) -> None:
        # Killed in the middle, it cannot say so itself.
        if code != 0:
            workshop.files.keep(progress, Printing(state="failed", done=0, of=1).model_dump_json().encode())

    # Each language is printed by itself.
    PRINTING.put(uuid5(overhaul_id, pdf), helper(_print, url, *rest), ended=ended)
    return begun


def _print(
    url: str,
    zone: str,
    base_url: str,
    photo_dir: str,
    overhaul_id: str,
    pdf: str,
    progress: str,
    seal: str,
    language: str,
) -> None:
    """Run in the other process: read the runs, draw the pages, put the file there whole."""
    speaking.set(language)
    clock_zone.set(zone)
    shop = Workshop(Database(url), site_zone=zone, base_url=base_url, photo_dir=Path(photo_dir))

    def told(done: int, of: int, state: Literal["under_way", "failed"] = "under_way") -> None:
        shop.files.keep(progress, Printing(state=state, done=done, of=of).model_dump_json().encode())

    try:
        made = dossier_pdf(dossier_of(shop, UUID(overhaul_id), told), base_url, zone, seal)
    except Exception:
        told(0, 1, "failed")
        raise
    shop.files.keep(pdf, made)


def printed(workshop: Workshop, overhaul_id: UUID) -> bytes:
    """Return a dossier that was printed.

    Raises:
        Refusal: ``no_such_overhaul``; ``not_printed`` while it is not there.
    """
    pdf, _ = _names(overhaul_id, _seal_of(workshop, overhaul_id))
    made = workshop.files.read(pdf)
    if made is None:
        raise Refusal("not_printed")
    return made


@PAPER
def engine_card(workshop: Workshop, actor: Person, overhaul_id: UUID) -> bytes:
    """Return the card of an engine as PDF, with what has changed since whoever asks had a hand in it last.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    state = workshop.overhauls.snapshot(overhaul_id).state
    engine = state.opened.engine
    changed = [entry_of(line) for line in state.lines if line.seq > _last_of(state, actor)]
    now: datetime = workshop.clock()
    return engine_card_pdf(engine, view_of(workshop, engine, state), changed[-40:], workshop.site_zone, now)


@PAPER
def engine_lists(workshop: Workshop, overhaul_id: UUID) -> bytes:
    """Return the lists that are written on where there is no tablet, as PDF.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    state = workshop.overhauls.snapshot(overhaul_id).state
    engine = state.opened.engine
    return engine_lists_pdf(engine, view_of(workshop, engine, state), workshop.site_zone, workshop.clock())


def _last_of(state: Overhaul, actor: Person) -> int:
    return max((line.seq for line in state.lines if line.by.id == actor.id), default=0)


def export_overhaul(workshop: Workshop, overhaul_id: UUID) -> bytes:
    """Return an overhaul as one archive: its log, every run with its table and its pictures, sheet and seals.

    Raises:
        Refusal: ``no_such_overhaul``.
    """
    snapshot = workshop.overhauls.snapshot(overhaul_id)
    now = engine_now(workshop, snapshot.state)
    out, seals, photos = io.BytesIO(), {"overhaul": snapshot.head_hash}, set(snapshot.state.photo_names)
    with ZipFile(out, "w", ZIP_DEFLATED) as archive:
        for run in reversed(now.runs):
            there = workshop.log.snapshot(run.run_id)
            seals[str(run.run_id)] = there.head_hash
            archive.writestr(f"runs/{run.run_id}.json", export_run(workshop, run.run_id).model_dump_json())
            record = record_of(run.run_id, there.state, there.head_hash)
            archive.writestr(f"tables/{run.run_id}.csv", write_csv(record))
            photos |= there.state.photo_names
        for name in sorted(photos):
            archive.writestr(f"photos/{name}.jpg", workshop.photos.read(name))
        head = {
            "format": FORMAT,
            "overhaul_id": str(overhaul_id),
            "sheet": now.sheet.canonical() if snapshot.state.opened.sheet else None,
            "events": [{"body": s.body, "hash": s.hash} for s in workshop.overhauls.stored(overhaul_id)],
            "seals": seals,
        }
        archive.writestr(_HEAD, json.dumps(head))
    return out.getvalue()


_MOST: Final = Most(files=20_000, each=50_000_000, together=1_000_000_000)
"""An overhaul of hundreds of runs, each with its pictures."""


def _is_read(name: str) -> bool:
    return name == _HEAD or name.startswith(("runs/", "photos/"))


def import_overhaul(workshop: Workshop, actor: Person, raw: bytes) -> UUID:
    """Read an archive back into an installation that has none of it; hash for hash as it was.

    Raises:
        Refusal: ``not_your_right``; ``E_DATA`` when it is no such archive; ``archive_not_whole`` where a run that it
            names is missing or is another one; ``log_broken``; ``id_reused`` when it is here already. Nothing is
            stored then.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    try:
        files = dict(members(raw, _is_read, _MOST))
        head = json.loads(files[_HEAD])
        runs = {name[len("runs/") : -len(".json")]: text for name, text in files.items() if name.startswith("runs/")}
        photos = [picture for name, picture in files.items() if name.startswith("photos/")]
        if head["format"] != FORMAT:
            raise KeyError("format")
        lines = [(str(e["body"]), str(e["hash"])) for e in head["events"]]
        first = OverhaulEvent.model_validate_json(lines[0][0])
        seals = {str(name): str(digest) for name, digest in head["seals"].items()}
        sheet = None if head["sheet"] is None else EngineSheet.model_validate_json(head["sheet"])
    except (ValueError, KeyError, TypeError, IndexError, AttributeError) as error:
        raise Refusal("E_DATA", name="overhaul archive") from error
    missing = sorted({*seals} - {"overhaul"} ^ set(runs))
    if missing or seals.get("overhaul") != lines[-1][1]:
        raise Refusal("archive_not_whole", what=", ".join(missing) or "overhaul")

    def whole(_: object) -> UUID:
        _bring_engine(workshop, first)
        if sheet is not None:
            _bring_sheet(workshop, actor, sheet)
        for picture in photos:
            workshop.photos.keep(picture)
        for name, text in runs.items():
            snapshot = import_run(workshop, actor, text.decode(errors="replace"))
            if snapshot.head_hash != seals[name]:
                raise Refusal("archive_not_whole", what=name)
            _demand_photos(workshop, snapshot.state.photo_names)
        workshop.overhauls.restore(lines, Brought(actor.id, workshop.clock()))
        _demand_photos(workshop, workshop.overhauls.snapshot(first.overhaul_id).state.photo_names)
        return first.overhaul_id

    return workshop.database.transact(whole)


def _demand_photos(workshop: Workshop, names: frozenset[str]) -> None:
    """Refuse an archive of which a log names photographs that it does not bring."""
    for photo in names:
        try:
            workshop.photos.read(photo)
        except Refusal as refusal:
            raise Refusal("archive_not_whole", what=photo[:12]) from refusal


def _bring_engine(workshop: Workshop, first: OverhaulEvent) -> None:
    engine: Engine | None = getattr(first.data, "engine", None)
    if engine is not None and engine.id not in {e.id for e in workshop.registers.engines()}:
        workshop.registers.add_engine(engine, workshop.clock())


def _bring_sheet(workshop: Workshop, actor: Person, sheet: EngineSheet) -> None:
    if sheet.content_hash() not in {row.hash for row in workshop.sheets.rows()}:
        workshop.sheets.add(sheet, actor.id, workshop.clock())
