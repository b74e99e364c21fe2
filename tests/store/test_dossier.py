"""What leaves an overhaul: the dossier, the card, and an archive that reads back into an empty installation."""

from __future__ import annotations

import io
import json
import time
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4
from zipfile import ZipFile

import pytest

from jorvek.core.overhaul.log.commands import Remark
from jorvek.core.refusal import Refusal
from jorvek.local.demo import actor
from jorvek.local.mariadb import Server
from jorvek.reports.engine_papers import dossier_pdf
from jorvek.store.verify import verify
from jorvek.work.engine import overhauls
from jorvek.work.paper import dossiers
from jorvek.work.people.accounts import add_person
from jorvek.work.workshop import Workshop
from tests.conftest import World, new_database, new_workshop


@pytest.fixture
def outage(played: World) -> World:
    """The first morning: these tests read it."""
    return played


def test_the_dossier_tells_exceptions_first_and_every_joint_with_its_seal(outage: World) -> None:
    shop = outage.workshop
    overhaul = overhauls.open_on(shop, "unit-2")
    assert overhaul is not None
    told: list[tuple[int, int]] = []
    made = dossiers.dossier_of(shop, overhaul.overhaul_id, lambda done, of: told.append((done, of)))
    assert [done for done, _ in told] == list(range(told[0][1])), "progress is told run by run"
    by_label = {joint.label: joint for joint in made.joints}
    assert by_label["Head 1"].condition == "closed_up"
    assert [work.title.split(" — ")[-1] for work in by_label["Head 1"].works] == ["tighten", "close up"]
    assert all(work.seal for work in by_label["Head 1"].works)
    assert by_label["Head 3"].works[-1].seal is None, "an open run has no seal yet"
    assert len(by_label["Head 1"].studs) == 4
    assert by_label["Liner 4"].gates
    assert by_label["Rod 1"].by_word is not None
    assert any("Drum misread" in (row.struck.reason or "") for row in by_label["Head 3"].exceptions if row.struck)
    assert "Main 3" in made.not_measured
    assert {person.name for person in made.people} >= {"Dessa Marlow", "Lio Sandvik", "Bram Okafor"}
    assert any("Water outlet" in text for text in made.owed)
    assert [(one.when, len(one.throws)) for one in made.deflections] == [("before", 7)]
    pdf = dossier_pdf(made, "http://127.0.0.1", "UTC")
    assert pdf.startswith(b"%PDF")
    assert dossier_pdf(made, "http://127.0.0.1", "UTC") == pdf, "the same dossier gives the same pages"
    assert len(pdf) > 30_000, "a page a joint"
    card = dossiers.engine_card(shop, actor(shop, "Lio Sandvik"), overhaul.overhaul_id)
    assert card.startswith(b"%PDF")


def test_a_dossier_is_printed_beside_everything_else_and_is_that_of_the_overhaul_as_it_stands(
    outage: World, tmp_path: Path
) -> None:
    old = outage.workshop
    shop = Workshop(old.database, old.clock, old.site_zone, old.base_url, tmp_path / "photos")
    overhaul = overhauls.open_on(shop, "unit-5")
    assert overhaul is not None
    assert dossiers.printing(shop, overhaul.overhaul_id).state == "none"
    with pytest.raises(Refusal) as refused:
        dossiers.printed(shop, overhaul.overhaul_id)
    assert refused.value.code == "not_printed"
    assert dossiers.print_dossier(shop, overhaul.overhaul_id).state == "under_way"
    while (stands := dossiers.printing(shop, overhaul.overhaul_id)).state == "under_way":
        time.sleep(0.2)
    assert stands.state == "ready"
    assert dossiers.printed(shop, overhaul.overhaul_id).startswith(b"%PDF")
    remark = Remark(kind="remark", id=uuid4(), words="Crane away on Thursday")
    overhauls.act(shop, actor(shop, "Bram Okafor"), overhaul.overhaul_id, remark)
    assert dossiers.printing(shop, overhaul.overhaul_id).state == "none", "what has changed since is printed anew"


def test_an_archive_reads_back_into_an_empty_installation_hash_for_hash(outage: World, server: Server) -> None:
    shop = outage.workshop
    overhaul = overhauls.open_on(shop, "unit-2")
    assert overhaul is not None
    raw = dossiers.export_overhaul(shop, overhaul.overhaul_id)
    empty = new_workshop(new_database(server))
    add_person(empty, "Ines Halloran", actor(shop, "Ines Halloran").role, "340160")
    ines = actor(empty, "Ines Halloran")
    assert dossiers.import_overhaul(empty, ines, raw) == overhaul.overhaul_id
    there = empty.overhauls.snapshot(overhaul.overhaul_id)
    assert there.state == shop.overhauls.snapshot(overhaul.overhaul_id).state
    head = json.loads(ZipFile(io.BytesIO(raw)).read("overhaul.json"))
    assert head["seals"].pop("overhaul") == there.head_hash
    assert {str(row.id): row.head_hash for row in empty.registers.runs()} == head["seals"]
    assert verify(empty.database).alterations == ()
    again = dossiers.dossier_of(empty, overhaul.overhaul_id)
    assert again.exceptions == dossiers.dossier_of(shop, overhaul.overhaul_id).exceptions
    with pytest.raises(Refusal) as refused:
        dossiers.import_overhaul(empty, ines, raw)
    assert refused.value.code == "id_reused"
    for bad in (b"", raw[:200], _without_head(raw)):
        with pytest.raises(Refusal) as refused:
            dossiers.import_overhaul(new_workshop(new_database(server)), ines, bad)
        assert refused.value.code == "E_DATA"


def _changed(raw: bytes, name: str, change: Callable[[bytes], bytes | None]) -> bytes:
    """The archive with one file changed, or left out."""
    out = io.BytesIO()
    with ZipFile(io.BytesIO(raw)) as old, ZipFile(out, "w") as new:
        for one in old.namelist():
            content = change(old.read(one)) if one.startswith(name) else old.read(one)
            if content is not None:
                new.writestr(one, content)
    return out.getvalue()


def _last_event_changed(head: bytes) -> bytes:
    said = json.loads(head)
    said["events"][-1]["body"] = said["events"][-1]["body"].replace("Outage", "Outrage").replace('"seq":', '"seq": ')
    return json.dumps(said).encode()


def _without_sheet_words(head: bytes) -> bytes:
    said = json.loads(head)
    said["sheet"] = "{}"
    return json.dumps(said).encode()


@pytest.mark.parametrize(
    ("name", "change", "code"),
    [
        ("overhaul.json", _last_event_changed, "log_broken"),
        ("overhaul.json", _without_sheet_words, "E_DATA"),
        ("runs/", lambda _: None, "archive_not_whole"),
        ("photos/", lambda _: None, "archive_not_whole"),
        ("runs/", lambda _: b'{"procedure": "{}", "events": [{"body": "{}", "hash": ""}]}', "E_DATA"),
    ],
)
def test_an_archive_that_is_refused_leaves_nothing_and_the_true_one_comes_in_after_it(
    outage: World, server: Server, name: str, change: Callable[[bytes], bytes | None], code: str
) -> None:
    shop = outage.workshop
    overhaul = overhauls.open_on(shop, "unit-2")
    assert overhaul is not None
    raw = dossiers.export_overhaul(shop, overhaul.overhaul_id)
    assert any(one.startswith(name) for one in ZipFile(io.BytesIO(raw)).namelist())
    empty = new_workshop(new_database(server))
    add_person(empty, "Ines Halloran", actor(shop, "Ines Halloran").role, "340160")
    ines = actor(empty, "Ines Halloran")
    with pytest.raises(Refusal) as refused:
        dossiers.import_overhaul(empty, ines, _changed(raw, name, change))
    assert refused.value.code == code
    assert not empty.registers.runs()
    assert not empty.registers.engines()
    assert not empty.sheets.rows()
    assert not empty.photos.names()
    assert dossiers.import_overhaul(empty, ines, raw) == overhaul.overhaul_id


def _without_head(raw: bytes) -> bytes:
    out = io.BytesIO()
    with ZipFile(io.BytesIO(raw)) as old, ZipFile(out, "w") as new:
        for name in old.namelist():
            if name != "overhaul.json":
                new.writestr(name, old.read(name))
    return out.getvalue()
