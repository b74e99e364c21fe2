"""An overhaul on paper: commands decided and folded without any database, and runs as the engine sees them."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

from jorvek.core.engine.layout import Engine, joints_of
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.fold import advance, begin
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.decide import decide
from jorvek.core.overhaul.rules.open_places import open_doors
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import EngineSheet
from tests.core.engines import UNIT_2
from tests.core.paper_run import BRAM, INES, TAM

LIO = Person(id=UUID(int=77), name="Lio Sandvik", role=BRAM.role.__class__.MECHANIC)
PEOPLE = {p.id: p for p in (BRAM, INES, TAM, LIO)}
START = datetime(2026, 11, 23, 6, 0, tzinfo=UTC)


class PaperOverhaul:
    """One overhaul, its log, and the runs on its engine."""

    def __init__(
        self, engine: Engine = UNIT_2, sheet: EngineSheet | None = None, *, as_it_ran: bool = True, small: bool = False
    ) -> None:
        self.sheet = sheet or default_sheet(engine)
        self.now, self.events = START, list[ov.OverhaulEvent]()
        self.runs: tuple[RunOnEngine, ...] = ()
        self.id, self.people = uuid4(), dict(PEOPLE)
        self.state: Overhaul
        self._append(BRAM, ov.Opened(engine=engine, title="Outage", small=small))
        if as_it_ran:
            found = {p.key: self.sheet.ladders[p.kind].undone[0] for p in joints_of(engine, self.sheet.joints)}
            self.say(oc.DeclareConditions(kind="declare_conditions", id=uuid4(), found=found, words="As it ran"))

    def _append(self, by: Person, data: ov.OverhaulData) -> None:
        self.now += timedelta(minutes=1)
        event = ov.OverhaulEvent(
            overhaul_id=self.id,
            seq=len(self.events) + 1,
            id=uuid4(),
            core_version="test",
            at=self.now,
            author=by,
            command="",
            data=data,
        )
        self.events.append(event)
        self.state = begin(event) if len(self.events) == 1 else advance(self.state, event)

    def say(self, command: oc.OverhaulCommand, by: Person = BRAM, **context: Any) -> int:
        """Decide on a command and keep what comes of it; return its sequence.

        ``kept_s`` says how long it has waited on a tablet.
        """
        kept_s = context.pop("kept_s", None)
        if kept_s is not None:
            context["happened_at"] = self.now - timedelta(seconds=kept_s)
        known = oc.EngineContext(by, self.now, self.sheet, self.runs, self.people, **context)
        self._append(by, decide(self.state, command, known))
        return self.state.seq

    def isolate(self, *points: str) -> None:
        """Isolate some points."""
        for point in points:
            self.say(oc.Isolate.model_validate({"kind": "isolate", "id": uuid4(), "point": point}))

    def found(self, condition: str, *joints: str) -> int:
        """Declare some joints."""
        found = dict.fromkeys(joints, condition)
        said = {"kind": "declare_conditions", "id": uuid4(), "found": found, "words": "Seen"}
        return self.say(oc.DeclareConditions.model_validate(said))

    def door(self, door: str, now: str = "open", by: Person = BRAM, **context: Any) -> int:
        """Say that a door was opened or shut."""
        said = {"kind": "move_door", "id": uuid4(), "door": door, "now": now}
        return self.say(oc.MoveDoor.model_validate(said), by, **context)

    def enter(self, who: Person = LIO, **how: Any) -> int:
        """Let somebody in, by a door that stands open; one is opened where nothing is said of doors."""
        space = how.get("space", "crankcase")
        doors = [one.id for one in self.sheet.doors if one.space == space]
        if doors and "door" not in how:
            how["door"] = doors[0]
            if doors[0] not in open_doors(self.state, self.sheet, self.runs):
                self.door(doors[0])
        usual = {"space": "crankcase", "permit": "P-1", "attendant": "Tam", "oxygen_pct": 20.9, "gas_pct": 0.0}
        return self.say(oc.Enter.model_validate({"kind": "enter", "id": uuid4(), "person": who.id, **usual, **how}))

    def out(self, entered: int, by: Person | None = None, *, seen: bool = False, **context: Any) -> int:
        """Let somebody out: by their own word and PIN, or by that of somebody else."""
        inside = next((i.person for i in self.state.inside if i.seq == entered), None)
        command = oc.Leave(kind="leave", id=uuid4(), entered=entered, seen=seen)
        return self.say(command, by or inside or BRAM, pin_confirmed=True, **context)

    def look(self, told: int, by: Person, **context: Any) -> int:
        """Look at what was told later."""
        command = oc.LookAtTold(kind="look_at_told", id=uuid4(), entry=told, words="Seen at the thing itself")
        return self.say(command, by, **{"pin_confirmed": True, **context})

    def lift(self, *points: str) -> int:
        """Lift isolations for a test."""
        said = {"kind": "lift_for_test", "id": uuid4(), "points": points, "test": "Turning", "guards": "Tam"}
        return self.say(oc.LiftForTest.model_validate(said))

    def free(self, by: Person = BRAM, **how: Any) -> int:
        """Free the turning gear for a move of the crank."""
        said = {"kind": "free_gear", "id": uuid4(), "commander": "Bram", **how}
        return self.say(oc.FreeGear.model_validate(said), by)

    def back(self, lifted: int) -> int:
        """Put back what was lifted."""
        return self.say(oc.PutBackAfterTest(kind="put_back_after_test", id=uuid4(), lifted=lifted))

    def move(self, to: float | None = 90.0, by: Person = BRAM, **how: Any) -> int:
        """Move the crank."""
        usual = {"to_deg": to, "way": "ahead", "commander": "Bram", "looked_at": ["sweep"]}
        return self.say(oc.MoveCrank.model_validate({"kind": "move_crank", "id": uuid4(), **usual, **how}), by)

    def begun(self, joint: str, **what: Any) -> RunOnEngine:
        """Put a run on a joint, newest first."""
        usual: dict[str, Any] = {
            "run_id": uuid4(),
            "joint": joint,
            "kind": next(p.kind for p in joints_of(self.state.opened.engine, self.sheet.joints) if p.key == joint),
            "label": joint.replace("-", " ").capitalize(),
            "procedure": f"{joint}-work",
            "title": "Work",
            "purpose": "loosen",
            "begins": "closed_up",
            "leaves": "open",
            "condition": "closed_up",
            "selection": {},
            "overhaul": self.id,
            "started": self.now.isoformat(),
            "changed": self.now.isoformat(),
            "open": True,
            "in_hand": True,
            "tools_on": False,
            "under_pressure": False,
            "in_sweep": (),
            "opens": (),
            "hung": (),
            "left_on": (),
            "carried": (),
            "settled": {},
            "measured": False,
            "gates_bad": False,
            "crank_cell": None,
            "isolated": {},
            "restored": {},
            "drawn": {},
            "idle": (),
            "bound": (),
            "on_studs": (),
            "departed": (),
            "by": "Lio Sandvik",
            "by_id": LIO.id,
        }
        self.now += timedelta(minutes=1)
        run = RunOnEngine.model_validate({**usual, **what})
        self.runs = (run, *self.runs)
        return run

    def becomes(self, run: RunOnEngine, **what: Any) -> RunOnEngine:
        """Let a run go on."""
        self.now += timedelta(minutes=1)
        after = run.model_copy(update={"changed": self.now.isoformat(), **what})
        self.runs = tuple(after if one.run_id == run.run_id else one for one in self.runs)
        return after
