"""One private database server for all tests; an empty database wherever one is asked for."""

from __future__ import annotations

import multiprocessing
import os
import shutil
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import uuid4

import pytest
import sqlalchemy as sa
from argon2 import PasswordHasher
from hypothesis import settings

from jorvek.core.overhaul.log.commands import DeclareConditions
from jorvek.core.procedure.metal_parts import Condition
from jorvek.local.cluster import Cluster
from jorvek.local.demo import actor, load_history, load_world
from jorvek.local.logs import structured_logs
from jorvek.local.mariadb import Server, running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.store.nodes import urls_of
from jorvek.store.site_key import SiteKey
from jorvek.work.engine import overhauls
from jorvek.work.people import accounts
from jorvek.work.workshop import Workshop

# The PINs here are no secret: what takes a quarter of a second on purpose would be most of many a test.
accounts._hasher = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
structured_logs("info")  # as at work: drawing what stands in every frame of a fault takes seconds
settings.register_profile("ci", derandomize=True, max_examples=60, deadline=None)
settings.register_profile("long", max_examples=2000, deadline=None)
settings.load_profile(os.environ.get("JORVEK_HYPOTHESIS", "ci"))

START = datetime(2026, 11, 23, 8, 0, tzinfo=UTC)
PROCEDURE = ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml"
KEY = SiteKey(bytes(range(32)))
_numbers = count(1)
_opened: list[Database] = []


KEEPER = "'keeper'@'127.0.0.1'"
ALSO = (
    f"CREATE USER IF NOT EXISTS {KEEPER} IDENTIFIED BY 'keeper';",
    f"GRANT ALL ON *.* TO {KEEPER} WITH GRANT OPTION;",
)
"""An account that may do everything, for what the application itself may not."""
MEMORY = Path("/dev/shm")
ENOUGH_BYTES = 3 * 2**30


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One server for all; in memory where there is room: no test pulls the plug of this one."""
    if MEMORY.is_dir() and shutil.disk_usage(MEMORY).free > ENOUGH_BYTES:
        with TemporaryDirectory(dir=MEMORY, prefix="jorvek-") as place, running_server(Path(place), ALSO) as running:
            yield running
    else:
        with running_server(tmp_path_factory.mktemp("db"), ALSO) as running:
            yield running


@pytest.fixture(autouse=True)
def _nothing_stays() -> Iterator[None]:
    """Lay down what a test opened or set going: the server has so many connections, and all tests share them."""
    yield
    for child in multiprocessing.active_children():
        child.terminate()
        child.join()
    for database in _opened:
        database.close()
    _opened.clear()


def new_database(server: Server | Cluster) -> str:
    """Make an empty database on the test server and return its URL."""
    name = f"jorvek_t{next(_numbers)}"
    engine = sa.create_engine(urls_of(server.url)[0], connect_args={"ssl_disabled": True})
    with engine.begin() as connection:
        connection.execute(sa.text(f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"))
    engine.dispose()
    return server.url.rsplit("/", 1)[0] + f"/{name}"


def on_another_node(url: str) -> str:
    """Return the setting of a server that asks the next node first; of one node the same setting."""
    before, _, after = url.rpartition("@")
    places, _, database = after.partition("/")
    first, *others = places.split(",")
    return f"{before}@{','.join([*others, first])}/{database}"


def kept_by(url: str) -> sa.Engine:
    """Return a way to the server of a database by the account that may do everything."""
    keeper = sa.make_url(url).set(username="keeper", password="keeper")
    return sa.create_engine(keeper, connect_args={"ssl_disabled": True})


def new_workshop(url: str, clock: SetClock | None = None) -> Workshop:
    database = Database(url)
    _opened.append(database)
    database.migrate()
    return Workshop(database, clock or SetClock(START), site_key=KEY)


def copy(source: str, url: str) -> None:
    """Make the tables of another database as they are there, with what they hold: migrating takes as long as a test."""
    there = source.rsplit("/", 1)[1]
    engine = sa.create_engine(urls_of(url)[0], connect_args={"ssl_disabled": True})
    with engine.begin() as connection:
        connection.execute(sa.text("SET foreign_key_checks = 0"))
        for table in sa.inspect(connection).get_table_names(there):
            made = connection.execute(sa.text(f"SHOW CREATE TABLE {there}.{table}")).one()[1]
            connection.exec_driver_sql(made.replace("%", "%%"))
            connection.execute(sa.text(f"INSERT INTO {table} SELECT * FROM {there}.{table}"))
    engine.dispose()


class World:
    """The demo world without any run, with a clock that the test moves."""

    def __init__(self, url: str, template: World | None = None) -> None:
        self.url, self.clock = url, SetClock(START)
        if template is None:
            self.workshop = new_workshop(url, self.clock)
            self.procedure = load_world(self.workshop, ROOT)
        else:
            self.procedure = template.procedure
            copy(template.url, url)
            self.workshop = new_workshop(url, self.clock)

    def player(self, name: str, seed: int = 1) -> Player:
        return Player(self.workshop, self.clock, actor(self.workshop, name), seed)

    def found(self, engine: str, **joints: Condition) -> None:
        """Open an overhaul on an engine as it ran, but for the joints that are named: ``head_4="landed"``."""
        lead, here = actor(self.workshop, "Bram Okafor"), uuid4()
        opening = overhauls.OpenOverhaul(id=uuid4(), overhaul_id=here, engine_id=engine, title="Outage", as_it_ran=True)
        overhauls.open_overhaul(self.workshop, lead, opening)
        found = {joint.replace("_", "-"): condition for joint, condition in joints.items()}
        if found:
            said = DeclareConditions(kind="declare_conditions", id=uuid4(), found=found, words="Found so")
            overhauls.act(self.workshop, lead, here, said)

    def started(self, name: str = "Bram Okafor", joint: str = "head-4") -> Player:
        player = self.player(name)
        player.start("unit-2", joint, self.procedure)
        return player


@pytest.fixture(scope="session")
def template(server: Server) -> World:
    return World(new_database(server))


@pytest.fixture
def world(server: Server, template: World) -> World:
    return World(new_database(server), template)


@pytest.fixture(scope="session")
def played(server: Server, template: World) -> World:
    """The first morning, played once; nobody writes here."""
    world = World(new_database(server), template)
    load_history(world.workshop, world.procedure)
    return world


@pytest.fixture
def morning(server: Server, played: World) -> World:
    """The first morning, to go on from."""
    return World(new_database(server), played)


@pytest.fixture(scope="session")
def root() -> Path:
    return ROOT
