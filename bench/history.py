"""How long the lists take when many runs lie behind: the Berth, the records, the strip sheets.

Run with ``./jorvek bench history RUNS``. Printed beside each other: a look by a server that has
just started, the next look, and a look for which every log is folded anew.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

from jorvek.core.run.log.commands import Accept
from jorvek.core.run.log.events import Person
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.work.engine import berth, surveys
from jorvek.work.engine.page import engine_page
from jorvek.work.runs import acts
from jorvek.work.runs.same_kind_joints import rejected_pieces
from jorvek.work.workshop import Workshop

LOOKS: dict[str, Callable[[Workshop], object]] = {
    "Berth": lambda shop: berth.berth(shop, actor(shop, "Ines Halloran")),
    "engine page": lambda shop: engine_page(shop, actor(shop, "Ines Halloran"), "unit-2"),
    "list of records": berth.runs_listed,
    "strip sheets": surveys.strip_sheets,
    "gates": surveys.gates_along,
    "rejected fasteners, asked at each mark": rejected_pieces,
}


def work(shop: Workshop, clock: SetClock, count: int) -> None:
    """Loosen and tighten the heads of one engine, again and again."""
    summaries = {head.id: head.hash for head in shop.registers.revisions() if head.status == "approved"}
    chief = actor(shop, "Ines Halloran")
    for number in range(count):
        name = "tarnholt-7l34-head-loosen" if number // 7 % 2 == 0 else "tarnholt-7l34-head-tighten"
        player = Player(shop, clock, actor(shop, "Bram Okafor"), 1)
        player.start("unit-2", f"head-{number % 7 + 1}", summaries[name])
        while next_call(player.play()) is None:
            settle(player, chief)
        player.sign(chief, DEMO_PIN)
        player.play()
        player.close(chief)


def settle(player: Player, chief: Person) -> None:
    """Accept by name what came out of band by chance, and give the photographs that are owed."""
    state = player.state()
    for debt in debts(state):
        if debt.kind is DebtKind.PHOTO:
            player.photograph(debt.cell)
    for attempt in state.counting.values():
        if not attempt.settled:
            accept = Accept(kind="accept", id=uuid4(), cell=attempt.cell, attempt=attempt.number, reason="Looked at")
            acts.act(player.workshop, chief, player.run_id, accept)


def taken_ms(look: Callable[[Workshop], object], shop: Workshop) -> float:
    started = time.perf_counter()
    look(shop)
    return (time.perf_counter() - started) * 1000


def main(count: int) -> None:
    clock = SetClock(datetime(2026, 1, 5, 8, 0, tzinfo=UTC))
    with tempfile.TemporaryDirectory() as directory, running_server(Path(directory) / "db") as server:
        database = Database(server.url)
        database.migrate()

        def server_started() -> Workshop:
            return Workshop(database, clock, photo_dir=Path(directory) / "photos")

        shop = server_started()
        load_world(shop, ROOT)
        work(shop, clock, count)
        for look in LOOKS.values():
            look(shop)
        print(f"{count} closed runs; ms")
        print(f"{'':42}{'started':>10}{'next':>10}{'folded':>10}{'folded / next':>16}")
        kept: dict[str, tuple[float, float]] = {}
        for name, look in LOOKS.items():
            started = server_started()
            kept[name] = taken_ms(look, started), min(taken_ms(look, started) for _ in range(5))
        with database.engine.begin() as connection:
            connection.execute(t.run_digest.delete())
        for name, look in LOOKS.items():
            first, following = kept[name]
            folded = taken_ms(look, server_started())
            print(f"{name:42}{first:10.1f}{following:10.1f}{folded:10.1f}{folded / following:15.0f}x", flush=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 140)
