"""The engine's log as one reads it, newest first and a page at a time: it grows as long as the overhaul lasts."""

from __future__ import annotations

from datetime import datetime
from itertools import islice
from typing import Final, Literal

from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Line, Overhaul
from jorvek.core.run.views.labels import View

AT_FIRST: Final = 12
"""Lines that stand on the engine's page itself."""
A_PAGE: Final = 100


class LogLine(View):
    """One line of the engine's log.

    Attributes:
        moment: a moment that it speaks of: the end of a permit's hours, when a plan is done; None where it names none.
        written_by: who wrote it on a list of paper from which it was keyed in; None for what was entered here.
        written_at: when, by the list.
        written_until: it was done by then at the latest, where only a span is known.
        why: why it was told later.
        photo: the photograph of the sheet on which it stands; None where there is none.
        against: what would have spoken against it, had it been known before; None where nothing did.
        told: what was told later is in doubt, or does not count yet, until somebody has looked; None once they have.
    """

    seq: int
    kind: str
    by: str
    at: datetime
    params: dict[str, str]
    moment: datetime | None
    struck: bool
    written_by: str | None
    written_at: datetime | None
    written_until: datetime | None
    why: str | None
    photo: str | None
    against: str | None
    told: Literal["less_safe", "safer"] | None


class LogPage(View):
    """Some lines of the log.

    Attributes:
        lines: newest first.
        more: there are older ones.
    """

    lines: tuple[LogLine, ...]
    more: bool


def log_page(overhaul: Overhaul, most: int, before: int | None = None, *, from_paper: bool = False) -> LogPage:
    """Return lines of the log, newest first.

    Args:
        overhaul: as it stands.
        most: so many lines at the most.
        before: only lines older than the one with this number.
        from_paper: only lines that were keyed in from a list of paper.
    """
    older = (
        line
        for line in reversed(overhaul.lines)
        if (before is None or line.seq < before) and (line.paper is not None or not from_paper)
    )
    found = list(islice(older, most + 1))
    told = {line.seq for line in overhaul.told}
    lines = tuple(entry_of(line, open_still=line.seq in told) for line in found[:most])
    return LogPage(lines=lines, more=len(found) > most)


_SAID = (
    *("point", "lock", "permit", "words", "test", "guards", "proof", "commander", "attitude", "title", "space"),
    *("check", "when", "attends", "name", "stop", "work", "place", "watch", "shut", "cause", "door", "now"),
)


def _moment_of(data: ov.OverhaulData) -> datetime | None:
    match data:
        case ov.PlanTaken():
            return data.finish_at
        case ov.EngineStopped():
            return data.stopped_at
        case _:
            return getattr(data, "until_at", None)


def entry_of(line: Line, *, open_still: bool = False) -> LogLine:
    """Return one event as a line of the log; ``open_still`` says that nobody has looked yet at what it tells late."""
    data = line.data
    params = {name: str(value) for name in _SAID if (value := getattr(data, name, None)) is not None}
    person = getattr(data, "person", None) or getattr(data, "to", None)
    if person is not None:
        params["person"] = person.name
    for name in ("angle_deg", "to_deg"):
        value = getattr(data, name, None)
        if value is not None:
            params["figure"] = f"{value:g}"
    if isinstance(data, ov.CrankMoved):
        params.setdefault("figure", "?")
    if getattr(data, "current_A", None) is not None:
        params["figure"] = f"{data.current_A:g} A"  # type: ignore[union-attr]  # just asked
    if getattr(data, "accepted", None) is not None:
        params["words"] = str(data.accepted)  # type: ignore[union-attr]  # just asked
    for name in ("oxygen_pct", "gas_pct"):
        value = getattr(data, name, None)
        if value is not None:
            params[name] = f"{value:g}"
    found = getattr(data, "found", None)
    if found is not None:
        params["joints"] = str(len(found))
    return LogLine(
        seq=line.seq,
        kind=data.kind,
        by=line.by.name,
        at=line.at,
        params=params,
        moment=_moment_of(data),
        struck=line.struck_by is not None,
        written_by=line.paper.by.name if line.paper else None,
        written_at=line.paper.at if line.paper else None,
        written_until=line.paper.until if line.paper else None,
        why=line.paper.why if line.paper else None,
        photo=line.paper.photo if line.paper else None,
        against=getattr(data, "against", None),
        told=getattr(data, "told", None) if open_still else None,
    )
