"""The procedure check: a document read against physics and good practice before anybody touches the engine."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Final

from jorvek.core.bolting.scatter import preload_scatter
from jorvek.core.bolting.thread import iso_thread
from jorvek.core.procedure.clamp import ClampModel, clamp_model
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import (
    CeilingStep,
    HoldPointStep,
    RelieveStep,
    RemoveToolStep,
    SeatToolStep,
    Step,
    StretchStep,
    StudLengthStep,
    TensionStep,
    ThreadAboveStep,
    ToolIssueStep,
    VentStep,
    WantedTool,
)
from jorvek.core.refusal import Refusal

Path = tuple[str | int, ...]


class Severity(StrEnum):
    """How a finding is to be taken."""

    ERROR = "error"
    WARNING = "warning"


@dataclass(frozen=True)
class CheckFinding:
    """One thing in a procedure that would hurt, or that nobody should have to wonder about.

    Attributes:
        code: name of the finding; the catalogue says in words what it is and what cures it.
        severity: error or warning.
        path: place in the document.
        params: the numbers that show it.
    """

    code: str
    severity: Severity
    path: Path
    params: dict[str, str | float]


ALLOWED_SHARE: Final = 0.9
"""Highest share of yield that a stud may see under the tool."""
_USUAL_SHARE: Final = (0.4, 0.75)
_STRETCH_FIT: Final = 0.03
_GRIP_FIT_MM: Final = 0.5
_RUNDOWN_FRICTION: Final = (0.08, 0.18)


@dataclass(frozen=True)
class _Reading:
    """A procedure with what several rules need to know about it."""

    procedure: Procedure
    clamp: ClampModel
    steps: tuple[Step, ...]

    def of(self, kind: type[Step]) -> list[tuple[int, Step]]:
        """Return the steps of one kind with their places."""
        return [(i, s) for i, s in enumerate(self.steps) if isinstance(s, kind)]

    def tensions(self) -> list[tuple[int, TensionStep]]:
        """Return the pressure stages."""
        return [(i, s) for i, s in enumerate(self.steps) if isinstance(s, TensionStep)]

    def ceilings(self) -> list[tuple[int, CeilingStep]]:
        """Return the steps that set a ceiling."""
        return [(i, s) for i, s in enumerate(self.steps) if isinstance(s, CeilingStep)]

    def wanted(self, role: str) -> tuple[Path, WantedTool] | None:
        """Return the tool drawn for a role, and where it is asked for."""
        for i, s in enumerate(self.steps):
            if isinstance(s, ToolIssueStep):
                for j, tool in enumerate(s.tools):
                    if tool.role == role:
                        return ("steps", i, "tools", j), tool
        return None


def _error(code: str, path: Path, **params: str | float) -> CheckFinding:
    return CheckFinding(code, Severity.ERROR, path, params)


def _warning(code: str, path: Path, **params: str | float) -> CheckFinding:
    return CheckFinding(code, Severity.WARNING, path, params)


def _percent(share: float) -> float:
    return round(100.0 * share, 1)


def _geometry(r: _Reading) -> Iterator[CheckFinding]:
    f, c = r.procedure.fasteners, r.procedure.clamped
    studs, parts = sum(s.length.value for s in f.sections), sum(layer.thickness.value for layer in c.layers)
    if abs(studs - parts) > _GRIP_FIT_MM:
        yield _error("grip_contradiction", ("fasteners", "sections"), stud=studs, parts=parts)
    new = f.free_length.value
    if new < studs + f.nut_height.value:
        yield _error("stud_too_short", ("fasteners", "free_length"), length=new, needed=studs + f.nut_height.value)


def _ceiling(r: _Reading) -> Iterator[CheckFinding]:
    rating = r.procedure.tensioner.rating.value
    for i, step in r.ceilings():
        path: Path = ("steps", i, "ceiling")
        if step.ceiling.value > rating:
            yield _error("ceiling_above_rating", path, ceiling=step.ceiling.value, rating=rating)
        share = r.clamp.peak_share_of_yield(step.ceiling.value)
        if share > ALLOWED_SHARE:
            yield _error("ceiling_over_yield", path, share=_percent(share), allowed=_percent(ALLOWED_SHARE))
        travel = r.clamp.stroke_budget(step.ceiling.value)
        if not travel.ok:
            yield _error("stroke_short", path, travel=round(travel.travel_mm, 2), stroke=r.clamp.stroke_mm)


def _stages(r: _Reading) -> Iterator[CheckFinding]:
    tensions, rating = r.tensions(), r.procedure.tensioner.rating.value
    for i, step in tensions:
        path, p = ("steps", i, "pressure"), step.pressure.value
        if p > rating:
            yield _error("stage_above_rating", path, pressure=p, rating=rating)
        share = r.clamp.peak_share_of_yield(p)
        if share > ALLOWED_SHARE:
            yield _error("stage_over_yield", path, share=_percent(share), allowed=_percent(ALLOWED_SHARE))
        before = [s for k, s in r.ceilings() if k < i]
        top = p * (1.0 + step.band.value / 100.0)
        if not before:
            yield _error("ceiling_missing", path, pressure=p)
        elif top > before[-1].ceiling.value:
            yield _error("stage_reaches_ceiling", path, top=round(top), ceiling=before[-1].ceiling.value)
        if not any(k < i for k, _ in r.of(VentStep)):
            yield _error("not_vented", ("steps", i), pressure=p)
        if not step.cautions:
            yield _warning("no_caution", ("steps", i), pressure=p)
    for (_, low), (i, high) in pairwise(tensions):
        if high.pressure.value <= low.pressure.value and low.afterwards == "raise":
            yield _error(
                "stages_not_rising", ("steps", i, "pressure"), pressure=high.pressure.value, before=low.pressure.value
            )
    if tensions:
        yield from _last_stage(r, *tensions[-1])


def _last_stage(r: _Reading, i: int, step: TensionStep) -> Iterator[CheckFinding]:
    residual = r.clamp.residual_N(step.pressure.value) / r.clamp.smallest_mm2 / r.clamp.yield_MPa
    low, high = _USUAL_SHARE
    if not low <= residual <= high:
        yield _warning(
            "share_unusual",
            ("steps", i, "pressure"),
            share=_percent(residual),
            low=_percent(low),
            high=_percent(high),
        )
    if step.afterwards != "release":
        yield _error("never_released", ("steps", i, "afterwards"), pressure=step.pressure.value)


def _proofs(r: _Reading) -> Iterator[CheckFinding]:
    for i, step in r.tensions():
        if step.afterwards != "release":
            continue
        if step.feeler is None:
            yield _error("seat_not_proved", ("steps", i), pressure=step.pressure.value)
        later = r.steps[i + 1 :]
        off = next((k for k, s in enumerate(later) if isinstance(s, RemoveToolStep)), len(later))
        if not any(isinstance(s, RelieveStep) for s in later[:off]):
            yield _error("zero_not_proved", ("steps", i), pressure=step.pressure.value)
    tensions = r.tensions()
    signed = {name for s in r.steps if isinstance(s, HoldPointStep) for name in s.covers}
    missed = [s.title for _, s in tensions if s.id not in signed]
    if missed:
        yield _warning("not_signed_for", ("steps", tensions[-1][0]), stages=", ".join(missed))


def _tool_on_stud(r: _Reading) -> Iterator[CheckFinding]:
    f = r.procedure.fasteners
    for i, step in r.of(SeatToolStep):
        if not any(k < i for k, _ in r.of(ThreadAboveStep)):
            yield _error("thread_not_measured", ("steps", i), diameter=f.thread.diameter.value)
        if not any(k > i for k, _ in r.of(RemoveToolStep)):
            yield _error("tool_left_on", ("steps", i), step=step.title)
    for i, thread in r.of(ThreadAboveStep):
        assert isinstance(thread, ThreadAboveStep)
        engaged = thread.at_least.value - f.free_above_nut.value
        if engaged < f.thread.diameter.value:
            yield _error("puller_short", ("steps", i, "at_least"), engaged=engaged, needed=f.thread.diameter.value)


def _tools(r: _Reading) -> Iterator[CheckFinding]:
    highest = max((s.pressure.value for _, s in r.tensions()), default=0.0)
    top = max((s.ceiling.value for _, s in r.ceilings()), default=highest)
    needs = [(s.tools, highest) for _, s in r.tensions()] + [(s.gauge, top) for _, s in r.ceilings()]
    for role, needed in dict(needs).items():
        found = r.wanted(role)
        if found is None:
            continue
        path, tool = found
        if tool.range_at_least is None or tool.range_at_least.value < needed:
            reach = "…" if tool.range_at_least is None else tool.range_at_least.text
            yield _error("tool_range_short", path, tool=tool.title, range=reach, needed=needed)
    for i, step in r.tensions():
        half = step.pressure.value * step.band.value / 100.0
        gauge = r.wanted(step.gauge)
        grain = gauge[1].resolution_at_most if gauge else None
        if grain is None or grain.value > half:
            yield _warning(
                "gauge_too_coarse",
                ("steps", i, "band"),
                half=round(half, 1),
                grain="…" if grain is None else grain.text,
            )


def _run_down(r: _Reading) -> Iterator[CheckFinding]:
    f, c = r.procedure.fasteners, r.procedure.clamped
    thread = iso_thread(f.thread.diameter.value, f.thread.pitch.value)
    face = (c.bearing.value + c.hole.value) / 2.0
    for i, step in r.tensions():
        band = preload_scatter(step.nut_bar.value, thread, *_RUNDOWN_FRICTION, face)
        if not band.F_min_N <= r.clamp.rundown_N <= band.F_max_N:
            yield _warning(
                "run_down_does_not_fit",
                ("steps", i, "nut_bar"),
                stated=r.clamp.rundown_N / 1000.0,
                low=round(band.F_min_N / 1000.0, 1),
                high=round(band.F_max_N / 1000.0, 1),
            )


def _stretches(r: _Reading) -> Iterator[CheckFinding]:
    first = next((i for i, _ in r.tensions()), len(r.steps))
    for i, step in r.of(StudLengthStep):
        if i > first:
            yield _error("length_under_load", ("steps", i), step=step.title)
    for i, stretch in r.of(StretchStep):
        assert isinstance(stretch, StretchStep)
        earlier = [s for k, s in r.tensions() if k < i]
        if not earlier:
            yield _error("stretch_before_load", ("steps", i), step=stretch.title)
            continue
        reckoned = r.clamp.stretch_mm(r.clamp.residual_N(earlier[-1].pressure.value))
        if abs(stretch.target.value - reckoned) > _STRETCH_FIT * reckoned:
            yield _warning(
                "stretch_does_not_fit",
                ("steps", i, "target"),
                target=stretch.target.value,
                reckoned=round(reckoned, 3),
            )
        yield from _stretch_gauge(r, i, stretch)


def _stretch_gauge(r: _Reading, i: int, stretch: StretchStep) -> Iterator[CheckFinding]:
    half = (stretch.upper.value - stretch.lower.value) / 2.0
    gauge = r.wanted(stretch.instrument)
    grain = gauge[1].resolution_at_most if gauge else None
    if grain is None or 4.0 * grain.value > half:
        yield _warning(
            "length_gauge_too_coarse",
            ("steps", i, "instrument"),
            half=round(half, 3),
            grain="…" if grain is None else grain.text,
        )
    if not stretch.lower.value <= stretch.target.value <= stretch.upper.value:
        yield _error("target_outside_band", ("steps", i, "target"), target=stretch.target.value)
    if stretch.spread_at_most.value > stretch.upper.value - stretch.lower.value:
        yield _warning(
            "spread_says_nothing",
            ("steps", i, "spread_at_most"),
            spread=stretch.spread_at_most.value,
            band=round(2.0 * half, 3),
        )


_RULES: Final = (_geometry, _ceiling, _stages, _proofs, _tool_on_stud, _tools, _run_down, _stretches)


def check(procedure: Procedure) -> tuple[CheckFinding, ...]:
    """Return everything that speaks against a procedure, errors first, in the order of the document.

    Args:
        procedure: a document that can be read and reckoned with.

    Raises:
        Refusal: when its geometry is impossible, which import refuses already.
    """
    reading = _Reading(procedure, clamp_model(procedure), procedure.steps)
    found = [finding for rule in _RULES for finding in _run(rule, reading)]
    return tuple(sorted(found, key=lambda f: (f.severity is not Severity.ERROR, [str(p).zfill(4) for p in f.path])))


def _run(rule: Callable[[_Reading], Iterator[CheckFinding]], reading: _Reading) -> Iterator[CheckFinding]:
    """Run a rule; a number that cannot be reckoned with is a finding, not an end."""
    try:
        yield from rule(reading)
    except Refusal as refusal:
        yield _error("cannot_reckon", (), name=str(refusal.params.get("name")), got=str(refusal.params.get("got")))
