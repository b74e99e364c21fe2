"""How much a reading waits for the solver: ``./jorvek bench beside_a_plan``.

Readings of a head of thirty are posted in turns: some while nothing else is done, some while a plan for another engine
is looked for, so that a slow disk or a busy machine slows both. Printed are median and p95 of both.
"""

from __future__ import annotations

import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx2 as httpx
from bench.readings import HEAD_OF_THIRTY, answers, line, serve

from jorvek.core.overhaul.log.commands import DeclareConditions
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.engine import overhauls
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop

_TURNS = 6
_READINGS = 20


def apart(workshop: Workshop) -> str:
    """Open an overhaul of the whole of Unit 2, everything apart, and return its id."""
    bram, here = actor(workshop, "Bram Okafor"), uuid4()
    opening = overhauls.OpenOverhaul(id=uuid4(), overhaul_id=here, engine_id="unit-2", title="Outage", as_it_ran=True)
    overhauls.open_overhaul(workshop, bram, opening)
    joints = [f"{kind}-{n}" for kind in ("head", "liner", "rod") for n in range(1, 8)]
    found = dict.fromkeys(joints, "open")
    said = {"kind": "declare_conditions", "id": uuid4(), "found": found, "words": "Found so"}
    overhauls.act(workshop, bram, here, DeclareConditions.model_validate(said))
    return str(here)


def measure(workshop: Workshop, address: str) -> None:
    """Post readings with and without a plan beside them, in turns."""
    client = httpx.Client(base_url=address, headers={"Origin": address}, timeout=60)
    bram = person_by_name(workshop, "Bram Okafor")
    client.post("/api/session", json={"person_id": str(bram.id), "pin": DEMO_PIN})
    overhaul = apart(workshop)
    engine, name, joint, _ = HEAD_OF_THIRTY
    by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
    player = Player(workshop, SetClock(datetime.now(UTC)), actor(workshop, "Bram Okafor"), 1)
    player.start(engine, joint, by_id[name], {"tool": "bar"})
    player.play(lambda cell: cell.key == "snug/pull/9")
    make, path = answers(player, workshop), f"/api/runs/{player.run_id}/commands"
    alone, beside = list[float](), list[float]()
    for turn in range(_TURNS):
        planning = turn % 2 == 1
        if planning:
            answer = client.post(f"/api/overhauls/{overhaul}/plan", json={"seconds": 300})
            assert answer.status_code == 202, answer.text
            while client.get(f"/api/overhauls/{overhaul}/plan").json()["finish_at"] is None:
                time.sleep(0.2)
        for _ in range(_READINGS):
            command = make()
            if command is None:
                break
            body = {"command": command.model_dump(mode="json")}
            started = time.perf_counter()
            answer = client.post(path, json=body)
            (beside if planning else alone).append((time.perf_counter() - started) * 1000)
            assert answer.status_code == 200, answer.text
        client.delete(f"/api/overhauls/{overhaul}/plan")
    line("reading posted, nothing else", alone)
    line("reading posted, a plan looked for", beside)


def main() -> None:
    """Measure on a private server."""
    with tempfile.TemporaryDirectory() as place, running_server(Path(place)) as server:
        database = Database(server.url)
        database.migrate()
        with tempfile.TemporaryDirectory() as photos:
            workshop = Workshop(database, photo_dir=Path(photos))
            load_world(workshop, ROOT)
            process, address = serve(server.url)
            try:
                measure(workshop, address)
            finally:
                process.terminate()
                process.wait()


if __name__ == "__main__":
    main()
