"""Limits of time and size: sessions end, tries at a PIN wait longer and longer, bodies end where they may."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from starlette.types import Message, Receive, Scope, Send

from jorvek.api.middleware import MAX_BODY, MAX_PHOTO_BODY, RequestMiddleware
from jorvek.core.refusal import Refusal
from jorvek.local.demo import DEMO_PIN
from jorvek.work import people
from tests.api.conftest import SignedIn
from tests.conftest import World


def test_a_session_ends_on_its_hour_and_not_before(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    world.clock.forward(people.SESSION_LIFE.total_seconds() - 1)
    assert bram.get("/api/berth").status_code == 200
    world.clock.forward(1)
    assert bram.get("/api/berth").status_code == 401
    assert bram.get("/api/session").json() is None


def test_a_session_ends_when_its_person_leaves_it(signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    token = bram.cookies["jorvek_session"]
    assert bram.delete("/api/session").status_code == 204
    bram.cookies.set("jorvek_session", token)
    assert bram.get("/api/berth").status_code == 401


def tries(world: World, n: int) -> list[str]:
    lio = people.person_by_name(world.workshop, "Lio Sandvik")
    found = list[str]()
    for _ in range(n):
        try:
            people.check_pin(world.workshop, lio.id, "000000")
        except Refusal as refusal:
            found.append(refusal.code)
    return found


def waiting_s(world: World) -> float:
    lio = people.person_by_name(world.workshop, "Lio Sandvik")
    row = world.workshop.registers.person(lio.id)
    return (row.locked_until - world.clock()).total_seconds() if row.locked_until else 0.0


def test_after_five_wrong_pins_each_further_one_doubles_the_wait_up_to_a_quarter_of_an_hour(world: World) -> None:
    assert tries(world, 4) == ["pin_wrong"] * 4
    assert waiting_s(world) == 0
    waits = []
    for _ in range(8):
        assert tries(world, 1) == ["pin_wrong"]
        waits.append(waiting_s(world))
        assert tries(world, 1) == ["pin_delay"], "while it waits nothing is tried"
        world.clock.forward(waits[-1])
    assert waits == [30, 60, 120, 240, 480, 900, 900, 900]
    lio = people.person_by_name(world.workshop, "Lio Sandvik")
    assert people.check_pin(world.workshop, lio.id, DEMO_PIN).id == lio.id
    assert waiting_s(world) == 0
    assert tries(world, 5) == ["pin_wrong"] * 5, "a right one begins the count anew"
    assert waiting_s(world) == 30


def test_the_wait_says_how_long_and_a_right_pin_does_not_shorten_it(world: World, nobody: TestClient) -> None:
    tries(world, 5)
    lio = people.person_by_name(world.workshop, "Lio Sandvik")
    body = {"person_id": str(lio.id), "pin": DEMO_PIN}
    answer = nobody.post("/api/session", json=body)
    assert (answer.status_code, answer.json()["code"]) == (429, "refusal.pin_delay")
    assert answer.json()["params"]["seconds"] == 31
    world.clock.forward(30)
    assert nobody.post("/api/session", json=body).status_code == 200


async def _reads_all(scope: Scope, receive: Receive, send: Send) -> None:
    """An application that reads the body to its end, then answers how much it was."""
    size = 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return
        size += len(message.get("body", b""))
        if not message.get("more_body"):
            break
    await send({"type": "http.response.start", "status": 200, "headers": []})
    await send({"type": "http.response.body", "body": str(size).encode()})


def streamed(path: str, chunks: int, declared: int | None) -> tuple[int, bytes]:
    """Send a body in chunks of 100 kB through the middleware, with or without saying how long it will be."""
    headers = [(b"host", b"jorvek")] + ([(b"content-length", str(declared).encode())] if declared is not None else [])
    scope: dict[str, Any] = {"type": "http", "method": "POST", "path": path, "headers": headers}
    left, sent = iter(range(chunks)), list[Message]()

    async def body() -> AsyncIterator[Message]:
        for k in left:
            yield {"type": "http.request", "body": b"x" * 100_000, "more_body": k < chunks - 1}

    source = body()

    async def receive() -> Message:
        return await anext(source)

    async def send(message: Message) -> None:
        sent.append(message)

    asyncio.run(RequestMiddleware(_reads_all)(scope, receive, send))
    return sent[0]["status"], sent[1]["body"]


@pytest.mark.parametrize(
    ("path", "limit"), [("/api/procedures", MAX_BODY), (f"/api/runs/{uuid4()}/photos", MAX_PHOTO_BODY)]
)
def test_a_body_ends_at_its_limit_whatever_was_said_of_its_length(path: str, limit: int) -> None:
    most = limit // 100_000
    assert streamed(path, most, None) == (200, str(most * 100_000).encode())
    for declared in (None, 10):
        status, said = streamed(path, most + 1, declared)
        assert status == 413
        assert b"problem.too_large" in said
    assert streamed(path, 1, limit)[0] == 200
    assert streamed(path, 1, limit + 1)[0] == 413


def test_a_session_lives_a_working_day() -> None:
    assert timedelta(hours=12) <= people.SESSION_LIFE <= timedelta(hours=16)
