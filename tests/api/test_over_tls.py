"""Served over TLS with a self-made certificate: trusted by whoever has its root, by nobody else."""

from __future__ import annotations

import asyncio
import ssl
import threading
import time
from pathlib import Path

import httpx2 as httpx
import pytest
import uvicorn
from starlette.types import Receive, Scope, Send

from jorvek.api.app import create_app
from jorvek.local import serve
from jorvek.local.demo import DEMO_PIN
from jorvek.local.mariadb import ServerFailedError, free_port
from jorvek.local.secure import certificate_of, names_of, own_addresses
from jorvek.local.serve import config_of, hosts_of
from jorvek.settings import Settings
from tests.conftest import World


def test_a_self_made_certificate_serves_whoever_trusts_its_root(world: World, tmp_path: Path) -> None:
    settings = Settings(data=tmp_path, self_made=True)
    made = certificate_of(settings)
    assert made is not None
    assert made.root is not None
    assert certificate_of(settings) == made
    assert made.key.stat().st_mode & 0o077 == 0
    port = free_port()
    config = uvicorn.Config(
        create_app(world.workshop), port=port, log_level="error", ssl_certfile=made.certificate, ssl_keyfile=made.key
    )
    server = uvicorn.Server(config)
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.02)
    trusting = ssl.create_default_context(cafile=str(made.root))
    with httpx.Client(
        base_url=f"https://localhost:{port}", headers={"Origin": f"https://localhost:{port}"}, verify=trusting
    ) as client:
        person = client.get("/api/people").json()[0]["id"]
        signed_in = client.post("/api/session", json={"person_id": person, "pin": DEMO_PIN})
        assert "secure" in signed_in.headers["set-cookie"].lower()
    with httpx.Client(verify=ssl.create_default_context()) as stranger, pytest.raises(httpx.ConnectError):
        stranger.get(f"https://localhost:{port}/api/people")
    server.should_exit = True


def test_half_a_certificate_is_refused(tmp_path: Path) -> None:
    there = tmp_path / "server.pem"
    there.write_text("x")
    for given in (
        {"certificate": there},
        {"certificate_key": there},
        {"certificate": there, "certificate_key": tmp_path / "gone.key"},
    ):
        with pytest.raises(ServerFailedError):
            certificate_of(Settings(data=tmp_path, **given))  # type: ignore[arg-type]  # wrong on purpose
    assert certificate_of(Settings(data=tmp_path)) is None
    assert "10.0.0.7" in names_of("10.0.0.7")


def test_served_on_all_networks_it_answers_by_each_address_of_the_machine_and_says_which() -> None:
    settings = Settings(host="0.0.0.0", hosts="")  # what the test is about
    own = own_addresses()
    assert own
    assert set(own) <= hosts_of(settings)
    assert set(own) <= set(names_of("0.0.0.0")), "and the certificate is good for them"
    said = serve._at(settings)
    assert not [line for line in said if "0.0.0.0" in line], "no tablet can open that"
    assert all(any(line == f"Jorvek is at http://{one}:8071" for line in said) for one in own if one[:4] != "127.")


@pytest.mark.parametrize(("proxies", "seen"), [("", "127.0.0.1"), ("127.0.0.1", "10.9.9.9"), ("10.1.1.1", "127.0.0.1")])
def test_where_somebody_calls_from_is_believed_of_a_named_proxy_alone(proxies: str, seen: str) -> None:
    """A new address with each request would be as many tries at a PIN as anybody likes."""
    found = list[str]()

    async def app(scope: Scope, _: Receive, __: Send) -> None:
        found.append(scope["client"][0])

    config = config_of(Settings(proxies=proxies), app, None)
    config.load()
    headers = [(b"x-forwarded-for", b"10.9.9.9"), (b"x-forwarded-proto", b"https")]
    scope = {"type": "http", "client": ("127.0.0.1", 4711), "headers": headers, "scheme": "http", "path": "/"}
    asyncio.run(config.loaded_app(scope, None, None))
    assert found == [seen]
