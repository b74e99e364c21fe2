"""The hand-over card on one sheet of A4."""

from __future__ import annotations

import hashlib
from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from jorvek import __version__
from jorvek.core.run.views.annotations import Owed
from jorvek.core.run.views.hand_over import HandOver
from jorvek.messages import say
from jorvek.reports.paper import FONTS, code, figure_text, template, to_pdf


def hand_over_pdf(card: HandOver, run_id: UUID, base_url: str, zone: str, now: datetime) -> bytes:
    """Return the card as PDF bytes.

    Args:
        card: the card.
        run_id: the run, for the printed code.
        base_url: address that the code leads back to.
        zone: time zone of the site.
        now: when it is printed.
    """
    tz = ZoneInfo(zone)
    html = template("handover.html.jinja").render(
        c=card,
        now=now,
        t=lambda key, **params: say(key, params),
        when=lambda at: f"{at.astimezone(tz):%Y-%m-%d %H:%M}",
        fig=figure_text,
        owed=[owed_words(one) for one in card.owed],
        qr=code(f"{base_url}/bench/{run_id}"),
        app_version=__version__,
        fonts=FONTS,
    )
    return to_pdf(html, hashlib.sha256(html.encode()).hexdigest()[:32])


def owed_words(owed: Owed) -> str:
    """Return what is owed in words."""
    match owed.debt:
        case "tool_on":
            return say("bench.owed_tool_on", {"fastener": owed.fastener or ""})
        case "owed_part":
            return owed.text or owed.title
        case _:
            return f"{say(f'bench.owed_{owed.debt}')}: {owed.title} {owed.fastener or ''}".strip()
