"""Everything that has a name, found from anywhere by a few letters of it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final, Literal

from jorvek.core.engine.layout import joints_of
from jorvek.core.run.views.labels import View
from jorvek.work.berth import runs_listed
from jorvek.work.overhauls import sheet_for
from jorvek.work.workshop import Workshop

_MOST: Final = 6
"""So many of each kind: whoever wants more types another letter."""

Kind = Literal["engine", "joint", "run", "procedure", "tool", "person"]


class Hit(View):
    """One thing that was found.

    Attributes:
        kind: what it is; it decides where one goes from it.
        key: what it is addressed by: an engine, a run, a procedure by its hash, a tool.
        title: its name.
        also: what tells it from others of that name.
    """

    kind: Kind
    key: str
    title: str
    also: str


def search(workshop: Workshop, words: str) -> tuple[Hit, ...]:
    """Return what is called by all the words, a few of each kind, in the order in which one would look for them.

    Args:
        workshop: the workshop.
        words: parts of names, in any order and case; nothing is found by none.
    """
    wanted = words.casefold().split()
    if not wanted:
        return ()
    places = list(_engines_and_joints(workshop))
    return (
        *_most(places, wanted, "engine"),
        *_most(places, wanted, "joint"),
        *_runs(workshop, words, wanted),
        *_most(_procedures(workshop), wanted, "procedure"),
        *_most(_tools(workshop), wanted, "tool"),
        *_most(_people(workshop), wanted, "person"),
    )


def _most(hits: Iterable[Hit], wanted: list[str], kind: Kind) -> list[Hit]:
    found = [one for one in hits if one.kind == kind and all(word in _said(one) for word in wanted)]
    return _nearest(found, wanted)


def _nearest(hits: list[Hit], wanted: list[str]) -> list[Hit]:
    """Return the first few: what is called just so, then what has all the words in its name, then the rest."""

    def far(hit: Hit) -> tuple[bool, bool]:
        title = f" {hit.title.casefold()}"
        return f" {' '.join(wanted)}" not in title, not all(word in title for word in wanted)

    return sorted(hits, key=far)[:_MOST]


def _said(hit: Hit) -> str:
    return f"{hit.title} {hit.also} {hit.key}".casefold()


def _engines_and_joints(workshop: Workshop) -> Iterable[Hit]:
    """Name the joints by the approved sheet of each type: asking two hundred engines for theirs takes seconds."""
    engines = workshop.registers.engines()
    approved = {kind: workshop.sheets.approved_for(kind) for kind in {engine.type for engine in engines}}
    for engine in engines:
        yield Hit(kind="engine", key=engine.id, title=engine.name, also=f"{engine.type} · {engine.serial}")
        for place in joints_of(engine, sheet_for(workshop, engine, approved[engine.type]).joints):
            yield Hit(kind="joint", key=engine.id, title=f"{engine.name} · {place.label}", also=engine.type)


def _runs(workshop: Workshop, words: str, wanted: list[str]) -> list[Hit]:
    hits = [
        Hit(
            kind="run",
            key=str(run.run_id),
            title=f"{run.engine} · {run.joint}",
            also=f"{run.procedure_title} · {run.started_at:%Y-%m-%d}",
        )
        for run in runs_listed(workshop, words=words).runs
    ]
    return _nearest(hits, wanted)


def _procedures(workshop: Workshop) -> Iterable[Hit]:
    for head in workshop.registers.revisions():
        yield Hit(kind="procedure", key=head.hash, title=head.title, also=f"{head.id} · {head.revision}")


def _tools(workshop: Workshop) -> Iterable[Hit]:
    for tool in workshop.registers.tools():
        yield Hit(kind="tool", key=tool.id, title=f"{tool.id} · {tool.name}", also=tool.tool_class)


def _people(workshop: Workshop) -> Iterable[Hit]:
    for person in workshop.registers.people():
        yield Hit(kind="person", key=person.name, title=person.name, also=person.role.value)
