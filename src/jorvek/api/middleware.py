"""What stands in front of every route: size, origin, headers, request id."""

from __future__ import annotations

import asyncio
import re
import time
from urllib.parse import parse_qs, urlsplit
from uuid import uuid4

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jorvek.api.problems import problem
from jorvek.measures import REQUEST_SECONDS, REQUESTS
from jorvek.messages import LANGUAGES, clock_zone, say, speaking
from jorvek.work.people.accounts import calling_from

MAX_BODY = 1_000_000
MAX_PHOTO_BODY = 10_000_001
"""One byte more than a photograph may have, so that the answer can say what is allowed."""
BODY_WITHIN_S = 60
"""Within so long all of a body is there; whoever sends a byte now and then holds nothing up."""
_ONLY_TLS = "max-age=31536000"
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
_METHODS = _SAFE | {"POST", "PUT", "PATCH", "DELETE"}

_HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
        "frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}

_log = structlog.get_logger()


class RequestMiddleware:
    """ASGI middleware, written plainly because it runs for every reading.

    Every answer, an unexpected one too, and every line of the log carry the request's id.

    Args:
        app: what answers.
        hosts: names under which it may be asked for; None for any.
        zone: time zone of the site.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str] | None = None, zone: str = "UTC") -> None:
        self.app, self.hosts, self.zone = app, hosts, zone

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it here."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        request_id, started, began = uuid4().hex[:12], False, time.monotonic()
        secure = scope.get("scheme") == "https"
        calling_from.set(scope["client"][0] if scope.get("client") else "unknown")
        speaking.set(_language_of(scope, headers))
        clock_zone.set(self.zone)
        structlog.contextvars.bind_contextvars(request_id=request_id)

        async def send_with_headers(message: Message) -> None:
            nonlocal started
            if message["type"] == "http.response.start":
                started = True
                outgoing = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    outgoing.setdefault(name, value)
                outgoing["X-Request-Id"] = request_id
                if secure:
                    outgoing["Strict-Transport-Security"] = _ONLY_TLS
                if scope["path"].startswith("/api/"):
                    outgoing.setdefault("Cache-Control", "no-store")
                    _counted(scope, message["status"], time.monotonic() - began)
            await send(message)

        refused = self._from_elsewhere(scope, headers)
        if refused is not None:
            await refused(scope, receive, send_with_headers)
            return
        limit = MAX_PHOTO_BODY if scope["path"].endswith("/photos") else MAX_BODY
        body = _Body(receive, headers, limit, asks_only=scope["method"] in _SAFE)

        async def send_unless_too_large(message: Message) -> None:
            if not (body.too_large or body.too_slow):
                await send_with_headers(message)

        try:
            await self.app(scope, body.receive, send_unless_too_large)
        except Exception:
            _log.exception("unexpected", method=scope["method"], path=scope["path"])
            if started:
                raise
            answer = problem(500, "problem.internal", say("problem.internal"), kept="unknown")
            await answer(scope, receive, send_with_headers)
            return
        unread = body.fault()
        if unread is not None:
            await unread(scope, receive, send_with_headers)

    def _from_elsewhere(self, scope: Scope, headers: Headers) -> Response | None:
        """Return what a request by another name, or one that changes something from another page, is answered."""
        if self.hosts is not None and _host_of(headers) not in self.hosts:
            return problem(400, "problem.wrong_host", say("problem.wrong_host"))
        if scope["method"] not in _SAFE and not _own_origin(headers):
            return problem(403, "problem.wrong_origin", say("problem.wrong_origin"))
        return None


LANGUAGE_COOKIE = "jorvek_language"
_MACRO = {"no": "nb"}
"""A browser may name a language wider than its catalogue (RFC 5646, macrolanguage)."""


def _language_of(scope: Scope, headers: Headers) -> str:
    """Return the language to answer in: of a printed sheet, of whoever is signed in, of the browser, or English."""
    asked = parse_qs(scope.get("query_string", b"").decode("latin-1")).get("language", [])
    cookies = (one.strip().partition("=") for one in headers.get("cookie", "").split(";"))
    chosen = [value for name, _, value in cookies if name == LANGUAGE_COOKIE]
    wanted = (_MACRO.get(one, one) for one in (*asked, *chosen, *accepted(headers.get("accept-language", ""))))
    return next((one for one in wanted if one in LANGUAGES), "en")


_WEIGHT = re.compile(r"q\s*=\s*(0(\.\d{0,3})?|1(\.0{0,3})?)", re.IGNORECASE)


def accepted(header: str) -> list[str]:
    """Return the languages that a browser takes, the one it likes best first (RFC 9110, 12.5.4 and 12.4.2).

    One with a weight of 0 is not wanted at all; one whose weight is none is left out.
    """
    found: list[tuple[float, str]] = []
    for one in header.split(","):
        language, *rest = (part.strip() for part in one.split(";"))
        weight = _WEIGHT.fullmatch(rest[0]) if rest else None
        share = float(weight[1]) if weight else 0.0 if rest else 1.0
        if language and share > 0.0:
            found.append((share, language.partition("-")[0].lower()))
    # Sorting keeps the order of those that are liked as much.
    return [language for _, language in sorted(found, key=lambda pair: -pair[0])]


def _counted(scope: Scope, status: int, seconds: float) -> None:
    """Count a request to the API by its route: what stands in a path is nobody's affair, and without end."""
    route = getattr(scope.get("route"), "path", "none")
    REQUESTS.labels(scope["method"] if scope["method"] in _METHODS else "other", route, str(status)).inc()
    REQUEST_SECONDS.labels(route).observe(seconds)
    _log.info("request", method=scope["method"], path=scope["path"], status=status, ms=round(1000 * seconds, 1))


class _Body:
    """Counts what comes in; beyond the limit, or too late, the application sees the connection close."""

    def __init__(self, receive: Receive, headers: Headers, limit: int, *, asks_only: bool) -> None:
        declared = headers.get("content-length", "0")
        self._receive = receive
        self._seen = 0
        self._limit = limit
        self._until = time.monotonic() + BODY_WITHIN_S
        self._whole, self.too_slow = asks_only, False
        self.too_large = declared.isdigit() and int(declared) > limit

    async def receive(self) -> Message:
        if self.too_large:
            return {"type": "http.disconnect"}
        message = await self._in_time()
        self._seen += len(message.get("body", b""))
        if self._seen > self._limit:
            self.too_large = True
            return {"type": "http.disconnect"}
        return message

    async def _in_time(self) -> Message:
        """Wait for more of the body, and for whatever comes after it as long as it takes."""
        if self._whole:
            return await self._receive()
        try:
            message = await asyncio.wait_for(self._receive(), self._until - time.monotonic())
        except TimeoutError:
            self.too_slow = True
            return {"type": "http.disconnect"}
        self._whole = not message.get("more_body", False)
        return message

    def fault(self) -> Response | None:
        """Return what is answered when not all of it was read."""
        if self.too_slow:
            within = {"seconds": BODY_WITHIN_S}
            return problem(408, "problem.too_slow", say("problem.too_slow", within), within)
        if self.too_large:
            limit = {"limit": self._limit}
            return problem(413, "problem.too_large", say("problem.too_large", limit), limit)
        return None


def _host_of(headers: Headers) -> str:
    """Return the name that was asked for, without its port."""
    return urlsplit(f"//{headers.get('host', '')}").hostname or ""


def _own_origin(headers: Headers) -> bool:
    """Tell whether a request comes from a page of this server: every browser says so of what changes something.

    Source: Fetch standard, 3.1 (the Origin header is sent with every method but GET and HEAD).
    """
    return urlsplit(headers.get("origin", "")).netloc == headers.get("host", "-")
