"""The complete overhaul of each of the demo's engines, as a problem for a plan."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

from jorvek.core.engine.layout import Engine, JointPlace
from jorvek.core.overhaul.views.outage import Crew, Run, problem_of
from jorvek.core.overhaul.views.phases import phases_of
from jorvek.core.plan.problem import Problem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.procedure.options import selections
from jorvek.core.run.log.definition import define
from jorvek.core.sheet.access import Ground
from jorvek.core.sheet.document import EngineSheet
from jorvek.documents.yaml_reader import read_model, read_yaml
from jorvek.settings import ROOT
from tests.core.engines import GREY_PLOVER, UNIT_2, UNIT_5
from tests.core.paper_run import shipped

TYPES = {"unit-2": (UNIT_2, "tarnholt-7l34"), "unit-5": (UNIT_5, "corvane-v10"), "tender": (GREY_PLOVER, "ulvane-5x46")}
Chains = dict[str, list[Run]]
Conditions = dict[str, Condition]


def sheet_of(name: str) -> EngineSheet:
    return read_model(read_yaml((ROOT / "sheets" / f"{name}.yaml").read_bytes()), EngineSheet)


def chain(engine: Engine, sheet: EngineSheet, place: JointPlace, shelf: list[Procedure]) -> Iterator[Run]:
    """What takes a joint from closed up to open and back, with the piston all the way out and in."""
    ladder = sheet.ladders[place.kind]
    condition = ladder.undone[0]
    for way, purpose in ((ladder.undone, "loosen"), (ladder.put_back, "tighten")):
        while True:
            fits = [
                p
                for p in shelf
                if p.applies_to.joint is place.kind and p.applies_to.purpose == purpose and p.begins == condition
                and p.leaves in way and condition in way and way.index(p.leaves) > way.index(condition)
            ]  # fmt: skip
            if not fits or fits[0].leaves is None:
                break
            ways = selections(fits[0])
            whole = [w for w in ways if w.get("piston") in ("out", "in")] or ways
            phases = phases_of(define(fits[0], whole[0]), engine, sheet.crank, place, whole[0])
            yield Run(place.key, fits[0].id, condition, fits[0].leaves, phases, whole[0])
            condition = fits[0].leaves


@lru_cache
def complete(name: str, hands: int = 4) -> tuple[Ground, Chains, Conditions, Problem]:
    """The complete overhaul of an engine: everything that has procedures, loosened and closed up again."""
    engine, document = TYPES[name]
    sheet = sheet_of(document)
    ground = Ground(engine, sheet, {})
    shelf = [shipped(p.stem) for p in sorted((ROOT / "procedures").glob(f"{document}*")) if not p.stem.endswith("bad")]
    chains = {p.key: list(chain(engine, sheet, p, shelf)) for p in ground.places if p.kind in sheet.ladders}
    chains = {joint: runs for joint, runs in chains.items() if runs}
    now = {p.key: sheet.ladders[p.kind].undone[0] for p in ground.places if p.kind in sheet.ladders}
    # The girdle has no procedure of its own: it was taken off on paper.
    now |= {p.key: "open" for p in ground.places if p.kind.value == "girdle"}
    sets = {one: 1 for runs in chains.values() for run in runs for phase in run.phases for one in phase.sets}
    return ground, chains, now, problem_of(ground, chains, now, Crew(hands, sets), 0.0)
