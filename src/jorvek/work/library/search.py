"""Everything that has a name, found from anywhere by a few letters of it."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Final, Literal, NamedTuple

from jorvek.core.engine.layout import Engine, JointPlace, joints_of
from jorvek.core.run.views.labels import View
from jorvek.core.sheet.default import default_sheet
from jorvek.messages import say
from jorvek.work.budget import SEARCHES
from jorvek.work.engine.berth import runs_listed
from jorvek.work.runs.studs import newest_of_stud
from jorvek.work.workshop import Workshop

_MOST: Final = 6
"""So many of each kind: whoever wants more types another letter."""

Kind = Literal["engine", "joint", "stud", "run", "procedure", "tool", "person"]


class Hit(View):
    """One thing that was found.

    Attributes:
        kind: what it is; it decides where one goes from it.
        key: what it is addressed by: an engine, a run (for a stud, the newest that measured or tightened it), a
            procedure by its hash, a tool.
        title: its name.
        also: what tells it from others of that name.
        stud: which fastener of the run's joint was looked for.
    """

    kind: Kind
    key: str
    title: str
    also: str
    stud: str | None = None


class _Joint(NamedTuple):
    engine: Engine
    place: JointPlace

    @property
    def title(self) -> str:
        return f"{self.engine.name} · {self.place.label}"


@SEARCHES
def search(workshop: Workshop, words: str) -> tuple[Hit, ...]:
    """Return what is called by all the words, a few of each kind, in the order in which one would look for them.

    Args:
        workshop: the workshop.
        words: parts of names, in any order and case; nothing is found by none.

    Raises:
        Refusal: ``busy``.
    """
    wanted = words.casefold().split()
    if not wanted:
        return ()
    engines = workshop.registers.engines()
    joints = list(_joints(workshop, engines))
    return (
        # Whoever names a stud means it, and every figure in it is found in many another name.
        *_studs(workshop, joints, wanted),
        *_most(map(_engine, engines), wanted),
        *_nearest([_joint(one) for one in joints if _fits(_joint_said(one), wanted)], wanted),
        *_runs(workshop, words, wanted),
        *_most(_procedures(workshop), wanted),
        *_most(_tools(workshop), wanted),
        *_most(_people(workshop), wanted),
    )


def _most(hits: Iterable[Hit], wanted: list[str]) -> list[Hit]:
    return _nearest([one for one in hits if _fits(f"{one.title} {one.also} {one.key}", wanted)], wanted)


def _fits(said: str, wanted: list[str]) -> bool:
    folded = said.casefold()
    return all(word in folded for word in wanted)


def _nearest(hits: list[Hit], wanted: list[str]) -> list[Hit]:
    """Return the first few: what is called just so, then what has all the words in its name, then the rest."""

    def far(hit: Hit) -> tuple[bool, bool]:
        title = f" {hit.title.casefold()}"
        return f" {' '.join(wanted)}" not in title, not all(word in title for word in wanted)

    return sorted(hits, key=far)[:_MOST]


def _engine(engine: Engine) -> Hit:
    return Hit(kind="engine", key=engine.id, title=engine.name, also=f"{engine.type} · {engine.serial}")


def _joint(joint: _Joint) -> Hit:
    return Hit(kind="joint", key=joint.engine.id, title=joint.title, also=joint.engine.type)


def _joint_said(joint: _Joint) -> str:
    return f"{joint.title} {joint.engine.type} {joint.engine.id}"


def _joints(workshop: Workshop, engines: Iterable[Engine]) -> Iterable[_Joint]:
    """Name the joints by the approved sheet of each type, read once: two hundred engines have a few types."""
    approved = {kind: workshop.sheets.approved_for(kind) for kind in {engine.type for engine in engines}}
    sheets = {kind: workshop.sheets.body_of(digest) for kind, digest in approved.items() if digest is not None}
    for engine in engines:
        sheet = sheets.get(engine.type) or default_sheet(engine)
        for place in joints_of(engine, sheet.joints):
            yield _Joint(engine, place)


def _studs(workshop: Workshop, joints: list[_Joint], wanted: list[str]) -> list[Hit]:
    """Return a stud of each of the few joints that the other words name."""
    asked = _stud_asked(wanted)
    if asked is None:
        return []
    name, others = asked
    named = list(islice((joint for joint in joints if _names(joint, others)), _MOST + 1))
    if len(named) > _MOST:
        return []
    return [hit for joint in named for hit in _stud(workshop, joint, name)]


def _stud_asked(wanted: list[str]) -> tuple[str, list[str]] | None:
    """Tell which stud is asked for, and the other words: it follows the word for a stud, or is the last of all."""
    word = say("search.stud").casefold()
    if word in wanted[:-1]:
        at = wanted.index(word)
        return wanted[at + 1], wanted[:at] + wanted[at + 2 :]
    return (wanted[-1], wanted[:-1]) if len(wanted) > 1 else None


def _names(joint: _Joint, words: list[str]) -> bool:
    """Tell whether words name a joint: all of its own label, and of its engine's name as many as are left."""
    label, engine = (text.casefold().split() for text in (joint.place.label, joint.engine.name))
    left = list(words)
    for part in label:
        if part not in left:
            return False
        left.remove(part)
    return all(word in engine for word in left)


def _stud(workshop: Workshop, joint: _Joint, name: str) -> list[Hit]:
    found = newest_of_stud(workshop, joint.engine.id, joint.place.key, name)
    if found is None:
        return []
    run_id, stud = found
    state = workshop.log.snapshot(run_id).state
    also = f"{state.definition.procedure.title} · {state.started_at:%Y-%m-%d}"
    return [Hit(kind="stud", key=str(run_id), title=f"{joint.title} · {stud}", also=also, stud=stud)]


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
