"""The command line does nothing in anybody's name who has not shown by a PIN that it is them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from typer.testing import CliRunner

from jorvek.cli.__main__ import app
from jorvek.core.rights import Role
from jorvek.local.demo import DEMO_PIN
from jorvek.local.mariadb import Server
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.people import accounts
from jorvek.work.runs.exports import export_run
from tests.conftest import KEY, World, new_database

Said = tuple[int, str]
Line = Callable[..., Said]


@pytest.fixture
def line(world: World, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Line:
    """Give a function that types a command, and then lines that are asked for."""
    (tmp_path / "site.key").write_text(KEY.seed.hex())
    return at(world.url, tmp_path, monkeypatch)


def at(url: str, place: Path, monkeypatch: pytest.MonkeyPatch) -> Line:
    monkeypatch.setenv("JORVEK_DATABASE_URL", url)
    monkeypatch.setenv("JORVEK_DATA", str(place))

    def typed(*words: str, then: tuple[str, ...] = ()) -> Said:
        result = CliRunner().invoke(app, words, input="".join(f"{one}\n" for one in then))
        return result.exit_code, result.output

    return typed


TOOL = str(ROOT / "world" / "tools" / "ct-01.yaml")


@pytest.mark.parametrize(
    ("words", "name"),
    [
        (("tool", "add", TOOL), "Ines Halloran"),
        (("procedure", "approve", "0" * 64), "Ines Halloran"),
        (("person", "role", "Tam Pereira", "chief"), "Ines Halloran"),
        (("person", "leave", "Tam Pereira"), "Ines Halloran"),
        (("person", "pin", "Tam Pereira"), "Ines Halloran"),
        (("person", "sign-out", "Tam Pereira"), "Ines Halloran"),
        (("person", "add", "Una Kessel", "mechanic"), "Ines Halloran"),
    ],
)
def test_nothing_is_done_in_a_name_without_its_pin(world: World, line: Line, words: tuple[str, ...], name: str) -> None:
    before = world.workshop.registers.everybody()
    for then in ((), ("000001",), ("",)):
        status, said = line(*words, "--as", name, then=then)
        assert (status, "That PIN is not right" in said) == (1, True), said
    assert world.workshop.registers.everybody() == before


def test_the_first_person_needs_nobody_and_every_further_one_somebody_who_keeps_the_register(
    server: Server, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    url = new_database(server)
    typed = at(url, tmp_path, monkeypatch)
    assert typed("person", "add", "Ines Halloran", "chief", then=("482915",))[0] == 0
    assert typed("person", "add", "Lio Sandvik", "mechanic", then=("482915",))[0] == 1, "in whose name?"
    first = ("person", "add", "Lio Sandvik", "mechanic", "--as", "Ines Halloran")
    assert typed(*first, then=("482915", "123456"))[0] == 1, "a PIN that anybody guesses"
    assert typed(*first, then=("482915", "905173"))[0] == 0
    assert typed("person", "add", "Tam Pereira", "trainee", "--as", "Lio Sandvik", then=("905173", "482915"))[0] == 1
    database = Database(url)
    assert typed("verify")[0] == 0
    database.close()


def test_a_person_is_changed_from_the_command_line_as_anywhere_else(world: World, line: Line) -> None:
    shop = world.workshop
    tam = accounts.person_by_name(shop, "Tam Pereira").id
    token, _ = accounts.sign_in(shop, tam, DEMO_PIN)
    acts = ("--as", "Ines Halloran")
    assert line("person", "sign-out", "Tam Pereira", *acts, then=(DEMO_PIN,)) == (
        0,
        "1 sessions of Tam Pereira are ended.\n",
    )
    assert accounts.who(shop, token) is None
    assert line("person", "role", "Tam Pereira", "mechanic", *acts, then=(DEMO_PIN,))[0] == 0
    assert shop.registers.person(tam).role is Role.MECHANIC
    assert line("person", "pin", "Tam Pereira", *acts, then=(DEMO_PIN, "905173"))[0] == 0
    assert line("person", "pin", "Tam Pereira", "--as", "Tam Pereira", then=("905173", "604182"))[0] == 0
    assert accounts.check_pin(shop, tam, "604182")
    assert line("person", "leave", "Tam Pereira", *acts, then=(DEMO_PIN,))[0] == 0
    assert not shop.registers.person(tam).active
    assert line("person", "return", "Tam Pereira", *acts, then=(DEMO_PIN,))[0] == 0
    assert shop.registers.person(tam).active


# ---- looking everything through --------------------------------------------------------------------------------------


def test_everything_stands_and_the_seal_that_is_printed_is_one_to_come_back_to(world: World, line: Line) -> None:
    world.started()
    assert world.workshop.site_log is not None
    root = world.workshop.site_log.take_in(world.clock.now)
    status, said = line("verify")
    assert (status, f"Seal of the site: {root.seal().printed()}" in said) == (0, True), said
    assert line("verify", "--against", root.seal().printed())[0] == 0
    other = root.seal().model_copy(update={"root": "0" * 64}).printed()
    status, said = line("verify", "--against", other)
    assert (status, "does not go on from the seal" in said) == (1, True)
    status, said = line("verify", "--against", "nothing of the sort")
    assert (status, "is no seal" in said) == (1, True)


def test_an_exported_run_is_looked_through_without_any_database(
    world: World, line: Line, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    player = world.started()
    file, public = tmp_path / "run.json", tmp_path / "site.pub"
    file.write_text(export_run(world.workshop, player.run_id).model_dump_json())
    public.write_text(f"{KEY.public}\n")
    monkeypatch.setenv("JORVEK_DATABASE_URL", "mysql+pymysql://nobody@127.0.0.1:1/nowhere")
    for key in (KEY.public, str(public)):
        assert line("verify-record", str(file), "--public-key", key)[0] == 0
    status, said = line("verify-record", str(file), "--public-key", "ab" * 32)
    assert (status, "NOT PROVEN: the seal was not signed with that key." in said) == (1, True)
    file.write_text("{}")
    assert line("verify-record", str(file), "--public-key", KEY.public)[0] == 1


def test_a_new_key_is_begun_by_hand_and_named(world: World, line: Line, tmp_path: Path) -> None:
    assert world.workshop.site_log is not None
    world.workshop.site_log.take_in(world.clock.now)
    (tmp_path / "site.key").write_text("11" * 32)
    status, said = line("verify")
    assert (status, "and the site's own is" in said) == (1, True)
    assert line("new-key", "--words", "the old machine burned")[0] == 0
    assert line("verify")[0] == 0
