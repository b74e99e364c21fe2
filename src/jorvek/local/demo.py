"""The demo world, brought in through the public commands."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path
from uuid import uuid4

from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Ask
from jorvek.core.run.log.commands import GiveReason, Note, StrikeReading
from jorvek.core.run.rules.progress import next_call
from jorvek.local.player import Player, SetClock
from jorvek.work import library, people
from jorvek.work.workshop import Workshop

DEMO_PIN = "340160"
"""One PIN for everybody in the demo; there is none outside it."""

PEOPLE = (
    ("Ines Halloran", Role.CHIEF),
    ("Bram Okafor", Role.LEAD_HAND),
    ("Lio Sandvik", Role.MECHANIC),
    ("Dessa Marlow", Role.MECHANIC),
    ("Anneke Ruhl", Role.AUTHOR),
    ("Tam Pereira", Role.TRAINEE),
)
HEAD = "tarnholt-7l34-head-tighten"
ENGINES = ("unit-2", "unit-5", "grey-plover")


def load_world(workshop: Workshop, root: Path) -> str:
    """Load people, engines, tools and procedures; return the address of the head's tightening."""
    for name, role in PEOPLE:
        people.add_person(workshop, name, role, DEMO_PIN)
    chief, author = actor(workshop, "Ines Halloran"), actor(workshop, "Anneke Ruhl")
    for engine in ENGINES:
        library.add_engine(workshop, chief, (root / "world" / "engines" / f"{engine}.yaml").read_bytes())
    for tool in sorted((root / "world" / "tools").glob("*.yaml")):
        library.add_tool(workshop, chief, tool.read_bytes())
    by_name: dict[str, str] = {}
    for document in sorted((root / "procedures").glob("*.yaml")):
        by_name[document.stem] = library.import_procedure(workshop, author, document.read_bytes())
    # Documents carry work on to one another, so all of them are here before one is approved.
    for name, digest in by_name.items():
        # A draft that is wrong on purpose shows what the procedure check finds; it cannot be approved.
        if not name.endswith("-bad"):
            library.approve(workshop, chief, digest)
    return by_name[HEAD]


def actor(workshop: Workshop, name: str) -> ev.Person:
    """Return a person of the demo as events name them."""
    return people.as_actor(people.person_by_name(workshop, name))


def load_history(workshop: Workshop, digest: str) -> None:
    """Play the outage so far: heads closed, one waiting for the chief, one with a question; work on all engines."""
    now = workshop.clock()
    _closed_head(workshop, digest, "head-1", now - timedelta(hours=27), 1)
    _closed_head(workshop, digest, "head-2", now - timedelta(hours=5), 2)
    _waiting_head(workshop, digest, now - timedelta(hours=2, minutes=5))
    # The big end is barred to its door before tools sit on a head of the same engine.
    _other_engines(workshop, now)
    _doubtful_head(workshop, digest, now - timedelta(hours=1))


def _player(workshop: Workshop, at: datetime, name: str, seed: int) -> Player:
    clock = SetClock(at)
    past = Workshop(workshop.database, clock, workshop.site_zone, workshop.base_url, workshop.photo_dir)
    return Player(past, clock, actor(workshop, name), seed)


def _closed_head(workshop: Workshop, digest: str, joint: str, at: datetime, seed: int) -> None:
    player = _player(workshop, at, "Dessa Marlow", seed)
    player.start("unit-2", joint, digest)
    player.play()
    chief = actor(workshop, "Ines Halloran")
    player.sign(chief, DEMO_PIN)
    player.close(chief)


def _other_engines(workshop: Workshop, now: datetime) -> None:
    """A head in its second cycle, a cover in two groups, a big end that is being let free, a liner measured."""
    by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}

    def begin(who: str, hours: float, seed: int, where: tuple[str, str], procedure: str, **options: str) -> Player:
        player = _player(workshop, now - timedelta(hours=hours), who, seed)
        player.start(*where, by_id[procedure], options or None)
        return player

    head = begin("Lio Sandvik", 3.5, 11, ("unit-5", "head-a"), "corvane-v10-head-tighten", tool="bar")
    head.play(lambda cell: cell.key == "turn-bar#2/turn/8")
    cover = begin("Dessa Marlow", 2.5, 12, ("grey-plover", "head-2"), "ulvane-5x46-cover-tighten", tools="four")
    cover.play(lambda cell: cell.key == "even-seat/seat/4")
    chief = actor(workshop, "Ines Halloran")
    for days, procedure in ((96, "ulvane-5x46-cover-loosen"), (95, "ulvane-5x46-cover-tighten")):
        before = begin("Dessa Marlow", 24 * days, days, ("grey-plover", "head-3"), procedure, tools="eight")
        while (asked := next_call(before.play())) is not None and asked.ask is Ask.SIGNATURE:
            before.sign(chief, DEMO_PIN)
        before.close(chief)
    for number, liner_seed in (("2", 22), ("3", 23), ("4", 24)):
        fitted = begin(
            "Dessa Marlow", 40 - liner_seed, liner_seed, ("unit-2", f"liner-{number}"), "tarnholt-7l34-liner-fit"
        )
        fitted.play()
    loosened = begin("Bram Okafor", 7, 13, ("grey-plover", "head-3"), "ulvane-5x46-cover-loosen", tools="eight")
    state = loosened.play(lambda cell: cell.key == "all-free/free/6")
    loosened.answer(state.definition.by_key["all-free/free/6"], ev.ValueAnswer(text="620", unit="bar"))
    loosened.play()
    big_end = begin("Lio Sandvik", 1.5, 14, ("unit-2", "rod-5"), "tarnholt-7l34-rod-loosen", piston="out")
    big_end.play(lambda cell: cell.key == "free/free/2")
    liner = begin("Bram Okafor", 4, 15, ("unit-2", "liner-7"), "tarnholt-7l34-liner-draw")
    liner.play(lambda cell: cell.key == "bore/bore:2.3")


def _waiting_head(workshop: Workshop, digest: str, at: datetime) -> None:
    player = _player(workshop, at, "Bram Okafor", 3)
    player.start("unit-2", "head-3", digest)
    state = player.play(lambda cell: cell.key == "length-before/length/3")
    cell = state.definition.by_key["length-before/length/3"]
    player.answer(cell, ev.ValueAnswer(text="621.027", unit="mm"))
    player.clock.forward(9)
    player.send(StrikeReading(kind="strike", id=uuid4(), cell=cell.key, attempt=1))
    player.send(GiveReason(kind="give_reason", id=uuid4(), cell=cell.key, attempt=1, reason="Figures swapped"))
    player.play(lambda c: c.step == "tools-off")
    player.pause()
    player.clock.forward(900)
    player.take_over(actor(workshop, "Lio Sandvik"))
    player.send(Note(kind="note", id=uuid4(), text="Spacer ring 2 tight on the stud, cleaned before it went back."))
    player.play()


def _doubtful_head(workshop: Workshop, digest: str, at: datetime) -> None:
    player = _player(workshop, at, "Dessa Marlow", 6)
    player.start("unit-2", "head-6", digest)
    state = player.play(lambda cell: cell.key == "second/feeler/3")
    player.answer(state.definition.by_key["second/feeler/3"], ev.FeelerAnswer(enters=True))
    player.play()
