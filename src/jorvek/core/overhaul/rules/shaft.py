"""The shaft as a whole: the deflections of its webs before anything is opened and after everything is closed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jorvek.core.engine.layout import Engine, JointKind
from jorvek.core.measuring.deflection import Deflection, web_deflection
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Overhaul
from jorvek.core.overhaul.rules.joint_conditions import counts, ground_of
from jorvek.core.overhaul.rules.return_to_service import worked_since
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.views.on_engine import RunOnEngine
from jorvek.core.sheet.document import EngineSheet

_SHAFT: Final = frozenset(
    {
        JointKind.MAIN,
        JointKind.COUPLING,
        JointKind.THRUST,
        JointKind.HOLDING_DOWN,
        JointKind.GIRDLE,
        JointKind.COUNTERWEIGHT,
    }
)
"""Joints after whose work the shaft may lie otherwise."""


def pins(engine: Engine) -> tuple[str, ...]:
    """Return the crankpins of an engine along the shaft."""
    return tuple(str(number + 1) for number in range(engine.cylinders_per_bank))


@dataclass(frozen=True)
class Throw:
    """One throw of the shaft: what its readings tell, and which of the limits it passes.

    Attributes:
        outside: names of limits that it passes: ``vertical``, ``horizontal``, ``closes``; none where none is stated.
    """

    pin: str
    readings_mm: tuple[float, ...]
    tells: Deflection
    outside: tuple[str, ...]


_NO_LIMIT_MM: Final = 10.0
"""Where the sheet states none, the figures are shown and not judged."""


def throws_of(read: ov.DeflectionsRead, sheet: EngineSheet) -> tuple[Throw, ...]:
    """Return the throws of a shaft as read, judged by the sheet's limits."""
    limits = sheet.deflection
    found = []
    for pin, readings in read.throws_mm.items():
        told = web_deflection(list(readings), limits.vertical.value if limits else _NO_LIMIT_MM)
        outside = () if limits is None else tuple(
            name
            for name, got, most in (
                ("vertical", abs(told.vertical_mm), limits.vertical.value),
                ("horizontal", abs(told.horizontal_mm), limits.horizontal.value),
                ("closes", told.closes_mm, limits.closes_within.value),
            )
            if round(got, 6) > most
        )  # fmt: skip
        found.append(Throw(pin, readings, told, outside))
    return tuple(found)


def read_deflections(state: Overhaul, command: oc.ReadDeflections, context: oc.EngineContext) -> ov.DeflectionsRead:
    """Take the deflections of the whole shaft; what lies outside the limits is accepted by a chief or not at all.

    Raises:
        Refusal: ``not_your_right``; ``throws_missing`` naming those that are; ``dial_slipped`` where one does not
            close; ``deflection_outside`` and ``nothing_to_accept``.
    """
    demand(context.actor.role, Act.LEAD_OVERHAUL)
    wanted = pins(state.opened.engine)
    if set(command.throws_mm) != set(wanted):
        raise Refusal("throws_missing", got=", ".join(command.throws_mm), wanted=", ".join(wanted))
    read = ov.DeflectionsRead(
        when=command.when,
        throws_mm={pin: command.throws_mm[pin] for pin in wanted},
        engine_degC=command.engine_degC,
        draught=command.draught,
        accepted=command.accepted,
    )
    throws = throws_of(read, context.sheet)
    slipped = next((t for t in throws if "closes" in t.outside), None)
    if slipped is not None:
        raise Refusal("dial_slipped", pin=slipped.pin, got=slipped.tells.closes_mm)
    bad = next((t for t in throws if t.outside), None)
    if command.accepted is not None and (bad is None or command.when == "before"):
        raise Refusal("nothing_to_accept")
    if bad is not None and command.when == "after":
        if command.accepted is None:
            tells = bad.tells
            raise Refusal("deflection_outside", pin=bad.pin, vertical=tells.vertical_mm, horizontal=tells.horizontal_mm)
        demand(context.actor.role, Act.CLOSE_OVERHAUL)
    return read


def deflections_wait(state: Overhaul, sheet: EngineSheet, runs: tuple[RunOnEngine, ...]) -> bool:
    """Tell whether the shaft still has to be read: it was worked on, and nobody has read it since."""
    places = [p for p in ground_of(state, sheet, runs).places if p.kind in _SHAFT and p.kind in sheet.ladders]
    keys = {place.key for place in places}
    shaft = tuple(run for run in runs if counts(state, run) and run.joint in keys)
    by_word = any(
        said.condition != sheet.ladders[p.kind].undone[0] for p in places for said in state.declared.get(p.key, ())
    )
    if state.opened.small or not (shaft or by_word):
        return False
    after = state.deflections.get("after")
    return after is None or worked_since(state, shaft, after.at)
