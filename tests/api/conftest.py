"""A client on the application, in one person's name."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import pytest
from fastapi.testclient import TestClient

from jorvek.api.app import create_app
from jorvek.local.demo import DEMO_PIN
from jorvek.work.people.accounts import person_by_name
from tests.api.whole_schema import ORIGIN
from tests.conftest import World

SignedIn = Callable[[str], TestClient]


@pytest.fixture
def nobody(world: World) -> Iterator[TestClient]:
    with TestClient(create_app(world.workshop), raise_server_exceptions=False, headers=ORIGIN) as client:
        yield client


@pytest.fixture
def signed_in(world: World, nobody: TestClient) -> SignedIn:
    def enter(name: str) -> TestClient:
        client = TestClient(nobody.app, raise_server_exceptions=False, headers=ORIGIN)
        person = person_by_name(world.workshop, name)
        answer = client.post("/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN})
        assert answer.status_code == 200
        return client

    return enter
