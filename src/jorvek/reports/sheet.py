"""The record as a PDF that one could hand to an owner."""

from __future__ import annotations

import io
from datetime import datetime
from pathlib import Path
from urllib.parse import unquote, urlsplit
from zoneinfo import ZoneInfo

import segno
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

from jorvek import __version__
from jorvek.core.run.events import Reason
from jorvek.core.run.figures import Figure
from jorvek.core.run.readings import Row
from jorvek.core.run.record import RunRecord
from jorvek.core.units import symbol
from jorvek.messages import say

_HERE = Path(__file__).parent


def record_html(record: RunRecord, base_url: str, zone: str) -> str:
    """Return the record as the HTML that the PDF is made of."""
    environment = Environment(
        loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    tz = ZoneInfo(zone)

    def when(at: datetime) -> str:
        return f"{at.astimezone(tz):%Y-%m-%d %H:%M:%S}"

    address = f"{base_url}/records/{record.run_id}?seal={record.content_hash[:16]}"
    template = environment.get_template("record.html.jinja")
    return template.render(
        r=record,
        t=lambda key, **params: say(key, params),
        when=when,
        fig=_figure,
        band=_band,
        why=_reasons,
        item=_item,
        unit=symbol,
        qr=_code(address),
        address=address,
        zone=zone,
        app_version=__version__,
        plan=_plan_svg(record),
        fonts=(_HERE / "fonts").as_uri(),
    )


def record_pdf(record: RunRecord, base_url: str, zone: str) -> bytes:
    """Return the record as PDF bytes; the same record gives the same pages."""
    html = record_html(record, base_url, zone)
    pdf = HTML(string=html, base_url=str(_HERE), url_fetcher=_OwnFiles()).write_pdf(
        pdf_identifier=bytes.fromhex(record.content_hash[:32])
    )
    assert isinstance(pdf, bytes)
    return pdf


class _OwnFiles(URLFetcher):  # type: ignore[misc]  # the library has no types
    """Let the sheet load its own fonts and nothing else; a missing font stops the rendering."""

    def __init__(self) -> None:
        super().__init__(allowed_protocols=("file",), fail_on_errors=True)

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
        if _HERE not in Path(unquote(urlsplit(url).path)).resolve().parents:
            raise ValueError("a record loads nothing from outside")
        return super().fetch(url, headers)


def _code(address: str) -> Markup:
    out = io.BytesIO()
    segno.make(address, error="m").save(out, kind="svg", xmldecl=False, svgns=True, border=0, omitsize=True)
    return Markup(out.getvalue().decode())  # noqa: S704 — drawn by segno from an address of ours


def _figure(figure: Figure | None) -> str:
    return "" if figure is None else f"{figure.text} {figure.unit}".strip()


def _band(row: Row) -> str:
    if row.lower and row.upper:
        return f"{row.lower.text} … {row.upper.text} {row.upper.unit}"
    if row.upper:
        return f"{say('bench.at_most')} {_figure(row.upper)}"
    return f"{say('bench.at_least')} {_figure(row.lower)}" if row.lower else ""


def _reasons(reasons: tuple[Reason, ...]) -> str:
    return "; ".join(say(f"reason.{r.code}", dict(r.params)) for r in reasons)


def _item(row: Row) -> str:
    if row.kind in ("confirm", "vent", "tool_issue"):
        return row.text or row.item
    return say(f"item.{row.item}")


def _plan_svg(record: RunRecord) -> Markup:
    """Draw the joint plan: outlines, studs with names, strokes and what each ended with."""
    plan = record.plan
    half = 60 + max(
        [max(abs(s.x) + s.width / 2, abs(s.y) + s.height / 2) for s in plan.outline]
        + [max(abs(h.x), abs(h.y)) + h.across for h in plan.heads]
    )
    environment = Environment(loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined)
    template = environment.get_template("plan.svg.jinja")
    return Markup(template.render(plan=plan, half=half, studs={s.fastener: s for s in record.studs}, fig=_figure))  # noqa: S704 — rendered with autoescape
