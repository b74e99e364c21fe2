"""Core, HTTP status and words say the same no; a fault of the house is never the asker's."""

from __future__ import annotations

import ast
from typing import Any, get_args
from uuid import uuid4

import pytest
import sqlalchemy as sa
import structlog
from fastapi.testclient import TestClient
from structlog.testing import capture_logs

from jorvek.api.problems import STATUS
from jorvek.core.refusal import KIND_OF, Refusal, RefusalKind
from jorvek.core.run.rules import asked_first
from jorvek.core.run.views import calls
from jorvek.messages import catalogue
from jorvek.settings import ROOT
from jorvek.work.runs import changes, reading
from tests.api.conftest import SignedIn
from tests.conftest import World

SOURCES = sorted((ROOT / "src" / "jorvek").rglob("*.py"))


def raised_codes() -> set[str]:
    """Every code that the program raises, read from its own text."""
    found = set[str]()
    for path in SOURCES:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Refusal" and node.args:
                found |= {str(n.value) for n in ast.walk(node.args[0]) if isinstance(n, ast.Constant)}
    # A question is put by what a reading is held against, with or without what was probably meant.
    return found | {"cell_taken", *get_args(asked_first.Question), *asked_first.OFFERED.values()}


def test_every_refusal_is_raised_has_a_kind_a_status_and_words() -> None:
    words = catalogue()["refusal"]
    assert isinstance(words, dict)
    assert raised_codes() == set(KIND_OF) == set(words)
    assert set(STATUS) == set(RefusalKind)
    assert set(KIND_OF.values()) == set(RefusalKind)
    assert len(set(STATUS.values())) == len(STATUS), "the status alone tells the kind"


def test_a_broken_chain_is_a_fault_of_the_house_and_logged(world: World, signed_in: SignedIn) -> None:
    player = world.started()
    with world.workshop.database.engine.begin() as connection:
        connection.execute(sa.text("UPDATE event SET body = REPLACE(body, 'Bram', 'Brom')"))
    world.workshop.log._cache.clear()
    with capture_logs() as logs:
        answer = signed_in("Bram Okafor").get(f"/api/runs/{player.run_id}")
    assert (answer.status_code, answer.json()["code"]) == (500, "refusal.log_broken")
    assert [line["log_level"] for line in logs if line["event"] == "damaged"] == ["error"]


def test_answers_and_log_lines_carry_one_request_id_also_when_the_program_fails(
    world: World, signed_in: SignedIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = signed_in("Bram Okafor")

    def broken(_: object) -> None:
        raise RuntimeError("made for the test")

    monkeypatch.setattr(world.workshop.registers, "tools", lambda: broken(None))
    processors = [structlog.contextvars.merge_contextvars]
    with capture_logs(processors=processors) as logs:
        answer = client.get("/api/tools")
    assert answer.status_code == 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    ids = {line["request_id"] for line in logs}
    assert {line["event"] for line in logs} >= {"unexpected", "request"}
    assert ids == {answer.headers["x-request-id"]}
    assert client.get("/api/berth").headers["x-request-id"] not in ids


def test_a_request_from_elsewhere_is_refused_with_the_same_headers(nobody: TestClient) -> None:
    answer = nobody.post("/api/session", json={}, headers={"Origin": "http://elsewhere.test"})
    assert (answer.status_code, answer.json()["code"]) == (403, "problem.wrong_origin")
    assert answer.headers["x-request-id"]
    assert answer.headers["x-content-type-options"] == "nosniff"


def test_what_is_stored_is_answered_as_stored_though_the_bench_cannot_be_drawn(
    world: World, signed_in: SignedIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    player, client = world.started(), signed_in("Bram Okafor")
    path = f"/api/runs/{player.run_id}"
    call = client.get(path).json()["view"]["calls"][0]

    def broken(*_: object) -> None:
        raise Refusal("E_DATA", name="bores", why="made for the test")

    monkeypatch.setattr(calls, "_movement", broken)
    command = {
        "kind": "record",
        "id": str(uuid4()),
        "cell": call["cell"],
        "attempt": 1,
        "answer": {"type": "tick"},
    }
    before = world.workshop.log.snapshot(player.run_id).state.seq
    answer = client.post(f"{path}/commands", json={"command": command})
    assert answer.status_code == 200
    view = answer.json()["view"]
    assert view["fault"]["code"] == "cannot_be_shown"
    assert view["seq"] == before + 1
    assert (view["last"]["cell"], view["last_may_strike"]) == (call["cell"], True)
    assert view["calls"][0]["cell"] != call["cell"], "the next call is there, plainly"
    strike = {"kind": "strike", "id": str(uuid4()), "cell": call["cell"], "attempt": 1, "reason": "Wrong door"}
    struck = client.post(f"{path}/commands", json={"command": strike})
    assert struck.status_code == 200
    assert client.get(path).json()["view"]["calls"][0]["cell"] == call["cell"]
    monkeypatch.undo()
    assert client.get(path).json()["view"]["fault"] is None
    assert reading.record(world.workshop, player.run_id).seq == before + 2


def test_a_small_answer_leads_to_the_whole_view_and_one_that_fails_is_sent_whole(
    world: World, signed_in: SignedIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    player, client = world.started(), signed_in("Bram Okafor")
    path = f"/api/runs/{player.run_id}"

    def tick(knows: str) -> dict[str, Any]:
        call = client.get(path).json()["view"]["calls"][0]
        said = {"kind": "record", "id": str(uuid4()), "cell": call["cell"], "attempt": 1, "answer": {"type": "tick"}}
        answer = client.post(f"{path}/commands", json={"command": said, "knows": knows})
        assert answer.status_code == 200
        found: dict[str, Any] = answer.json()
        return found

    first = client.get(path).json()
    small = tick(first["version"])
    assert (small["view"], small["base"]) == (None, first["version"])
    assert ["seq"] in [one["place"] for one in small["changes"]]
    unknown = tick("0" * 16)
    assert (unknown["base"], unknown["changes"]) == (None, None)
    assert unknown["view"]["seq"] == first["view"]["seq"] + 2

    def broken(*_: object) -> None:
        raise ValueError("made for the test")

    monkeypatch.setattr(changes, "changes", broken)
    whole = tick(unknown["version"])
    assert whole["changes"] is None
    assert whole["view"]["seq"] == first["view"]["seq"] + 3, "stored, and answered as stored"


def test_what_changes_something_says_from_which_page_it_comes(nobody: TestClient) -> None:
    """A browser always does; whoever leaves it out is no page of this server."""
    del nobody.headers["Origin"]
    answer = nobody.post("/api/session", json={})
    assert (answer.status_code, answer.json()["code"]) == (403, "problem.wrong_origin")
    assert nobody.get("/api/session").status_code == 200, "looking needs none"
