"""Every described request of the application, some hundreds of each, drawn by chance from its description.

Run with ``./jorvek bench schema [EXAMPLES] [SEED]``. Printed are how many requests were answered and what was
wrong: an error of the server, a status or a body that the description does not know, a header that is missing.
"""

from __future__ import annotations

import logging
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import structlog
from fastapi.testclient import TestClient
from tests.api.whole_schema import ORIGIN, described, known_places, try_everything
from tests.conftest import KEY

from jorvek.api.app import create_app
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import start_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop, system_clock


def main(examples: int = 300, chance: int = 1) -> int:
    """Try everything and say what came of it."""
    began = time.monotonic()
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(logging.CRITICAL))
    with tempfile.TemporaryDirectory() as place:
        server = start_server(Path(place) / "db")
        clock = SetClock(system_clock())
        shop = Workshop(Database(server.url), clock, photo_dir=Path(place) / "photos", site_key=KEY)
        shop.database.migrate()
        load_world(shop, ROOT)
        run = Player(shop, clock, actor(shop, "Bram Okafor"), 1)
        heads = [r for r in shop.registers.revisions() if r.id == "tarnholt-7l34-head-tighten"]
        run.start("unit-2", "head-4", heads[0].hash)
        run.play(lambda cell: cell.step == "seat")
        app = create_app(shop)
        with TestClient(app, headers=ORIGIN) as client:
            ines = actor(shop, "Ines Halloran")

            def sign_in() -> str:
                client.cookies.clear()
                client.post("/api/session", json={"person_id": str(ines.id), "pin": DEMO_PIN}).raise_for_status()
                return client.cookies["jorvek_session"]

            tried = try_everything(app, sign_in, known_places(shop, run.run_id), examples, chance)
        server.stop()
    for one in tried.failures:
        print(one)
    statuses = sum(tried.answered.values(), Counter[int]())
    missed = sorted(described(app) - {label for label, answered in tried.answered.items() if answered})
    print(
        f"{statuses.total()} requests to {len(tried.answered)} operations in {time.monotonic() - began:.0f} s, "
        f"{len(tried.failures)} wrong, never answered {missed}; statuses {dict(sorted(statuses.items()))}"
    )
    return 1 if tried.failures or missed else 0


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:])))
