"""A sheet that was written where there was no tablet: one act, one photograph, all its lines or none."""

from __future__ import annotations

import io
from datetime import timedelta
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4
from zipfile import ZipFile

import pytest
from pydantic import TypeAdapter

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.refusal import Refusal
from jorvek.local.backup import back_up, photos_missing, restore
from jorvek.local.demo import actor
from jorvek.local.drawn import drawn_photo
from jorvek.local.mariadb import Server
from jorvek.store.verify import verify
from jorvek.work.engine import overhauls, paper_sheets
from jorvek.work.engine.page import log_of
from jorvek.work.paper import dossiers
from jorvek.work.people.accounts import add_person
from tests.conftest import World, new_database, new_workshop
from tests.store.test_engine_as_a_whole import no, opened, overhaul_of


def line(world: World, minutes_ago: float, photo: str | None = None, **said: Any) -> oc.OverhaulCommand:
    """A line that Bram wrote."""
    at = world.clock.now - timedelta(minutes=minutes_ago)
    paper = {"by": actor(world.workshop, "Bram Okafor").id, "at": at, "photo": photo}
    parsed: oc.OverhaulCommand = TypeAdapter(oc.OverhaulCommand).validate_python(
        {"id": uuid4(), "paper": paper, **said}
    )
    return parsed


def keyed(world: World, *lines: oc.OverhaulCommand) -> Any:
    overhaul = overhaul_of(world).overhaul_id
    return paper_sheets.key_in(world.workshop, actor(world.workshop, "Ines Halloran"), overhaul, lines).state


def on_a_morning(world: World) -> UUID:
    overhaul = opened(world)
    world.clock.forward(4 * 3600)
    return overhaul


def photographed(world: World, overhaul: UUID) -> str:
    return paper_sheets.keep_photo(world.workshop, actor(world.workshop, "Ines Halloran"), overhaul, drawn_photo(7))


def test_a_sheet_goes_in_whole_with_its_photograph_on_every_line(world: World) -> None:
    photo = photographed(world, on_a_morning(world))
    hung = line(world, 50, photo, kind="hang_lock", lock="14")
    sheet = (
        line(world, 60, photo, kind="isolate", point="turning_gear", lock="14"),
        hung,
        line(world, 30, photo, kind="take_lock_off", entry=hung.id, words="Home for lunch"),
    )
    state = keyed(world, *sheet)
    assert [one.data.kind for one in state.lines[-3:]] == ["isolated", "lock_hung", "lock_off"]
    assert state.photo_names == {photo}
    assert not state.locks, "hung and taken off on the same sheet"
    shown = log_of(world.workshop, state.overhaul_id, None, from_paper=True).lines
    assert [one.photo for one in shown] == [photo] * 3
    assert keyed(world, *sheet).seq == state.seq, "sent again it changes nothing"
    assert verify(world.workshop.database).alterations == ()


def test_one_line_that_is_refused_takes_none_of_the_sheet_and_says_which_it_was(world: World) -> None:
    on_a_morning(world)
    before = overhaul_of(world)
    sheet = (
        line(world, 60, kind="isolate", point="fuel"),
        line(world, 50, kind="find_crank", angle_deg=40.0, proof="Mark and cam"),
        line(world, -600, kind="isolate", point="coolant"),
    )
    with pytest.raises(Refusal) as refused:
        keyed(world, *sheet)
    assert refused.value.params["line"] == 3
    assert overhaul_of(world) == before
    state = keyed(world, *sheet[:2])
    assert [one.data.kind for one in state.lines[-2:]] == ["isolated", "crank_found"]
    # What goes on here afterwards begins with what is stored, not with what was taken back.
    assert overhaul_of(world).seq == before.seq + 2


def test_a_sheet_holds_what_was_written_and_a_photograph_that_is_there(world: World) -> None:
    overhaul = on_a_morning(world)
    said = TypeAdapter(oc.OverhaulCommand).validate_python({"kind": "remark", "id": uuid4(), "words": "Oil warm"})
    assert no(keyed, world, said) == "not_of_a_sheet"
    here_and_now = TypeAdapter(oc.OverhaulCommand).validate_python({"kind": "hang_lock", "id": uuid4(), "lock": "14"})
    assert no(keyed, world, here_and_now) == "not_of_a_sheet"
    assert no(keyed, world, line(world, 60, "a" * 64, kind="hang_lock", lock="14")) == "no_such_photo"
    ines, tam = (actor(world.workshop, name) for name in ("Ines Halloran", "Tam Pereira"))
    assert no(paper_sheets.keep_photo, world.workshop, ines, overhaul, b"no picture") == "no_photo"
    assert no(paper_sheets.keep_photo, world.workshop, ines, uuid4(), drawn_photo(7)) == "no_such_overhaul"
    assert paper_sheets.keep_photo(world.workshop, tam, overhaul, drawn_photo(7)), "a trainee may read a sheet in"


def test_the_photograph_is_in_the_archive_and_in_the_backup_and_a_lost_one_is_named(
    world: World, server: Server, tmp_path: Path
) -> None:
    overhaul = on_a_morning(world)
    photo = photographed(world, overhaul)
    keyed(world, line(world, 60, photo, kind="hang_lock", lock="14"))
    raw = dossiers.export_overhaul(world.workshop, overhaul)
    assert f"photos/{photo}.jpg" in ZipFile(io.BytesIO(raw)).namelist()
    empty = new_workshop(new_database(server))
    add_person(empty, "Ines Halloran", actor(world.workshop, "Ines Halloran").role, "340160")
    without = io.BytesIO()
    with ZipFile(io.BytesIO(raw)) as old, ZipFile(without, "w") as new:
        for one in old.namelist():
            if not one.startswith("photos/"):
                new.writestr(one, old.read(one))
    ines = actor(empty, "Ines Halloran")
    assert no(dossiers.import_overhaul, empty, ines, without.getvalue()) == "archive_not_whole"
    assert overhauls.open_on(empty, "unit-2") is None
    dossiers.import_overhaul(empty, ines, raw)
    assert empty.photos.read(photo)

    file = tmp_path / "monday.zip"
    back_up(world.workshop, file)
    other = new_workshop(new_database(server))
    kept, found = restore(other, file, tmp_path / "dumps", over=True)
    assert (kept.photos_missing, found.alterations) == ((), ())
    other.files.keep(f"photo/{photo}", b"another picture")
    assert list(photos_missing(other)) == [photo]
