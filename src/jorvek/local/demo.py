"""The demo world, brought in through the public commands."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Final
from uuid import UUID, uuid4

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import TURNING_GEAR
from jorvek.core.overhaul.rules.joint_conditions import owed
from jorvek.core.overhaul.rules.return_to_service import checks_asked, order_back
from jorvek.core.overhaul.rules.running_in import stops_of
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.parts import Isolation
from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.commands import Accept, DecideStuck, GiveReason, Note, ReportStuck, StrikeReading, TryPressure
from jorvek.core.run.rules.progress import next_call
from jorvek.core.sheet.document import EngineSheet
from jorvek.local.player import Player, SetClock
from jorvek.work.engine import overhauls
from jorvek.work.library import engine_sheets, revisions
from jorvek.work.people import accounts
from jorvek.work.upkeep.hours_and_due import due_work, follow_up, read_hours
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
ENGINES = ("unit-2", "unit-4", "unit-5", "grey-plover")


def load_world(workshop: Workshop, root: Path) -> str:
    """Load people, engines, tools and procedures; return the address of the head's tightening."""
    for name, role in PEOPLE:
        accounts.add_person(workshop, name, role, DEMO_PIN)
    chief, author = actor(workshop, "Ines Halloran"), actor(workshop, "Anneke Ruhl")
    for engine in ENGINES:
        revisions.add_engine(workshop, chief, (root / "world" / "engines" / f"{engine}.yaml").read_bytes())
    for tool in sorted((root / "world" / "tools").glob("*.yaml")):
        revisions.add_tool(workshop, chief, tool.read_bytes())
    by_name: dict[str, str] = {}
    for document in sorted((root / "procedures").glob("*.yaml")):
        by_name[document.stem] = revisions.import_procedure(workshop, author, document.read_bytes())
    # Documents carry work on to one another, so all of them are here before one is approved.
    for name, digest in by_name.items():
        # A draft that is wrong on purpose shows what the procedure check finds; it cannot be approved.
        if not name.endswith("-bad"):
            revisions.approve(workshop, chief, digest)
    for sheet in sorted((root / "sheets").glob("*.yaml")):
        engine_sheets.approve_sheet(workshop, chief, engine_sheets.import_sheet(workshop, author, sheet.read_bytes()))
    return by_name[HEAD]


def actor(workshop: Workshop, name: str) -> ev.Person:
    """Return a person of the demo as events name them."""
    return accounts.as_actor(accounts.person_by_name(workshop, name))


def load_history(workshop: Workshop, digest: str) -> None:
    """Play the outage so far, up to the first morning that anybody looks at it."""
    Outage(workshop, workshop.clock()).play(digest)


_POINTS: Final[dict[str, tuple[Isolation, ...]]] = {
    "unit-2": (
        "starting_air", "remote_start", "generator_breaker", "turning_gear", "cocks", "fuel", "prelube", "coolant",
        "backflow", "signs",
    ),
    "unit-5": (
        "starting_air", "remote_start", "generator_breaker", "turning_gear", "cocks", "fuel", "prelube", "coolant",
        "signs",
    ),
    "grey-plover": (
        "starting_air", "remote_start", "turning_gear", "cocks", "fuel", "prelube", "coolant", "valve_gear",
        "air_springs", "backflow", "signs",
    ),
}  # fmt: skip
_LOCKED: Final = ("starting_air", "generator_breaker", "turning_gear", "fuel", "prelube", "backflow", "valve_gear")


_SEEN: Final = {
    "people": "All out by name; tools and rags counted against the list.",
    "doors": "Seals whole, every bolt in.",
    "oil_seen": "Oil runs at every bearing.",
    "barred": "Two turns with the cocks open, nothing tight.",
    "blown_through": "Dry from every cock.",
}
_TOPS_MM: Final = (0.01, 0.015, 0.02, 0.015, -0.01, 0.01, 0.005)


class Outage:
    """The autumn outage of Skerrow Island, told in the order in which it happened.

    Attributes:
        now: the morning on which it is looked at.
    """

    def __init__(self, workshop: Workshop, now: datetime) -> None:
        self.workshop, self.now = workshop, now
        self.by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}

    def play(self, digest: str) -> None:
        """Play everything."""
        self._covers_in_summer()
        self._unit_2_opened()
        self._liners_fitted()
        self._head_5_undone()
        for number, hours, seed in (("1", 27.0, 1), ("2", 8.0, 2)):
            self._head_closed(digest, f"head-{number}", hours, seed)
        self._waiting_head(digest)
        self._standby_set()
        self._covers_now()
        self._begin("Bram Okafor", 4, 15, ("unit-2", "liner-7"), "tarnholt-7l34-liner-draw").play(
            lambda cell: cell.key == "bore/bore:2.3"
        )
        self._head_4_landed()
        self._doubtful_head(digest)

    def _player(self, hours: float, name: str, seed: int) -> Player:
        clock = SetClock(self.now - timedelta(hours=hours))
        shop = self.workshop
        past = replace(shop, clock=clock)
        return Player(past, clock, actor(shop, name), seed)

    def _begin(self, who: str, hours: float, seed: int, where: tuple[str, str], name: str, **options: str) -> Player:
        player = self._player(hours, who, seed)
        player.start(*where, self.by_id[name], options or None, find=False)
        return player

    def _finish(self, player: Player) -> None:
        """Play a run to its end, with the chief coming by to sign."""
        chief = actor(self.workshop, "Ines Halloran")
        while (asked := next_call(player.play())) is not None and asked.ask is InputType.SIGNATURE:
            player.sign(chief, DEMO_PIN)
        player.close(chief)

    def _open(self, engine: str, title: str, hours: float, *scope: str) -> tuple[Player, UUID]:
        """Open an overhaul on an engine that stands closed up, and isolate it point by point."""
        lead = self._player(hours, "Bram Okafor", 1)
        overhaul = uuid4()
        command = overhauls.OpenOverhaul(
            id=uuid4(), overhaul_id=overhaul, engine_id=engine, title=title, scope=scope, as_it_ran=True
        )
        overhauls.open_overhaul(lead.workshop, lead.hands, command)
        chief = actor(self.workshop, "Ines Halloran")
        for number, point in enumerate(_POINTS[engine], 1):
            lead.clock.forward(240)
            lock = f"Lock {number}" if point in _LOCKED else None
            isolate = oc.Isolate(kind="isolate", id=uuid4(), point=point, lock=lock, permit="P-2207")
            overhauls.act(lead.workshop, chief if point == "remote_start" else lead.hands, overhaul, isolate)
        return lead, overhaul

    def _find(self, lead: Player, overhaul: UUID, words: str, condition: Condition, *joints: str) -> None:
        """Say how joints were found."""
        lead.clock.forward(600)
        found = dict.fromkeys(joints, condition)
        said = oc.DeclareConditions(kind="declare_conditions", id=uuid4(), found=found, words=words)
        overhauls.act(lead.workshop, lead.hands, overhaul, said)

    def _unit_2_opened(self) -> None:
        read_hours(
            self._player(24 * 9 + 1, "Bram Okafor", 1).workshop,
            actor(self.workshop, "Bram Okafor"),
            "unit-2",
            18412,
            (self.now - timedelta(days=9)).date(),
        )
        every = [f"{kind}-{n}" for kind in ("head", "liner", "rod") for n in range(1, 8)]
        lead, overhaul = self._open("unit-2", "Autumn outage", 24 * 9, *every, "main-3", "main-5")
        lead.clock.forward(2 * 3600)
        self._shaft_before(lead, overhaul)
        lead.clock.forward(22 * 3600)
        self._find(
            lead,
            overhaul,
            "Stripped on paper before the tablets came; sheets 1 to 14 in the outage folder.",
            "open",
            *(f"{kind}-{n}" for kind in ("head", "rod") for n in (1, 2, 3, 4, 6, 7)),
            *(f"liner-{n}" for n in (1, 2, 3, 4, 6)),
        )

    def _liners_fitted(self) -> None:
        """Liners 1 to 4 and 6 go back, then their pistons; heads are landed on all but cylinder 4."""
        for number, seed in (("1", 21), ("2", 22), ("3", 23), ("4", 24), ("6", 26)):
            hours = 24 * 6 - 3 * int(number)
            fitted = self._begin("Dessa Marlow", hours, seed, ("unit-2", f"liner-{number}"), "tarnholt-7l34-liner-fit")
            self._finish(fitted)
        lead, overhaul = self._lead("unit-2", 24 * 4)
        self._find(
            lead,
            overhaul,
            "Pistons 1 to 4 and 6 in and big ends closed, on paper sheets 15 to 24.",
            "closed_up",
            *(f"rod-{n}" for n in (1, 2, 3, 4, 6)),
        )
        self._find(lead, overhaul, "Heads landed, on paper sheets 25 to 28.", "landed", "head-1", "head-2")
        self._find(lead, overhaul, "Heads landed, on paper sheets 29 and 30.", "landed", "head-3", "head-6")
        for run, debt in owed(
            self.workshop.overhauls.snapshot(overhaul).state, overhauls.runs_on(self.workshop, "unit-2")
        ):
            if run.joint != "liner-4":
                words = "Clamps off and counted when the head was landed, on paper."
                paid = oc.PayDebt(kind="pay_debt", id=uuid4(), run=run.run_id, cell=debt.cell, words=words)
                overhauls.act(lead.workshop, lead.hands, overhaul, paid)

    def _lead(self, engine: str, hours: float) -> tuple[Player, UUID]:
        overhaul = overhauls.open_on(self.workshop, engine)
        assert overhaul is not None
        return self._player(hours, "Bram Okafor", 1), overhaul.overhaul_id

    def _head_5_undone(self) -> None:
        """Head 5: stud 3 would not come free at the ceiling; a gap under it, and the chief had it turned by the bar."""
        head = self._begin("Lio Sandvik", 24 * 3, 55, ("unit-2", "head-5"), "tarnholt-7l34-head-loosen")
        head.play(lambda cell: cell.key == "free/free/3")
        for pressure in ("1080", "1150"):
            head.clock.forward(60)
            tried = TryPressure(kind="try_pressure", id=uuid4(), step="free", text=pressure, unit="bar")
            head.send(tried)
        head.clock.forward(40)
        head.send(ReportStuck(kind="report_stuck", id=uuid4(), cell="free/free/3", gap=True))
        chief = actor(self.workshop, "Ines Halloran")
        hands, head.hands = head.hands, chief
        head.clock.forward(900)
        words = "Gap under the nut: the stud is stretched, the thread is tight. Turned by the bar under my eyes."
        head.send(DecideStuck(kind="decide_stuck", id=uuid4(), stuck=head.state().stuck[-1].seq, words=words))
        head.hands = hands
        self._finish(head)
        lead, overhaul = self._lead("unit-2", 24 * 2)
        self._find(lead, overhaul, "Piston 5 and its rod out and on the stand; paper sheet 31.", "open", "rod-5")

    def _head_closed(self, digest: str, joint: str, hours: float, seed: int) -> None:
        tight = self._player(hours, "Dessa Marlow", seed)
        tight.start("unit-2", joint, digest, find=False)
        self._finish(tight)
        up = self._begin("Lio Sandvik", hours - 2.5, seed + 30, ("unit-2", joint), "tarnholt-7l34-head-close")
        self._finish(up)

    def _head_4_landed(self) -> None:
        self._finish(self._begin("Lio Sandvik", 3, 44, ("unit-2", "head-4"), "tarnholt-7l34-head-land"))

    def _standby_set(self) -> None:
        """Unit 5: the bank's head in its second cycle."""
        lead, overhaul = self._open("unit-5", "Head A, new gasket", 30, "head-a")
        self._find(lead, overhaul, "Head A lifted yesterday, on paper.", "open", "head-a")
        head = self._begin("Lio Sandvik", 3.5, 11, ("unit-5", "head-a"), "corvane-v10-head-tighten", tool="bar")
        head.play(lambda cell: cell.key == "turn-bar#2/turn/8")

    def _covers_in_summer(self) -> None:
        """Cover 3 of the tender was off and on again in summer; that overhaul is closed."""
        lead, overhaul = self._open("grey-plover", "Cover 3, summer", 24 * 97, "head-3")
        for days, name in ((96, "ulvane-5x46-cover-loosen"), (95, "ulvane-5x46-cover-tighten")):
            where = ("grey-plover", "head-3")
            self._finish(self._begin("Dessa Marlow", 24 * days, days, where, name, tools="eight"))
        lead.clock.now = self.now - timedelta(days=94)
        opened = self.workshop.overhauls.snapshot(overhaul).state.opened
        sheet = overhauls.sheet_for(self.workshop, opened.engine, opened.sheet)
        chief = actor(self.workshop, "Ines Halloran")
        self._given_back(lead, chief, overhaul, sheet)
        for stop in stops_of(sheet):
            noted = oc.NoteRunIn(
                kind="note_run_in", id=uuid4(), stop=stop, words="Cover 3 no warmer than its neighbours."
            )
            overhauls.act(lead.workshop, lead.hands, overhaul, noted)
            lead.clock.forward(4 * 3600)
        lead.clock.forward(12 * 3600)
        for due in due_work(lead.workshop):
            if due.run_id is not None:
                follow_up(lead.workshop, lead.hands, due.run_id, due.step, "Looked at with the feeler: nothing enters.")

    def _given_back(self, lead: Player, chief: ev.Person, overhaul: UUID, sheet: EngineSheet) -> None:
        """Give an engine back in the sheet's order, and close its overhaul."""
        for point in order_back(sheet):
            state = self.workshop.overhauls.snapshot(overhaul).state
            lead.clock.forward(600)
            if point in state.isolations:
                give = oc.RestorePoint.model_validate({"kind": "restore_point", "id": uuid4(), "point": point})
                overhauls.act(lead.workshop, chief, overhaul, give)
            elif point in checks_asked(state, sheet):
                if point == "barred" and state.in_force(TURNING_GEAR) is not None:
                    free = oc.FreeGear(kind="free_gear", id=uuid4(), commander=lead.hands.name)
                    overhauls.act(lead.workshop, lead.hands, overhaul, free)
                said = {"check": point, "words": _SEEN[point], "current_A": 14.5 if point == "barred" else None}
                see = oc.SeeTo.model_validate({"kind": "see_to", "id": uuid4(), **said})
                overhauls.act(lead.workshop, lead.hands, overhaul, see)
        for who in sheet.witnesses:
            came = oc.Witness(kind="witness", id=uuid4(), attends=who, name="R. Aldous", words="Cover 3 seen closed.")
            overhauls.act(lead.workshop, lead.hands, overhaul, came)
        close = oc.CloseOverhaul(kind="close_overhaul", id=uuid4())
        overhauls.act(lead.workshop, chief, overhaul, close, pin=DEMO_PIN)

    def _shaft_before(self, lead: Player, overhaul: UUID) -> None:
        """The webs of Unit 2 were read cold before anything was opened."""
        throws: dict[str, ov.FiveReadings] = {
            pin: (0.0, side, top, -side / 2, 0.0)
            for pin, side, top in zip("1234567", (0.005, 0.01, 0.0, 0.005, 0.01, 0.005, 0.0), _TOPS_MM, strict=True)
        }
        read = oc.ReadDeflections(
            kind="read_deflections", id=uuid4(), when="before", throws_mm=throws, engine_degC=24.0
        )
        overhauls.act(lead.workshop, lead.hands, overhaul, read)

    def _covers_now(self) -> None:
        """Cover 3 loose with one nut that came free low, cover 2 going on in two groups."""
        lead, overhaul = self._open("grey-plover", "Covers 2 and 3", 40, "head-2", "head-3")
        self._find(lead, overhaul, "Cover 2 lifted and its ring changed, on paper.", "open", "head-2")
        loosened = self._begin(
            "Bram Okafor", 7.5, 13, ("grey-plover", "head-3"), "ulvane-5x46-cover-loosen", tools="eight"
        )
        state = loosened.play(lambda cell: cell.key == "all-free/free/6")
        loosened.answer(state.definition.by_key["all-free/free/6"], ev.ValueAnswer(text="620", unit="bar"))
        words = "Came free low; its stud is measured before it goes back."
        loosened.send(Accept(kind="accept", id=uuid4(), cell="all-free/free/6", attempt=1, reason=words))
        loosened.play(lambda cell: cell.kind in ("nuts_off", "lift"))
        cover = self._begin(
            "Dessa Marlow", 2.5, 12, ("grey-plover", "head-2"), "ulvane-5x46-cover-tighten", tools="four"
        )
        cover.play(lambda cell: cell.key == "even-seat/seat/4")

    def _waiting_head(self, digest: str) -> None:
        player = self._player(4, "Bram Okafor", 3)
        player.start("unit-2", "head-3", digest, find=False)
        state = player.play(lambda cell: cell.key == "length-before/length/3")
        cell = state.definition.by_key["length-before/length/3"]
        player.answer(cell, ev.ValueAnswer(text="612.127", unit="mm"))
        player.clock.forward(9)
        player.send(StrikeReading(kind="strike", id=uuid4(), cell=cell.key, attempt=1))
        player.send(GiveReason(kind="give_reason", id=uuid4(), cell=cell.key, attempt=1, reason="Drum misread"))
        player.play(lambda c: c.step == "tools-off")
        player.pause()
        player.clock.forward(900)
        player.take_over(actor(self.workshop, "Lio Sandvik"))
        player.send(Note(kind="note", id=uuid4(), text="Spacer ring 2 tight on the stud, cleaned before it went back."))
        player.play()

    def _doubtful_head(self, digest: str) -> None:
        """Head 6: a blade entered; the pressure was let down at once, and it stands at zero with its question."""
        player = self._player(1, "Dessa Marlow", 6)
        player.start("unit-2", "head-6", digest, find=False)
        state = player.play(lambda cell: cell.key == "second/feeler/3")
        player.answer(state.definition.by_key["second/feeler/3"], ev.FeelerAnswer(enters=True))
        player.play()
