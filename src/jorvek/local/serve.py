"""Serving on one port, with or without a private database."""

from __future__ import annotations

import shutil
import signal
import socket
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from types import FrameType
from urllib.parse import urlsplit

import uvicorn
from prometheus_client import start_http_server
from starlette.types import ASGIApp

from jorvek.api.app import create_app
from jorvek.local.demo import DEMO_PIN, load_history, load_world
from jorvek.local.logs import structured_logs
from jorvek.local.mariadb import ServerFailedError
from jorvek.local.opening import locked, open_workshop
from jorvek.local.secure import Certificate, certificate_of, everywhere, names_of, own_addresses
from jorvek.settings import ROOT, Settings
from jorvek.store.site_key import SiteKeyError
from jorvek.work.workshop import Workshop


@contextmanager
def _stops_cleanly() -> Iterator[None]:
    """Turn SIGTERM and a closed terminal into an ordinary way out, so that the database is stopped too."""

    def leave(number: int, frame: FrameType | None) -> None:
        raise SystemExit(0)

    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, leave)
    with suppress(KeyboardInterrupt):
        yield


class _Announcing(uvicorn.Server):
    """A server that says when it can be reached."""

    def __init__(self, config: uvicorn.Config, lines: tuple[str, ...]) -> None:
        super().__init__(config)
        self._lines = lines

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            print("\n".join(self._lines), flush=True)


def serve_own(settings: Settings) -> None:
    """Serve the application on its own data until Ctrl-C or SIGTERM.

    Raises:
        ServerFailedError: when the private server cannot run or the port is taken.
    """
    _demand_port(settings)
    with _stops_cleanly(), open_workshop(settings) as workshop:
        _serve(settings, workshop)


def _serve(settings: Settings, workshop: Workshop, *lines: str) -> None:
    structured_logs(settings.log_level)
    if settings.metrics_port:
        start_http_server(settings.metrics_port, settings.metrics_host)
    _demand_own_key(workshop)
    secure = certificate_of(settings)
    app = create_app(workshop, settings.web, hosts_of(settings))
    said = (*_at(settings), *_about_safety(settings, secure), *lines, "Ctrl-C stops it.")
    _Announcing(config_of(settings, app, secure), said).run()


def config_of(settings: Settings, app: ASGIApp, secure: Certificate | None) -> uvicorn.Config:
    """Return how the application is served."""
    return uvicorn.Config(
        app,
        host=settings.host,
        port=settings.port,
        log_level="warning",
        access_log=False,
        # Whoever may say from where they call has as many tries at a PIN as they like.
        proxy_headers=bool(settings.proxies),
        forwarded_allow_ips=settings.proxies.split(),
        timeout_graceful_shutdown=1,
        ssl_certfile=secure.certificate if secure else None,
        ssl_keyfile=secure.key if secure else None,
    )


def _at(settings: Settings) -> tuple[str, ...]:
    """Say where it is: by each address of this machine that a tablet can use, where it serves on all of them."""
    address = settings.address()
    if settings.base_url or not everywhere(settings.host):
        return (f"Jorvek is at {address}",)
    scheme = urlsplit(address).scheme
    named = [one for one in own_addresses() if not one.startswith("127.")] or ["127.0.0.1"]
    return tuple(f"Jorvek is at {scheme}://{one}:{settings.port}" for one in named)


def hosts_of(settings: Settings) -> frozenset[str]:
    """Return the names under which the program may be asked for: another name is another site's page in front of it."""
    named = urlsplit(settings.address()).hostname
    return frozenset(name.lower() for name in (*names_of(settings.host), *settings.hosts.split(), named) if name)


def _demand_own_key(workshop: Workshop) -> None:
    try:
        if workshop.site_log is not None:
            workshop.site_log.demand_own_key()
    except SiteKeyError as error:
        raise ServerFailedError(str(error)) from error


def _about_safety(settings: Settings, secure: Certificate | None) -> tuple[str, ...]:
    """Say what a self-made certificate needs, and what is missing on a network without one."""
    if secure is not None and secure.root is not None:
        return (f"Put {secure.root} on each tablet as a root to trust; it is for trials only.",)
    if secure is None and settings.beyond_this_machine():
        return (
            "Without TLS everybody on the network can read along, PINs too, and tablets open only while the "
            "server answers. Name a certificate with --certificate and --key, or try --self-made.",
        )
    return ()


def demo(settings: Settings, *, reset: bool) -> None:
    """Run the demo; the world is loaded once and kept.

    Raises:
        ServerFailedError: when the private server cannot run or the port is taken.
    """
    _demand_port(settings)
    with _stops_cleanly():
        _demo(settings, reset=reset)


def _demo(settings: Settings, *, reset: bool) -> None:
    if reset and settings.database_url:
        raise ServerFailedError("--reset empties the private database only; JORVEK_DATABASE_URL names another one")
    if reset and settings.data.exists():
        with locked(settings.data):
            shutil.rmtree(settings.data / "db", ignore_errors=True)
            (settings.data / "site.sealed").unlink(missing_ok=True)
    with open_workshop(settings) as workshop:
        if not workshop.registers.people():
            load_history(workshop, load_world(workshop, ROOT))
        _serve(settings, workshop, f"Everybody's PIN in the demo: {DEMO_PIN}")


def _demand_port(settings: Settings) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((settings.host, settings.port))
        except OSError as error:
            raise ServerFailedError(
                f"port {settings.port} on {settings.host} is taken; choose another with JORVEK_PORT"
            ) from error
