"""The application: routers, errors, the built front end."""

from __future__ import annotations

import asyncio
import mimetypes
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Final

from fastapi import FastAPI, HTTPException
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import Scope

from jorvek import __version__
from jorvek.api import engines, overview, plans, problems, procedures, reckoner, runs, session
from jorvek.api.live import Live
from jorvek.api.middleware import RequestMiddleware
from jorvek.settings import ROOT
from jorvek.work.sealing import EVERY_S as SEALED_EVERY_S
from jorvek.work.sealing import sealed
from jorvek.work.upkeep.periodic_jobs import HERE_EVERY_S, Attending, servers_of
from jorvek.work.workshop import DatabaseAwayError, Workshop

DESCRIPTION: Final = ROOT / "web" / "openapi.json"
"""The description of the API as ``./jorvek generate`` writes it; the tests hold it against the program."""


@asynccontextmanager
async def _periodic_jobs(workshop: Workshop, live: Live) -> AsyncIterator[None]:
    """Seal the site log and say that this server is there, for as long as it runs."""
    task = asyncio.create_task(live.run())
    servers = servers_of(workshop)
    sealing = Attending("site_log", SEALED_EVERY_S, lambda: sealed(workshop))
    serving = Attending("serving", HERE_EVERY_S, servers.here)
    await asyncio.to_thread(serving.once)
    sealing.start()
    serving.start()
    yield
    # They may be at the database: the loop does not wait for it.
    await asyncio.to_thread(sealing.stop)
    await asyncio.to_thread(serving.stop)
    with suppress(DatabaseAwayError):
        await asyncio.to_thread(servers.leave)
    task.cancel()
    with suppress(asyncio.CancelledError):
        await task


def create_app(workshop: Workshop, web: Path | None = None, hosts: frozenset[str] | None = None) -> FastAPI:
    """Return the application on an open workshop.

    Args:
        workshop: the store, clock and settings.
        web: directory of the built front end, or None to serve the API alone.
        hosts: names under which it may be asked for; None for any.
    """
    live = Live(workshop)
    app = FastAPI(
        title="Jorvek",
        version=__version__,
        summary="Tightening work on heavy engines, measured, reckoned and recorded.",
        docs_url=None,
        redoc_url=None,
        # Working it out takes seconds in which nobody is answered: it is written when the program is built.
        openapi_url=None,
        lifespan=lambda _: _periodic_jobs(workshop, live),
    )
    app.state.workshop, app.state.live = workshop, live
    problems.install(app)
    for router in (
        session.router,
        overview.router,
        engines.router,
        plans.router,
        plans.format_router,
        plans.today_router,
        engines.sheet_router,
        engines.sheet_format_router,
        runs.router,
        procedures.router,
        procedures.format_router,
        reckoner.router,
        runs.photo_router,
        runs.live_router,
    ):
        app.include_router(router)
    _serve_front_end(app, web)
    # The Bench of a large head shrinks to a tenth; a stream of events and what is compressed already go as they are.
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=3)
    app.add_middleware(RequestMiddleware, hosts=hosts, zone=workshop.site_zone)
    return app


class BuiltAssets(StaticFiles):
    """Files of the built front end: named by their content, so kept for good, and compressed when they were built."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """Return a file, in the smallest form that was built and that the browser takes."""
        try:
            return await self._found(path, scope)
        except (OSError, ValueError) as error:
            # No file has such a name, and asking the system for it is an error.
            raise HTTPException(404) from error

    async def _found(self, path: str, scope: Scope) -> Response:
        accepted = Headers(scope=scope).get("accept-encoding", "")
        for ending, coding in ((".br", "br"), (".gz", "gzip")):
            found, _ = self.lookup_path(path + ending)
            if found and coding in accepted:
                kind = mimetypes.guess_type(path)[0]
                answer: Response = FileResponse(found, media_type=kind, headers={"Content-Encoding": coding})
                break
        else:
            answer = await super().get_response(path, scope)
        answer.headers["Vary"] = "Accept-Encoding"
        if answer.status_code == 200:
            answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer


_BY_NAME = frozenset(
    {"icon.svg", "icon-192.png", "icon-512.png", "icon-maskable-512.png", "manifest.webmanifest", "worker.js"}
)


def _serve_front_end(app: FastAPI, web: Path | None) -> None:
    @app.get("/api/openapi.json", include_in_schema=False)
    def description() -> FileResponse:
        return FileResponse(DESCRIPTION, media_type="application/json", headers={"Cache-Control": "no-cache"})

    @app.get("/api/{rest:path}", include_in_schema=False)
    def no_such_route(rest: str) -> Response:
        raise HTTPException(404)

    if web is None:
        return
    app.mount("/assets", BuiltAssets(directory=web / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        # Asked for by these names alone: nothing else of the directory can be reached.
        if path in _BY_NAME:
            return FileResponse(web / path, headers={"Cache-Control": "no-cache"})
        return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})
