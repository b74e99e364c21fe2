"""An engine on paper: the card for a hand-over, the dossier of an overhaul."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from datetime import datetime
from functools import partial
from zoneinfo import ZoneInfo

from jorvek import __version__
from jorvek.core.engine.layout import Engine
from jorvek.core.measuring.deflection import READ_AT
from jorvek.core.overhaul.views.dossier import Dossier
from jorvek.core.overhaul.views.engine import EngineView
from jorvek.core.overhaul.views.log_lines import LogLine
from jorvek.messages import say
from jorvek.reports.paper import FONTS, code, figure_text, template, to_pdf
from jorvek.reports.record_sheet import answer_words, found_words

_ASKED = (
    "lock",
    "permit",
    "words",
    "commander",
    "figure",
    "proof",
    "person",
    "space",
    "joints",
    "check",
    "stop",
    "cause",
)
_BLANK = dict.fromkeys((*_ASKED, "moment", "until"), "")
_NAMED = {"space": "engine.space", "check": "isolation", "point": "isolation", "cause": "engine.stop.cause"}
"""Codes among what an entry says, with the words of the catalogue that they stand for."""


def entry_words(zone: str, entry: LogLine) -> str:
    """Return a line of the engine's log in words, its times in the site's zone."""
    params = {**_BLANK, **entry.params}
    for name, words in _NAMED.items():
        if name in entry.params:
            params[name] = say(f"{words}.{entry.params[name]}")
    if entry.moment is not None:
        params["moment"] = _when(zone)(entry.moment)
        params["until"] = say("engine.until_at", {"at": params["moment"]})
    said = " ".join(say(f"engine.entry.{entry.kind}", dict(params)).split())
    return said if entry.against is None else f"{said}. {say(f'engine.against.{entry.against}')}"


def _when(zone: str) -> Callable[[datetime], str]:
    tz = ZoneInfo(zone)
    return lambda at: f"{at.astimezone(tz):%Y-%m-%d %H:%M}"


def dossier_pdf(dossier: Dossier, base_url: str, zone: str, site_seal: str = "") -> bytes:
    """Return a dossier as PDF bytes; the same dossier under the same seal gives the same pages.

    Args:
        dossier: the dossier.
        base_url: address that the printed code leads back to.
        zone: time zone of the site.
        site_seal: seal of the site log that it is printed under; empty where there is none.
    """
    html = template("dossier.html.jinja").render(
        d=dossier,
        site_seal=site_seal,
        t=lambda key, **params: say(key, params),
        when=_when(zone),
        zone=zone,
        fig=figure_text,
        entry=partial(entry_words, zone),
        answer=answer_words,
        found=found_words,
        read_at=READ_AT,
        qr=code(f"{base_url}/engine/{dossier.engine.id}"),
        app_version=__version__,
        fonts=FONTS,
    )
    return to_pdf(html, hashlib.sha256(html.encode()).hexdigest()[:32])


def engine_card_pdf(engine: Engine, view: EngineView, changed: list[LogLine], zone: str, now: datetime) -> bytes:
    """Return the card of an engine for a hand-over as PDF, on as few sheets as it takes.

    Args:
        engine: the engine.
        view: it as it stands.
        changed: what was entered since whoever takes over had it last.
        zone: time zone of the site.
        now: when it is printed.
    """
    return _page("engine-card.html.jinja", engine, view, zone, now, changed=changed)


def engine_lists_pdf(engine: Engine, view: EngineView, zone: str, now: datetime) -> bytes:
    """Return the lists that are written on where there is no tablet: isolations, locks, in and out, moves of the crank.

    Args:
        engine: the engine.
        view: it as it stands; what is isolated already stands on the list.
        zone: time zone of the site.
        now: when it is printed.
    """
    return _page("engine-lists.html.jinja", engine, view, zone, now)


def _page(name: str, engine: Engine, view: EngineView, zone: str, now: datetime, **more: object) -> bytes:
    html = template(name).render(
        engine=engine,
        v=view,
        t=lambda key, **params: say(key, params),
        when=_when(zone),
        zone=zone,
        now=now,
        entry=partial(entry_words, zone),
        app_version=__version__,
        fonts=FONTS,
        **more,
    )
    return to_pdf(html, hashlib.sha256(html.encode()).hexdigest()[:32])
