"""How long the library takes when it is large: finding, opening, checking.

Run with ``./jorvek bench library``.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from jorvek.api.app import create_app
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.documents.yaml_reader import read_yaml
from jorvek.local.demo import DEMO_PIN, load_world
from jorvek.local.logs import structured_logs
from jorvek.local.mariadb import running_server
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop

PROCEDURES, STEPS = 2000, 200


def long_document(number: int) -> dict[str, Any]:
    """The shipped procedure under another name, with as many steps as asked."""
    raw = (ROOT / "procedures" / "tarnholt-7l34-head-tighten.yaml").read_bytes()
    data = read_yaml(raw).data
    assert isinstance(data, dict)
    steps = data["steps"]
    assert isinstance(steps, list)
    spare = [
        {"id": f"look-{k}", "kind": "confirm", "title": f"Look {k}", "items": [{"id": "seen", "text": f"Place {k}"}]}
        for k in range(STEPS - len(steps))
    ]
    return {**data, "id": f"library-{number}", "title": f"Library joint {number}", "steps": [*steps, *spare]}


def say(name: str, act: Callable[[], object], aim_ms: float, times: int = 7) -> None:
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        act()
        taken.append((time.perf_counter() - started) * 1000)
    median = statistics.median(taken)
    word = "met" if median <= aim_ms else "NOT MET"
    print(f"{name:44} first {taken[0]:8.1f} ms  median {median:8.1f} ms   aim {aim_ms:.0f} ms  {word}", flush=True)


def main() -> None:
    structured_logs()
    procedure = Procedure.model_validate(long_document(0))
    say(f"check of one parsed document, {STEPS} steps", lambda: check(procedure), 100)
    with tempfile.TemporaryDirectory() as directory, running_server(Path(directory)) as server:
        database = Database(server.url)
        database.migrate()
        workshop = Workshop(database)
        load_world(workshop, ROOT)
        author = person_by_name(workshop, "Anneke Ruhl")
        for number in range(PROCEDURES):
            document = Procedure.model_validate(long_document(number)) if number == 0 else None
            body = document or procedure.model_copy(
                update={"id": f"library-{number}", "title": f"Library joint {number}"}
            )
            digest = workshop.registers.add_revision(body, author.id, workshop.clock())
        client = TestClient(create_app(workshop), headers={"Origin": "http://testserver"})
        client.post("/api/session", json={"person_id": str(author.id), "pin": DEMO_PIN})
        say(f"list to search in, {PROCEDURES} procedures", lambda: client.get("/api/procedures"), 150)
        say("open one, read and checked", lambda: client.get(f"/api/procedures/{digest}"), 1000)


if __name__ == "__main__":
    main()
