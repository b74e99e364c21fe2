"""The record as a PDF that one could hand to an owner."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from zoneinfo import ZoneInfo

from markupsafe import Markup

from jorvek import __version__
from jorvek.core.run.log.events import Reason
from jorvek.core.run.views.claims import ClaimView
from jorvek.core.run.views.found import FoundView
from jorvek.core.run.views.record import RunRecord
from jorvek.core.run.views.rows import Row
from jorvek.core.units import symbol
from jorvek.messages import known, number_text, say
from jorvek.reports.paper import FONTS, code, figure_text, template, to_pdf


def record_html(record: RunRecord, base_url: str, zone: str, site_seal: str = "") -> str:
    """Return the record as the HTML that the PDF is made of."""
    tz = ZoneInfo(zone)

    def when(at: datetime) -> str:
        return f"{at.astimezone(tz):%Y-%m-%d %H:%M:%S}"

    address = f"{base_url}/records/{record.run_id}?seal={record.content_hash[:16]}"
    return template("record.html.jinja").render(
        r=record,
        t=lambda key, **params: say(key, params),
        when=when,
        fig=figure_text,
        band=_band,
        why=_reasons,
        item=_item,
        answer=answer_words,
        found=found_words,
        claimed=_claimed,
        unit=symbol,
        qr=code(address),
        address=address,
        zone=zone,
        app_version=__version__,
        plan=_plan_svg(record),
        fonts=FONTS,
        site_seal=site_seal,
    )


def record_pdf(record: RunRecord, base_url: str, zone: str, photos: Mapping[str, bytes], site_seal: str = "") -> bytes:
    """Return the record as PDF bytes; the same record under the same seal gives the same pages.

    Args:
        record: the record.
        base_url: address that the printed code leads back to.
        zone: time zone of the site.
        photos: the record's photographs by name.
        site_seal: seal of the site log that it is printed under; empty where there is none.
    """
    return to_pdf(record_html(record, base_url, zone, site_seal), record.content_hash[:32], photos)


def _band(row: Row) -> str:
    if row.lower and row.upper:
        return f"{number_text(row.lower.text)} … {figure_text(row.upper)}"
    if row.upper:
        return f"{say('bench.at_most')} {figure_text(row.upper)}"
    return f"{say('bench.at_least')} {figure_text(row.lower)}" if row.lower else ""


def _reasons(reasons: tuple[Reason, ...]) -> str:
    return "; ".join(say(f"reason.{r.code}", dict(r.params)) for r in reasons)


def found_words(one: FoundView) -> str:
    """Return what was found out about fasteners, with the group that it concerns."""
    range_pct = {"share": one.share_pct, "least": one.least_pct, "most": one.most_pct}
    shown: dict[str, str | int | float | None] = {
        name: None if value is None else f"{value:.0f}" for name, value in range_pct.items()
    }
    return f"{one.group}: {say(f'expected.{one.code}', {**shown, 'names': ', '.join(one.names)})}"


def answer_words(row: Row) -> str:
    """Return an answer without a figure: the catalogue's word for its code, or the author's name of a part."""
    return _said(row.answer)


def _said(answer: str) -> str:
    places = (f"answer.{answer}", f"choice.{answer}", f"trouble.{answer}")
    return next((say(place) for place in places if known(place)), answer)


def _claimed(claim: ClaimView) -> str:
    """Return words for work that came late from a lost link."""
    if claim.work == "note":
        return say("claim.note", {"text": claim.text or ""})
    if claim.work == "strike":
        return say("claim.strike")
    if claim.work == "add_photo":
        return ": ".join(part for part in (say("claim.photo"), claim.note) if part)
    return figure_text(claim.read) or _said(claim.answer or "")


def _item(row: Row) -> str:
    """Return what was asked for: the author's words where they say it, else the catalogue's."""
    if row.worded:
        return row.text or row.item
    word = row.item.partition(":")[0]
    return say(f"item.{word if known(f'item.{word}') else 'other'}")


def _plan_svg(record: RunRecord) -> Markup:
    """Draw the joint plan: outlines, studs with names, strokes and what each ended with."""
    plan = record.plan
    half = 60 + max(
        [max(abs(s.x) + s.width / 2, abs(s.y) + s.height / 2) for s in plan.outline]
        + [max(abs(h.x), abs(h.y)) + h.across for h in plan.heads]
    )
    studs = {s.fastener: s for s in record.studs}
    drawn = template("plan.svg.jinja").render(plan=plan, half=half, studs=studs, fig=figure_text)
    return Markup(drawn)  # noqa: S704 — rendered with autoescape
