"""Served over TLS with a self-made certificate: trusted by whoever has its root, by nobody else."""

from __future__ import annotations

import ssl
import threading
import time
from pathlib import Path

import httpx2 as httpx
import pytest
import uvicorn

from jorvek.api.app import create_app
from jorvek.local.demo import DEMO_PIN
from jorvek.local.mariadb import ServerFailedError, free_port
from jorvek.local.secure import certificate_of, names_of
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
    with httpx.Client(base_url=f"https://localhost:{port}", verify=trusting) as client:
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
