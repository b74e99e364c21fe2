"""As whom the database server runs: by root's hands as a user of its own, wherever that one gets through."""

from __future__ import annotations

import os
import pwd
import shutil
from collections.abc import Iterator
from pathlib import Path
from tempfile import mkdtemp

import pytest
import sqlalchemy as sa

from jorvek.local import mariadb
from jorvek.local.mariadb import SYSTEM_USER, kept_running, runs_as, start_server
from jorvek.settings import ROOT
from jorvek.store.nodes import urls_of


def there_is(name: str) -> bool:
    try:
        pwd.getpwnam(name)
    except KeyError:
        return False
    return True


as_root = pytest.mark.skipif(
    os.getuid() != 0 or not there_is(SYSTEM_USER), reason="only root, with the user that the installer makes"
)


@pytest.fixture
def open_place() -> Iterator[Path]:
    """A directory that everybody gets through to."""
    place = Path(mkdtemp(dir="/var/tmp", prefix="jorvek-"))
    place.chmod(0o755)
    yield place
    shutil.rmtree(place)


def answers(url: str) -> int:
    engine = sa.create_engine(urls_of(url)[0], connect_args={"ssl_disabled": True})
    with engine.connect() as connection:
        found = connection.execute(sa.text("SELECT 41 + 1")).scalar_one()
    engine.dispose()
    return int(found)


def owner_of(pid: int) -> str:
    return pwd.getpwuid(Path(f"/proc/{pid}").stat().st_uid).pw_name


@as_root
def test_started_by_root_it_runs_as_its_own_user_and_again_on_what_root_has_left(
    open_place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    directory = open_place / "db"
    monkeypatch.setattr(mariadb, "runs_as", lambda _: ("root", ""))
    before = start_server(directory)
    assert owner_of(before.process.pid) == "root"
    assert answers(before.url) == 42
    before.stop()
    monkeypatch.undo()
    now = start_server(directory)
    try:
        assert owner_of(now.process.pid) == SYSTEM_USER
        assert answers(now.url) == 42
        assert {file.owner() for file in (directory / "data").rglob("*")} == {SYSTEM_USER}
        assert (directory / "password").owner() == "root"
        assert (directory / "password").stat().st_mode & 0o077 == 0
    finally:
        now.stop()


@as_root
def test_where_its_user_does_not_get_through_it_says_so_and_runs_as_root(open_place: Path) -> None:
    closed = open_place / "closed"
    closed.mkdir(mode=0o700)
    user, why = runs_as(closed / "data" / "db")
    assert user == "root"
    assert str(closed) in why
    assert "JORVEK_DATA" in why
    said: list[str] = []
    with kept_running(closed / "data" / "db", said.append) as server:
        assert owner_of(server.process.pid) == "root"
    assert len(said) == 1
    assert why in said[0]
    closed.chmod(0o711)
    assert runs_as(closed / "data" / "db") == (SYSTEM_USER, "")


@as_root
def test_its_user_is_let_through_the_data_directory_and_nobody_else(open_place: Path) -> None:
    data = open_place / "data"
    data.mkdir(mode=0o700)
    (data / "site.key").touch(mode=0o600)
    server = start_server(data / "db")
    try:
        assert owner_of(server.process.pid) == SYSTEM_USER
        assert answers(server.url) == 42
    finally:
        server.stop()
    assert (data.owner(), data.group(), data.stat().st_mode & 0o777) == ("root", SYSTEM_USER, 0o710)
    assert (data / "site.key").stat().st_mode & 0o777 == 0o600


def test_the_user_that_the_installer_makes_is_the_one_that_the_server_runs_as() -> None:
    assert f'DATABASE_USER = "{SYSTEM_USER}"' in (ROOT / "setup" / "prepare.py").read_text().splitlines()


def test_without_a_user_of_its_own_it_says_who_makes_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "getuid", lambda: 0)
    monkeypatch.setattr(mariadb, "SYSTEM_USER", "nobody-by-this-name")
    user, why = runs_as(tmp_path / "db")
    assert user == "root"
    assert "nobody-by-this-name" in why
    assert "./jorvek" in why


def test_started_by_an_ordinary_user_it_is_that_users_and_nothing_is_handed_over(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(os, "getuid", lambda: 1000)
    assert runs_as(tmp_path / "db") == (None, "")
    monkeypatch.setattr(shutil, "chown", lambda *_: pytest.fail("nothing is to be handed over"))
    mariadb._hand_over(tmp_path, None)
    mariadb._hand_over(tmp_path, "root")
