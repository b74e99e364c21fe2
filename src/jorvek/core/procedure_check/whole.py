"""What a procedure that names its parts is not whole without: waits, cold metal, the crank, gates, oil, a signature."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.engine.layout import JointKind
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.steps import (
    AttitudeStep,
    CrankPositionStep,
    DeflectionStep,
    GateStep,
    HoldPointStep,
    LubricateStep,
    MakeSafeStep,
    TemperatureGateStep,
    TensionStep,
    WaitStep,
)
from jorvek.core.procedure_check.finding import CheckFinding, error, kilo
from jorvek.core.procedure_check.reading import Reading, Rule

_ON_A_PIN: Final = (JointKind.ROD, JointKind.CROSSHEAD, JointKind.CRANKPIN)
_BEARINGS: Final = (*_ON_A_PIN, JointKind.MAIN)
_CLEARANCE: Final = ("strip_clearance", "diameter_clearance", "blades", "side_float")


def stopped(r: Reading) -> Iterator[CheckFinding]:
    """After the engine was made safe its time after shutdown passes, and the metal is known to be cold."""
    safe = r.of(MakeSafeStep)
    if not r.procedure.parts or not safe:
        return
    if not r.of(WaitStep):
        yield error("no_wait_after_shutdown", ("steps", safe[0][0]), step=safe[0][1].title)
    first = next((i for i, s in r.steps if KINDS[s.kind].load == "takes"), None)
    if first is not None and not any(i < first for i, _ in r.of(TemperatureGateStep)):
        yield error("not_known_cold", ("steps", first), step=r.procedure.steps[first].title)


def placed(r: Reading) -> Iterator[CheckFinding]:
    """The crank stands where the tools reach, before a bearing that goes with it is worked on."""
    joint, inverted = r.procedure.applies_to.joint, any(s.attitude == "inverted" for _, s in r.of(AttitudeStep))
    opens_main = joint is JointKind.MAIN and r.loosens and not inverted
    if not r.procedure.parts or not (joint in _ON_A_PIN or opens_main):
        return
    kinds = [i for i, s in r.steps if KINDS[s.kind].pressure == "raises" or s.kind in ("torque", "loosen_angle")]
    placed_at = [i for i, _ in r.of(CrankPositionStep)]
    closed_first = not r.loosens and joint is not JointKind.ROD
    if kinds and not closed_first and not any(i < kinds[0] for i in placed_at):
        yield error("crank_not_placed", ("steps", kinds[0]), step=r.procedure.steps[kinds[0]].title)


def gated(r: Reading) -> Iterator[CheckFinding]:
    """A bearing that closes is measured in some way; somebody signs for what was tightened."""
    applies = r.procedure.applies_to
    if not r.procedure.parts or r.loosens:
        return
    loads = [i for i, s in r.steps if KINDS[s.kind].load == "adds"]
    gates = [s for s in r.procedure.steps if isinstance(s, GateStep) and s.gate.measure in _CLEARANCE]
    if applies.joint in _BEARINGS and loads and not gates:
        yield error("clearance_not_measured", ("steps", loads[-1]), step=r.procedure.steps[loads[-1]].title)
    if loads and not r.of(HoldPointStep):
        yield error("nobody_signs", ("steps", loads[-1]), step=r.procedure.steps[loads[-1]].title)


def deflected(r: Reading) -> Iterator[CheckFinding]:
    """The web beside a main bearing is read before it is opened and after it is closed; not on an engine's back."""
    inverted = any(s.attitude == "inverted" for _, s in r.of(AttitudeStep))
    if not r.procedure.parts or r.procedure.applies_to.joint is not JointKind.MAIN or inverted:
        return
    taken, wanted = [i for i, _ in r.of(DeflectionStep)], "takes" if r.loosens else "adds"
    loads = [i for i, s in r.steps if KINDS[s.kind].load == wanted]
    missed = loads and not any(i < loads[0] if r.loosens else i > loads[-1] for i in taken)
    if missed:
        at = loads[0] if r.loosens else loads[-1]
        yield error("deflection_not_taken", ("steps", at), step=r.procedure.steps[at].title)


def greased(r: Reading) -> Iterator[CheckFinding]:
    """Nuts that are run down under pressure are greased as the group says."""
    if not r.procedure.parts:
        return
    done = {s.group for _, s in r.of(LubricateStep)}
    for i, step in r.of(TensionStep):
        for group in r.groups(step):
            if group.id not in done:
                done.add(group.id)
                yield error("never_lubricated", ("steps", i), group=group.title, product=group.lubricant.product)


def ends_alike(r: Reading) -> Iterator[CheckFinding]:
    """Whichever way is chosen, the joint holds the same in the end."""
    if not r.procedure.parts or not r.procedure.options or r.loosens:
        return
    mine = _final(r)
    for group, load in _final(r.first_way()).items():
        if group in mine and abs(mine[group] - load) > _ALIKE * max(load, 1.0):
            path = ("fasteners", [g.id for g in r.procedure.fasteners].index(group))
            shown = {"one": kilo(mine[group]), "other": kilo(load)}
            yield error("ways_end_apart", path, group=group, **shown)


_ALIKE: Final = 0.05


def _final(r: Reading) -> dict[str, float]:
    return {stage.group: stage.held.usual for stage in r.stages}


RULES: Final[tuple[Rule, ...]] = (stopped, placed, gated, deflected, greased, ends_alike)
