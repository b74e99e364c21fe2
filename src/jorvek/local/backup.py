"""Backup while people work, and restore into an empty place: tables and photographs in one archive."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from errno import EDQUOT, ENOSPC
from functools import partial
from pathlib import Path
from typing import Final
from uuid import UUID
from zipfile import ZIP_DEFLATED, ZIP_STORED, BadZipFile, ZipFile

from jorvek.core.refusal import Refusal
from jorvek.store.archive import read_tables, write_tables
from jorvek.store.database import Database
from jorvek.store.files import Files
from jorvek.store.photos import PhotoStore
from jorvek.store.verify import Verification, verify
from jorvek.work.workshop import Workshop

_PHOTOS: Final = "photos/"


@dataclass(frozen=True)
class Kept:
    """What a backup holds, or a restore brought back.

    Attributes:
        was_there: holds what it took the place of.
        unsealed: it had no site log: nobody vouches for what is in it, and it was taken in as it stands.
    """

    rows: int
    photos: int
    photos_missing: tuple[str, ...] = ()
    was_there: Path | None = None
    unsealed: bool = False


def back_up(workshop: Workshop, file: Path) -> Kept:
    """Write everything into one archive, as it stood at one moment.

    Photographs are written before the event that names them, so every one that the tables name is there.

    Raises:
        Refusal: ``file_exists``, ``no_room_for_file``.
    """
    if file.exists():
        raise Refusal("file_exists", file=str(file))
    part = file.with_name(f"{file.name}.part")
    # It holds what PINs were made into: nobody else on this machine reads it.
    part.unlink(missing_ok=True)
    part.touch(mode=0o600)
    with _whole_or_not(part), ZipFile(part, "w", ZIP_DEFLATED) as archive:
        rows = write_tables(workshop.database, archive, workshop.clock())
        names = workshop.photos.names()
        for name in names:
            archive.writestr(f"{_PHOTOS}{name}.jpg", workshop.photos.as_it_lies(name), ZIP_STORED)
    part.replace(file)
    return Kept(sum(rows.values()), len(names))


@contextmanager
def _whole_or_not(part: Path) -> Iterator[None]:
    """Leave no half a file behind; that its disk is full is said so."""
    try:
        yield
    except OSError as error:
        part.unlink(missing_ok=True)
        if error.errno in (ENOSPC, EDQUOT):
            raise Refusal("no_room_for_file", file=str(part.parent)) from error
        raise


def restore(workshop: Workshop, file: Path, dumps: Path, *, over: bool) -> tuple[Kept, Verification]:
    """Bring an archive back, and look every hash through afterwards.

    What is there is written away first, and stands until everything is ready to take its place.

    Args:
        workshop: where to.
        file: the archive.
        dumps: directory for what was there before.
        over: whether what is there may be replaced.

    Raises:
        Refusal: ``no_backup``, ``backup_too_new``, ``not_empty``, ``no_room_beside``, ``replaced_elsewhere``.
    """
    was_there = None
    try:
        with ZipFile(file) as archive:
            if archive.testzip() is not None:
                raise Refusal("no_backup", why="it is damaged")
            if over and workshop.database.in_use():
                dumps.mkdir(parents=True, exist_ok=True, mode=0o700)
                was_there = dumps / f"before-restore-{workshop.clock():%Y%m%dT%H%M%S%f}.zip"
                back_up(workshop, was_there)
            photos = [name for name in archive.namelist() if name.startswith(_PHOTOS)]

            def bring_photos(ready: Database) -> None:
                beside = PhotoStore(Files(ready), workshop.photo_dir)
                for name in photos:
                    beside.keep(archive.read(name))

            rows = read_tables(workshop.database, archive, bring_photos, over=over)
    except BadZipFile as error:
        raise Refusal("no_backup", why="it is no archive") from error
    except Refusal:
        # Nothing has taken its place: what was written away of it is of no use.
        if was_there is not None:
            was_there.unlink(missing_ok=True)
        raise
    unsealed = _go_on_with_own_key(workshop, file)
    kept = Kept(sum(rows.values()), len(photos), tuple(photos_missing(workshop)), was_there, unsealed)
    return kept, verify(workshop.database, workshop.site_key)


def _go_on_with_own_key(workshop: Workshop, file: Path) -> bool:
    """Say in the site log that it was brought back, and by whose key it goes on; return that it had no site log."""
    if workshop.site_log is None:
        return False
    unsealed = workshop.site_log.newest() is None
    words = f"brought back from {file.name}"
    workshop.site_log.begin_key(workshop.clock(), f"{words}, which had no site log" if unsealed else words)
    workshop.site_log.take_in(workshop.clock())
    return unsealed


def photos_missing(workshop: Workshop) -> Iterator[str]:
    """Yield the photographs that runs and sheets of paper name and that are not there, or not what they were.

    A log that cannot be read hides the photographs of no other.
    """
    runs, overhauls = workshop.registers.runs(), workshop.overhauls.rows()
    named = (
        *((f"run {row.id}", partial(_named_by_run, workshop, row.id)) for row in runs),
        *((f"overhaul {row.id}", partial(_named_by_overhaul, workshop, row.id)) for row in overhauls),
    )
    for log, names_of in named:
        try:
            names = sorted(names_of())
        except (Refusal, ValueError, KeyError, TypeError):
            yield f"of {log}: its log cannot be read"
            continue
        for photo in names:
            try:
                workshop.photos.read(photo)
            except Refusal:
                yield photo


def _named_by_run(workshop: Workshop, run_id: UUID) -> frozenset[str]:
    return workshop.log.snapshot(run_id).state.photo_names


def _named_by_overhaul(workshop: Workshop, overhaul_id: UUID) -> frozenset[str]:
    return workshop.overhauls.snapshot(overhaul_id).state.photo_names


def dump_before_migration(database: Database, data: Path, now: datetime) -> Path | None:
    """Write the tables away before they are changed; None when there is nothing to change."""
    old = database.behind()
    if old is None:
        return None
    file = data / "dumps" / f"before-migration-from-{old}-{now:%Y%m%dT%H%M%S}.zip"
    file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    file.touch(mode=0o600)
    with _whole_or_not(file), ZipFile(file, "w", ZIP_DEFLATED) as archive:
        write_tables(database, archive, now)
    return file
