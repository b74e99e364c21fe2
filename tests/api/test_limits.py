"""Limits of time and size: sessions end, tries at a PIN wait longer and longer, bodies end where they may."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable
from contextvars import copy_context
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
import sqlalchemy as sa
from fastapi.testclient import TestClient
from starlette.types import Message, Receive, Scope, Send

from jorvek.api import middleware
from jorvek.api.middleware import MAX_BODY, MAX_PHOTO_BODY, RequestMiddleware, accepted
from jorvek.core.refusal import Refusal
from jorvek.local.demo import DEMO_PIN
from jorvek.local.serve import hosts_of
from jorvek.settings import Settings
from jorvek.store import tables as t
from jorvek.work.people import accounts
from jorvek.work.workshop import DatabaseAwayError
from tests.api.conftest import SignedIn
from tests.conftest import World


def test_a_session_ends_on_its_hour_and_not_before(world: World, signed_in: SignedIn) -> None:
    bram = signed_in("Bram Okafor")
    world.clock.forward(accounts.SESSION_LIFE.total_seconds() - 1)
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


def test_the_old_token_dies_when_somebody_signs_in_on_the_same_tablet(world: World, signed_in: SignedIn) -> None:
    tablet = signed_in("Bram Okafor")
    old = tablet.cookies["jorvek_session"]
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
    assert tablet.post("/api/session", json={"person_id": str(lio.id), "pin": DEMO_PIN}).status_code == 200
    new = tablet.cookies["jorvek_session"]
    assert accounts.who(world.workshop, old) is None
    assert accounts.who(world.workshop, new) is not None
    # A wrong PIN signs nobody out.
    assert tablet.post("/api/session", json={"person_id": str(lio.id), "pin": "000000"}).status_code == 403
    assert accounts.who(world.workshop, new) is not None


def tries(world: World, n: int) -> list[str]:
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
    found = list[str]()
    for _ in range(n):
        try:
            accounts.check_pin(world.workshop, lio.id, "000000")
        except Refusal as refusal:
            found.append(refusal.code)
    return found


def waiting_s(world: World) -> float:
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
    table = t.pin_try.c
    mine = sa.select(table.locked_until).where(table.person_id == str(lio.id), table.address == "here")
    with world.workshop.database.reading() as connection:
        until = connection.execute(mine).scalar()
    return (until - world.clock()).total_seconds() if until else 0.0


def elsewhere(address: str, deed: Callable[[], object]) -> object:
    """Do something as somebody who asks from another address."""
    context = copy_context()
    context.run(accounts.calling_from.set, address)
    return context.run(deed)


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
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
    assert accounts.check_pin(world.workshop, lio.id, DEMO_PIN).id == lio.id
    assert waiting_s(world) == 0
    assert tries(world, 5) == ["pin_wrong"] * 5, "a right one begins the count anew"
    assert waiting_s(world) == 30


def test_nobody_is_locked_out_for_what_others_try_from_elsewhere(world: World) -> None:
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
    assert elsewhere("10.0.0.66", lambda: tries(world, 7)) == ["pin_wrong"] * 5 + ["pin_delay"] * 2
    assert accounts.check_pin(world.workshop, lio.id, DEMO_PIN).id == lio.id
    assert elsewhere("10.0.0.66", lambda: tries(world, 1)) == ["pin_delay"], "his own signing in has freed nobody"


def test_whoever_tries_one_pin_each_on_everybody_is_delayed_by_the_address(world: World) -> None:
    everybody = world.workshop.registers.people()

    def round_about() -> list[str]:
        found = list[str]()
        for person in everybody * 4:
            with pytest.raises(Refusal) as refused:
                accounts.check_pin(world.workshop, person.id, "000000")
            found.append(refused.value.code)
        return found

    ends = elsewhere("10.0.0.66", round_about)
    assert isinstance(ends, list)
    assert (ends.count("pin_wrong"), ends[-1]) == (20, "pin_delay"), "of 24 tries twenty were looked at"
    assert accounts.check_pin(world.workshop, everybody[0].id, DEMO_PIN)


@pytest.mark.parametrize("broken", ["taken_back", "wrong"])
def test_a_try_whose_database_died_is_taken_back_once_it_is_there_again(
    world: World, broken: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    lio, registers = accounts.person_by_name(world.workshop, "Lio Sandvik"), world.workshop.registers

    def away(*_: object) -> None:
        raise DatabaseAwayError("gone")

    assert tries(world, 4) == ["pin_wrong"] * 4
    with monkeypatch.context() as dying:
        dying.setattr(type(registers), "forget_tries", away)
        with pytest.raises(DatabaseAwayError):
            accounts.check_pin(world.workshop, lio.id, DEMO_PIN)
    assert waiting_s(world) == 30, "the fifth try, as it stands in the register"
    if broken == "taken_back":
        assert accounts.check_pin(world.workshop, lio.id, DEMO_PIN).id == lio.id
    else:
        assert tries(world, 5) == ["pin_wrong"] * 5, "the count began anew with the right one"


def test_a_wrong_pin_of_an_hour_ago_counts_no_more(world: World) -> None:
    assert tries(world, 4) == ["pin_wrong"] * 4
    world.clock.forward(3600 - 1)
    assert tries(world, 2) == ["pin_wrong", "pin_delay"]
    world.clock.forward(3600)
    assert tries(world, 5) == ["pin_wrong"] * 5


def test_the_wait_says_how_long_and_a_right_pin_does_not_shorten_it(world: World, nobody: TestClient) -> None:
    elsewhere("testclient", lambda: tries(world, 5))
    lio = accounts.person_by_name(world.workshop, "Lio Sandvik")
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


_OWN_PAGE = [(b"host", b"jorvek"), (b"origin", b"http://jorvek")]


def streamed(path: str, chunks: int, declared: int | None) -> tuple[int, bytes]:
    """Send a body in chunks of 100 kB through the middleware, with or without saying how long it will be."""
    headers = [*_OWN_PAGE] + ([(b"content-length", str(declared).encode())] if declared is not None else [])
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
    assert timedelta(hours=12) <= accounts.SESSION_LIFE <= timedelta(hours=16)


# ---- by which name, how fast, and over what --------------------------------------------------------------------------


def asked(through: RequestMiddleware, receive: Receive, **scope: Any) -> list[Message]:
    """Send one request through the middleware alone, and return what comes out."""
    sent: list[Message] = []

    async def send(message: Message) -> None:
        sent.append(message)

    usual = {"type": "http", "method": "GET", "path": "/api/people", "headers": _OWN_PAGE, "client": ("10.0.0.7", 1)}
    asyncio.run(through({**usual, **scope}, receive, send))
    return sent


async def at_once() -> Message:
    return {"type": "http.request", "body": b"", "more_body": False}


@pytest.mark.parametrize(
    ("host", "status"),
    [
        ("jorvek.example", 200),
        ("JORVEK.example:8071", 200),
        ("127.0.0.1:9999", 200),
        ("[::1]:8071", 200),
        ("evil.example", 400),
        ("jorvek.example.evil.example", 400),
        ("", 400),
        ("127.0.0.1@evil.example", 400),
    ],
)
def test_it_is_asked_for_by_its_own_names_alone(host: str, status: int) -> None:
    known = RequestMiddleware(_reads_all, hosts=frozenset({"jorvek.example", "127.0.0.1", "::1"}))
    sent = asked(known, at_once, headers=[(b"host", host.encode())])
    assert sent[0]["status"] == status
    assert (b"problem.wrong_host" in sent[1]["body"]) == (status == 400)


def test_its_names_are_this_machines_and_those_that_are_named() -> None:
    named = hosts_of(Settings(host="127.0.0.1", hosts="engine-room  Jorvek.site", base_url="https://jorvek.example/"))
    assert {"127.0.0.1", "localhost", "engine-room", "jorvek.site", "jorvek.example"} <= named
    assert "" not in named


@pytest.mark.parametrize(("scheme", "told"), [("https", True), ("http", False)])
def test_over_tls_a_browser_is_told_to_come_back_over_nothing_else(scheme: str, *, told: bool) -> None:
    headers = dict(asked(RequestMiddleware(_reads_all), at_once, scheme=scheme)[0]["headers"])
    assert (b"strict-transport-security" in headers) == told


def test_whoever_sends_a_body_byte_by_byte_is_dropped(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(middleware, "BODY_WITHIN_S", 0.05)

    async def drips() -> Message:
        await asyncio.sleep(0.02)
        return {"type": "http.request", "body": b"x", "more_body": True}

    sent = asked(RequestMiddleware(_reads_all), drips, method="POST")
    assert sent[0]["status"] == 408
    assert b"problem.too_slow" in sent[1]["body"]


def test_whoever_has_sent_all_may_wait_for_the_answer_as_long_as_it_takes(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(middleware, "BODY_WITHIN_S", 0.05)
    messages = iter([{"type": "http.request", "body": b"x", "more_body": False}])

    async def whole_and_then_waits() -> Message:
        for message in messages:
            return message
        await asyncio.sleep(0.2)
        return {"type": "http.disconnect"}

    async def slow(scope: Scope, receive: Receive, send: Send) -> None:
        await receive()
        assert (await receive())["type"] == "http.disconnect", "that the caller has gone is heard late, too"
        await send({"type": "http.response.start", "status": 200, "headers": []})

    assert asked(RequestMiddleware(slow), whole_and_then_waits, method="POST")[0]["status"] == 200


@pytest.mark.parametrize(
    ("header", "languages"),
    [
        ("de-AT,de;q=0.8", ["de", "de"]),
        ("en;q=0.2, nb;q=0.9", ["nb", "en"]),
        ("es;q=0, de;q=0.1", ["de"]),
        ("de;q=2, es;q=x, nb;q=0.5", ["nb"]),
        ("es, de;q=1.0", ["es", "de"]),
        ("", []),
        (";q=1,,", []),
    ],
)
def test_a_browser_is_answered_in_the_language_it_likes_best(header: str, languages: list[str]) -> None:
    assert accepted(header) == languages
