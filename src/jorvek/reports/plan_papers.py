"""A plan on paper, as a table, and for a diary."""

from __future__ import annotations

import csv
import hashlib
import io
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event

from jorvek import __version__
from jorvek.messages import say
from jorvek.reports.paper import FONTS, template, to_pdf
from jorvek.reports.table import disarm

COLUMNS = ("start", "end", "who", "joint", "work", "hands", "sets", "crane", "crank_deg", "minutes_known_from")


@dataclass(frozen=True)
class Line:
    """One line of a plan: a piece of work, or a move of the crank.

    Attributes:
        id: its name in the plan; a move has that of its moment.
        who: people by name, or by number where they have none.
        joint: what the joint is called; empty for a move.
        what: heading of the work, or where the crank goes.
        angle_deg: where the crank stands meanwhile, or is turned to; None where it does not matter.
        known: where its minutes come from.
        why: why it is not sooner, in words.
    """

    id: str
    start_at: datetime
    end_at: datetime
    who: tuple[str, ...]
    joint: str
    what: str
    hands: int
    sets: tuple[str, ...] = ()
    crane: bool = False
    angle_deg: float | None = None
    known: str = ""
    why: str = ""


def plan_csv(lines: Iterable[Line], zone: str) -> bytes:
    """Return a plan as CSV, in the site's time."""
    out, tz = io.StringIO(), ZoneInfo(zone)
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for line in lines:
        row = (
            line.start_at.astimezone(tz).isoformat(timespec="minutes"),
            line.end_at.astimezone(tz).isoformat(timespec="minutes"),
            ", ".join(line.who),
            line.joint,
            line.what,
            str(line.hands),
            ", ".join(line.sets),
            "1" if line.crane else "",
            "" if line.angle_deg is None else f"{line.angle_deg:g}",
            line.known,
        )
        writer.writerow([disarm(cell) for cell in row])
    return out.getvalue().encode()


def plan_ics(lines: Iterable[Line], engine: str, made_at: datetime) -> bytes:
    """Return a plan as iCalendar (RFC 5545): one event a line, with a name that stays, so that a diary updates it.

    Args:
        lines: what is planned.
        engine: name of the engine.
        made_at: when the plan was made.
    """
    calendar = Calendar()
    calendar.add("prodid", f"-//Jorvek {__version__}//plan//")
    calendar.add("version", "2.0")
    for line in lines:
        event = Event()
        event.add("uid", f"{hashlib.sha256(f'{engine} {line.id}'.encode()).hexdigest()[:32]}@jorvek")
        event.add("dtstamp", made_at)
        event.add("dtstart", line.start_at)
        event.add("dtend", line.end_at)
        event.add("summary", " — ".join(part for part in (engine, line.joint, line.what) if part))
        told = [", ".join(line.who), ", ".join(line.sets), say("plan.crane") if line.crane else "", line.why]
        event.add("description", "\n".join(part for part in told if part))
        calendar.add_component(event)
    text: bytes = calendar.to_ical()
    return text


def day_sheets_pdf(
    people: Iterable[tuple[str, list[Line]]], engine: str, title: str, day: date, zone: str, now: datetime
) -> bytes:
    """Return the sheets of a day as PDF, one a person.

    Args:
        people: name of each, and what is planned for them that day.
        engine: name of the engine.
        title: what the overhaul is called.
        day: the day.
        zone: time zone of the site.
        now: when it is printed.
    """
    tz = ZoneInfo(zone)
    html = template("day-sheet.html.jinja").render(
        people=list(people),
        engine=engine,
        title=title,
        day=day,
        clock=lambda at: f"{at.astimezone(tz):%H:%M}",
        now=f"{now.astimezone(tz):%Y-%m-%d %H:%M}",
        zone=zone,
        t=lambda key, **params: say(key, params),
        app_version=__version__,
        fonts=FONTS,
    )
    return to_pdf(html, hashlib.sha256(html.encode()).hexdigest()[:32])
