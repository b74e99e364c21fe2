"""Rules for a strip squeezed in a bearing: a full trial assembly, let go, the cap off, then read."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.measuring.bearing import strip_width
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.steps import AngleStep, GateStep, NutsOffStep, RoundStep, Step, TensionStep, TorqueStep
from jorvek.core.procedure.steps.measuring import StripClearance
from jorvek.core.procedure_check.finding import CheckFinding, error
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.refusal import Refusal

_LETS_GO: Final = ("full_release", "loosen_angle", "loosen_pressure")


def strips(r: Reading) -> Iterator[CheckFinding]:
    """A strip is squeezed by a full tightening, which is let go and undone before anything is read."""
    for i, gate in r.of(GateStep):
        if isinstance(gate.gate, StripClearance):
            yield from _scale(i, gate.gate)
            off = max((k for k, _ in r.of(NutsOffStep) if k < i), default=None)
            if off is None:
                later = any(k > i for k, _ in r.of(NutsOffStep))
                yield error("strip_read_too_early" if later else "strip_left_in", ("steps", i), step=gate.title)
            else:
                yield from _squeezed(r, i, off)


def _scale(i: int, gate: StripClearance) -> Iterator[CheckFinding]:
    """The printed scale runs one way, and reaches both limits."""
    scale = sorted((mark.width.value, mark.clearance.value) for mark in gate.scale)
    for name, limit in gate.limits:
        if limit is None:
            continue
        try:
            strip_width(limit.value, scale)
        except Refusal as refusal:
            code = "strip_scale_order" if refusal.code == "E_MONO" else "strip_scale_short"
            yield error(code, ("steps", i, "gate", "scale"), limit=f"{name} {limit.shown}")


def _squeezed(r: Reading, i: int, off: int) -> Iterator[CheckFinding]:
    before = max((k for k, _ in r.of(NutsOffStep) if k < off), default=-1)
    trial = {k: s for k, s in _loads(r) if before < k < off}
    if not trial:
        yield error("strip_not_squeezed", ("steps", i), step=r.procedure.steps[i].title)
        return
    if not any(max(trial) < k < off for k, _ in r.kinds(*_LETS_GO)):
        step = r.procedure.steps[off]
        assert isinstance(step, RoundStep)
        yield error("off_before_let_go", ("steps", off), names=", ".join(r.names(step)))
    yield from _full(r, trial, {k: s for k, s in _loads(r) if k > i})


def _loads(r: Reading) -> list[tuple[int, Step]]:
    """Return the stages that load a cap along, not those that hold it from the side."""
    rounds = [(k, s) for k, s in r.kinds("torque", "angle", "tension") if isinstance(s, RoundStep)]
    return [(k, s) for k, s in rounds if any(g.acts == "along" for g in r.groups(s))]


def _full(r: Reading, trial: dict[int, Step], final: dict[int, Step]) -> Iterator[CheckFinding]:
    """What the trial reaches is what the joint reaches that stays, or the gap that was measured is not its own."""
    reached, wanted = _reached(trial), _reached(final)
    for kind, aim in wanted.items():
        got = reached.get(kind)
        if got is None or abs(got.value - aim.value) > 1e-9:
            yield error("trial_not_full", ("steps", max(trial)), got="–" if got is None else got.shown, aim=aim.shown)
    for kind in reached.keys() - wanted.keys() if wanted else ():
        yield error("trial_not_full", ("steps", max(trial)), got=reached[kind].shown, aim="–")


def _reached(stages: dict[int, Step]) -> dict[str, Measure]:
    """Return the largest figure of each kind of stage."""
    found: dict[str, Measure] = {}
    for step in stages.values():
        figure = _figure(step)
        if figure is not None and (step.kind not in found or figure.value > found[step.kind].value):
            found[step.kind] = figure
    return found


def _figure(step: Step) -> Measure | None:
    match step:
        case TorqueStep():
            return step.torque
        case AngleStep():
            return step.angle
        case TensionStep():
            return step.pressure
        case _:
            return None


RULES: Final[tuple[Rule, ...]] = (strips,)
