"""What operators watch: counted by route, never by what stands in a path."""

from __future__ import annotations

import urllib.request
from uuid import uuid4

from fastapi.testclient import TestClient
from prometheus_client import start_http_server
from prometheus_client.parser import text_string_to_metric_families

from jorvek import measures
from jorvek.local.mariadb import free_port
from jorvek.work.people import accounts
from jorvek.work.sealing import sealed
from jorvek.work.workshop import Workshop
from tests.api.conftest import SignedIn
from tests.conftest import World


def counted(name: str, **labels: str) -> float:
    """Sum the samples of a measure that bear the labels."""
    return sum(
        sample.value
        for family in text_string_to_metric_families(measures.text().decode())
        for sample in family.samples
        if sample.name == name and labels.items() <= sample.labels.items()
    )


def test_requests_are_counted_by_their_route_and_what_came_of_them(nobody: TestClient, signed_in: SignedIn) -> None:
    client = signed_in("Bram Okafor")
    route = "/api/runs/{run_id}"
    before = counted("jorvek_requests_total", route=route, status="404")
    timed = counted("jorvek_request_seconds_count", route=route)
    for _ in range(3):
        assert client.get(f"/api/runs/{uuid4()}").status_code == 404
    assert counted("jorvek_requests_total", route=route, status="404") == before + 3
    assert counted("jorvek_request_seconds_count", route=route) == timed + 3


def test_paths_and_methods_that_nobody_knows_do_not_grow_the_list(nobody: TestClient) -> None:
    for path in ("/api/x1", "/api/x2", "/api/../x3"):
        nobody.get(path)
    nobody.request("BREW", "/api/health")
    said = measures.text().decode()
    assert not any(word in said for word in ("x1", "x2", "x3", "BREW"))


def test_a_refusal_is_counted_by_why(nobody: TestClient, world: World) -> None:
    person = accounts.person_by_name(world.workshop, "Lio Sandvik")
    before = counted("jorvek_refusals_total", code="pin_wrong")
    assert nobody.post("/api/session", json={"person_id": str(person.id), "pin": "000001"}).status_code == 403
    assert counted("jorvek_refusals_total", code="pin_wrong") == before + 1


def test_an_event_is_counted_once_it_is_stored_and_not_when_it_is_sent_again(world: World) -> None:
    player = world.started()
    before = counted("jorvek_events_stored_total", log="run")
    player.play(lambda cell: cell.kind == "seat_tool")
    stored = player.state().seq - 1
    assert stored > 0
    assert counted("jorvek_events_stored_total", log="run") == before + stored


def test_the_site_log_says_when_it_was_taken_into_last(nobody: TestClient, world: World) -> None:
    measures.SEALED_AT.set(0)
    assert sealed(world.workshop) is not None
    assert counted("jorvek_site_log_taken_in_at_seconds") > 1_700_000_000
    measures.SEALED_AT.set(0)
    assert sealed(Workshop(world.workshop.database)) is None
    assert counted("jorvek_site_log_taken_in_at_seconds") == 0, "without a key nothing is taken in"


def test_a_scraper_reads_all_of_it_on_a_port_of_its_own(nobody: TestClient) -> None:
    nobody.get("/api/health")
    port = free_port()
    listening, thread = start_http_server(port, "127.0.0.1")
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/metrics") as answer:
            assert answer.headers["Content-Type"].startswith("text/plain")
            names = {family.name for family in text_string_to_metric_families(answer.read().decode())}
    finally:
        listening.shutdown()
        thread.join()
    assert {"jorvek_requests", "jorvek_streams", "process_resident_memory_bytes"} <= names
    assert nobody.get("/metrics").status_code == 404, "tablets have no business with it"
