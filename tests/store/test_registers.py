"""The registers: what is put on them once stays as it is, and what is refused leaves no trace."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

import pytest
import sqlalchemy as sa

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.drawn import drawn_photo
from jorvek.settings import ROOT
from jorvek.store.files import Files
from jorvek.store.photos import PhotoStore
from jorvek.store.tables import metadata
from jorvek.work.library import revisions
from jorvek.work.library.archive import MAX_DOCUMENTS, import_archive
from jorvek.work.people.accounts import add_person
from jorvek.work.runs import acts, photos
from jorvek.work.workshop import Workshop
from tests.conftest import World

ENGINE = (ROOT / "world" / "engines" / "unit-2.yaml").read_bytes()
TOOL = next((ROOT / "world" / "tools").glob("*.yaml")).read_bytes()
NOWHERE = "0" * 64


def rows(world: World) -> dict[str, int]:
    with world.workshop.database.reading() as connection:
        return {
            name: connection.execute(sa.select(sa.func.count()).select_from(table)).scalar_one()
            for name, table in metadata.tables.items()
        }


def start(shop: Workshop, engine: str = "unit-2", joint: str = "head-4", digest: str = NOWHERE) -> object:
    command = acts.StartRun(id=uuid4(), run_id=uuid4(), engine_id=engine, joint_key=joint, procedure_hash=digest)
    return acts.start_run(shop, actor(shop, "Bram Okafor"), command)


def too_many() -> bytes:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for k in range(MAX_DOCUMENTS + 1):
            archive.writestr(f"{k}.yaml", "id: x")
    return packed.getvalue()


REFUSED: list[tuple[str, Callable[[Workshop], object], str]] = [
    ("a name that is on the register", lambda s: add_person(s, "Bram Okafor", Role.CHIEF, DEMO_PIN), "name_taken"),
    ("a name in other letters", lambda s: add_person(s, "bram OKAFOR", Role.CHIEF, DEMO_PIN), "name_taken"),
    ("a name of blanks", lambda s: add_person(s, "  ", Role.MECHANIC, DEMO_PIN), "name_form"),
    ("a name with a line in it", lambda s: add_person(s, "Bram\nOkafor", Role.MECHANIC, DEMO_PIN), "name_form"),
    ("a name that turns about", lambda s: add_person(s, "Bram\u202eOkafor", Role.MECHANIC, DEMO_PIN), "name_form"),
    ("a PIN of five", lambda s: add_person(s, "Odd Person", Role.MECHANIC, "12345"), "pin_form"),
    ("a PIN of other digits", lambda s: add_person(s, "Odd Person", Role.MECHANIC, "１２３４５６"), "pin_form"),
    ("a PIN that anybody guesses", lambda s: add_person(s, "Odd Person", Role.MECHANIC, "123456"), "pin_trivial"),
    ("a name in two scripts", lambda s: add_person(s, "Br\u0430m Odd", Role.MECHANIC, DEMO_PIN), "name_form"),
    ("a name with a nought in it", lambda s: add_person(s, "Bram 0kafor", Role.CHIEF, DEMO_PIN), "name_taken"),
    ("a name written as one", lambda s: add_person(s, "BramOkafor", Role.CHIEF, DEMO_PIN), "name_taken"),
    ("an engine twice", lambda s: revisions.add_engine(s, actor(s, "Ines Halloran"), ENGINE), "engine_known"),
    ("a tool twice", lambda s: revisions.add_tool(s, actor(s, "Ines Halloran"), TOOL), "tool_known"),
    ("a tool by a mechanic", lambda s: revisions.add_tool(s, actor(s, "Lio Sandvik"), TOOL), "not_your_right"),
    ("an engine nobody has", lambda s: start(s, engine="unit-9"), "no_such_engine"),
    ("a joint it does not have", lambda s: start(s, joint="head-9"), "no_such_joint"),
    ("a procedure nobody wrote", start, "no_such_procedure"),
    ("approval of nothing", lambda s: revisions.approve(s, actor(s, "Ines Halloran"), NOWHERE), "no_such_procedure"),
    ("a zip of a thousand", lambda s: import_archive(s, actor(s, "Ines Halloran"), too_many()), "archive_too_large"),
    ("a picture that is text", lambda s: photos.take_in(s, b"not a picture"), "no_photo"),
    ("a picture that ends early", lambda s: photos.take_in(s, drawn_photo(1)[:300]), "no_photo"),
    ("a picture that is too large", lambda s: photos.take_in(s, b"\xff" * 10_000_001), "photo_too_large"),
]


@pytest.mark.parametrize(("deed", "code"), [r[1:] for r in REFUSED], ids=[r[0] for r in REFUSED])
def test_what_is_refused_leaves_no_trace(world: World, deed: Callable[[Workshop], object], code: str) -> None:
    before = rows(world)
    with pytest.raises(Refusal) as refused:
        deed(world.workshop)
    assert refused.value.code == code
    assert rows(world) == before


def test_a_revision_is_withdrawn_once_and_no_run_begins_on_it_again(world: World) -> None:
    shop = world.workshop
    open_run = world.started()
    ines = actor(shop, "Ines Halloran")
    revisions.withdraw(shop, ines, world.procedure)
    deeds: list[tuple[Callable[[], object], str]] = [
        (lambda: revisions.withdraw(shop, ines, world.procedure), "withdrawn_already"),
        (lambda: revisions.approve(shop, ines, world.procedure), "not_a_draft"),
        (lambda: start(shop, joint="head-5", digest=world.procedure), "not_approved"),
    ]
    for deed, code in deeds:
        with pytest.raises(Refusal) as refused:
            deed()
        assert refused.value.code == code
    # What is under way goes on: the revision it is pinned to does not go away.
    assert open_run.play(lambda cell: cell.key == "first/raise").attempts


def test_the_library_stands_in_one_order_however_it_came_in(world: World) -> None:
    shop = world.workshop
    text = (ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_text()
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for letter in "IHGF":
            archive.writestr(f"{letter}.yaml", text.replace("revision: E", f"revision: {letter}"))
    import_archive(shop, actor(shop, "Ines Halloran"), packed.getvalue())
    mine = [head.revision for head in shop.registers.revisions() if head.id == "tarnholt-7l34-head-tighten"]
    assert mine == ["E", "F", "G", "H", "I"]
    with shop.database.reading() as connection:
        query = (
            "SELECT COUNT(DISTINCT imported_at) FROM procedure_revision"
            " WHERE procedure_id = 'tarnholt-7l34-head-tighten' AND revision > 'E'"
        )
        assert connection.execute(sa.text(query)).scalar_one() == 1, "the moment tells nothing of their order"


def test_one_picture_from_many_tablets_is_kept_once_and_an_altered_one_is_named(world: World, tmp_path: Path) -> None:
    store = PhotoStore(world.workshop.files, tmp_path)
    picture = drawn_photo(4)
    with ThreadPoolExecutor(8) as pool:
        (name,) = set(pool.map(store.keep, [picture] * 40))
    assert store.read(name) == picture
    assert store.names() == [name]
    world.workshop.files.keep(f"photo/{name}", picture[:-1] + b"\x00")
    for asked, code in ((name, "photo_altered"), (NOWHERE, "no_such_photo")):
        with pytest.raises(Refusal) as refused:
            store.read(asked)
        assert refused.value.code == code


def test_a_picture_that_an_older_installation_kept_in_a_directory_is_still_shown(world: World, tmp_path: Path) -> None:
    picture = drawn_photo(5)
    name = hashlib.sha256(picture).hexdigest()
    (tmp_path / name[:2]).mkdir()
    (tmp_path / name[:2] / f"{name}.jpg").write_bytes(picture)
    store = PhotoStore(world.workshop.files, tmp_path)
    assert store.read(name) == picture
    assert store.names() == [name]
    assert store.keep(picture) == name, "and kept with the rest once it is sent again"
    assert store.names() == [name]


@pytest.mark.parametrize("size", [0, 1, 999_999, 1_000_000, 1_000_001, 2_500_000])
def test_a_file_comes_back_as_it_was_however_many_parts_it_takes(world: World, size: int) -> None:
    files = Files(world.workshop.database)
    content = bytes(k % 251 for k in range(size))
    files.keep("dossier/one", b"x" * 3_000_000)
    files.keep("dossier/one", content)
    assert files.read("dossier/one") == content
    assert files.names("dossier/") == ["dossier/one"]
    files.drop("dossier/one")
    assert files.read("dossier/one") is None
    assert not files.has("dossier/one")


def test_names_are_found_by_how_they_begin_whatever_signs_stand_in_them(world: World) -> None:
    files = Files(world.workshop.database)
    for name in ("plan/a_1", "plan/ab1", "plan/a%1", "plan/A_1", "plans/a_1"):
        files.keep(name, b"x")
    assert files.names("plan/a_") == ["plan/a_1"]
    assert files.names("plan/a%") == ["plan/a%1"]
    assert files.names("plan/") == ["plan/A_1", "plan/a%1", "plan/a_1", "plan/ab1"]


def test_locks_do_not_grow_with_the_photographs(world: World) -> None:
    before = rows(world)["latch"]
    for k in range(200):
        world.workshop.files.keep(f"photo/{k}", b"x")
    assert rows(world)["latch"] - before <= 64


def test_what_many_change_at_once_is_changed_by_one_after_the_other(world: World) -> None:
    files = Files(world.workshop.database)

    def count(_: int) -> bool:
        return files.change("plan/count", lambda there: str(int(there or b"0") + 1).encode())

    with ThreadPoolExecutor(8) as pool:
        assert all(pool.map(count, range(40)))
    assert files.read("plan/count") == b"40"
    assert not files.change("plan/count", lambda _: None)
    assert files.read("plan/count") == b"40"


def test_what_changed_at_the_very_instant_that_is_asked_about_is_told(world: World) -> None:
    """Whoever asks what is new since the newest that they have seen must not miss a second change of that instant."""
    player = world.started()
    registers = world.workshop.registers
    at = player.state().last_at
    assert registers.heads_since(at)[str(player.run_id)] == player.state().seq
    assert str(player.run_id) not in registers.heads_since(at + timedelta(microseconds=1))


def test_only_the_newest_approved_revision_is_on_offer_and_the_one_before_again_when_it_is_withdrawn(
    world: World,
) -> None:
    shop = world.workshop
    text = (ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_text(encoding="utf-8")
    letter = next(line for line in text.splitlines() if line.startswith("revision: "))
    author, chief = actor(shop, "Anneke Ruhl"), actor(shop, "Ines Halloran")
    newer = revisions.import_procedure(shop, author, text.replace(letter, "revision: Z", 1).encode())

    def offered() -> list[str]:
        heads = revisions.on_offer(shop.registers.revisions(), "Tarnholt 7L34")
        return [head.revision for head in heads if head.id == "tarnholt-7l34-head-tighten"]

    older = letter.removeprefix("revision: ")
    assert offered() == [older], "a draft is not on offer"
    revisions.approve(shop, chief, newer)
    assert offered() == ["Z"]
    revisions.withdraw(shop, chief, newer)
    assert offered() == [older]
