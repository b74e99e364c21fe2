"""One error body everywhere: problem+json (RFC 9457)."""

from __future__ import annotations

from typing import Any, Final

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from jorvek.core.refusal import Refusal, RefusalKind
from jorvek.measures import REFUSALS
from jorvek.messages import say
from jorvek.work.library.revisions import DocumentRefused
from jorvek.work.workshop import DatabaseAwayError, DatabaseFullError, DatabaseUnsafeError

_log = structlog.get_logger()

MEDIA_TYPE = "application/problem+json"


class LineFinding(BaseModel):
    """One thing wrong with a document: where, and what."""

    line: int
    where: str
    message: str


class Problem(BaseModel):
    """Why something was not done.

    Attributes:
        type: a name for the kind of problem, as a URN.
        title: a few words.
        status: the HTTP status.
        detail: what was wrong and what is allowed.
        code: place in the message catalogue.
        params: figures of the message.
        kept: what was kept.
        findings: what is wrong with a document, line by line.
        asks: it is only asked about: given once more as looked at again, it is taken.
    """

    type: str
    title: str
    status: int
    detail: str
    code: str
    params: dict[str, str | int | float | None] = {}
    kept: str
    findings: list[LineFinding] = []
    asks: bool = False


STATUS: Final[dict[RefusalKind, int]] = {
    RefusalKind.MISSING: 404,
    RefusalKind.CONFLICT: 409,
    RefusalKind.FORBIDDEN: 403,
    RefusalKind.UNFIT: 422,
    RefusalKind.ASKED: 428,
    RefusalKind.TOO_SOON: 429,
    RefusalKind.TOO_LARGE: 413,
    RefusalKind.DAMAGED: 500,
}


class NotSignedInError(Exception):
    """A route that needs a session was called without one."""


def problem(
    status: int,
    code: str,
    detail: str,
    params: dict[str, Any] | None = None,
    *,
    kept: str = "nothing",
    findings: list[LineFinding] | None = None,
    asks: bool = False,
) -> JSONResponse:
    """Return an error answer."""
    body = Problem(
        type=f"urn:jorvek:problem:{code}",
        title=say("problem.refused"),
        status=status,
        detail=detail,
        code=code,
        params=params or {},
        kept=say(f"kept.{kept}"),
        findings=findings or [],
        asks=asks,
    )
    return JSONResponse(body.model_dump(), status, media_type=MEDIA_TYPE)


def refusal_problem(refusal: Refusal) -> JSONResponse:
    """Return the answer for a refusal of the core or the store."""
    REFUSALS.labels(refusal.code).inc()
    detail = say(f"refusal.{refusal.code}", refusal.params)
    if isinstance(refusal.__cause__, Refusal):
        detail = f"{detail} {say(f'refusal.{refusal.__cause__.code}', refusal.__cause__.params)}"
    if refusal.kind is RefusalKind.DAMAGED:
        _log.error("damaged", code=refusal.code, **refusal.params)
    asks = refusal.kind is RefusalKind.ASKED
    return problem(STATUS[refusal.kind], f"refusal.{refusal.code}", detail, refusal.params, asks=asks)


_HTTP = {404: "problem.not_found", 405: "problem.method_not_allowed"}


def install(app: FastAPI) -> None:
    """Make the application answer every error in the one way."""

    @app.exception_handler(Refusal)
    def refused(_: Request, error: Refusal) -> JSONResponse:
        return refusal_problem(error)

    @app.exception_handler(DocumentRefused)
    def document(_: Request, error: DocumentRefused) -> JSONResponse:
        lines = [LineFinding(line=f.line, where=f.where, message=f.message[:500]) for f in error.findings[:200]]
        return problem(422, "problem.document_refused", say("problem.document_refused"), findings=lines)

    @app.exception_handler(DatabaseAwayError)
    def away(_: Request, error: DatabaseAwayError) -> JSONResponse:
        _log.warning("database_away", error=str(error)[:200])
        if isinstance(error, DatabaseFullError):
            return problem(503, "problem.disk_full", say("problem.disk_full"))
        if isinstance(error, DatabaseUnsafeError):
            return problem(503, "problem.database_unsafe", say("problem.database_unsafe"))
        return problem(503, "problem.database_away", say("problem.database_away"), kept="unknown")

    @app.exception_handler(NotSignedInError)
    def nobody(_: Request, error: NotSignedInError) -> JSONResponse:
        return problem(401, "problem.not_signed_in", say("problem.not_signed_in"))

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        return _malformed(422, f"{where}: {first['msg']}")

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        code = _HTTP.get(error.status_code)
        if code is None:
            return _malformed(error.status_code, str(error.detail))
        answer = problem(error.status_code, code, say(code))
        answer.headers.update(error.headers or {})
        return answer


def _malformed(status: int, why: str) -> JSONResponse:
    return problem(status, "problem.malformed", say("problem.malformed", {"why": why[:300]}), {"why": why[:300]})


def documented(*statuses: int) -> dict[int | str, dict[str, Any]]:
    """Return the OpenAPI entries of the error answers of a route."""
    schema = {"schema": {"$ref": "#/components/schemas/Problem"}}
    return {s: {"description": "Problem", "model": Problem, "content": {MEDIA_TYPE: schema}} for s in statuses}
