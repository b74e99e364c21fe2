"""Rules for hydraulic tightening."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Final

from jorvek.core.bolting.scatter import preload_scatter
from jorvek.core.procedure.clamp import ClampModel
from jorvek.core.procedure.parts import half_width, limits_of
from jorvek.core.procedure.staircase import ALLOWED_SHARE
from jorvek.core.procedure.steps import (
    CeilingStep,
    FeelerStep,
    HoldPointStep,
    LoosenPressureStep,
    RelieveStep,
    RemoveToolStep,
    SeatToolStep,
    StretchStep,
    StudLengthStep,
    TensionStep,
    ThreadAboveStep,
    VentStep,
)
from jorvek.core.procedure_check.finding import CheckFinding, Path, error, note, percent, warning
from jorvek.core.procedure_check.reading import Reading, Rule

_USUAL_SHARE: Final = (0.4, 0.75)
_STRETCH_FIT: Final = 0.03
_RUNDOWN_FRICTION: Final = (0.08, 0.18)


def ceilings(r: Reading) -> Iterator[CheckFinding]:
    """The ceiling against tool and stud, and the stroke it would need."""
    for i, step in r.of(CeilingStep):
        path: Path = ("steps", i, "ceiling")
        for tool in r.procedure.tensioners:
            if step.tools not in (None, tool.role):
                continue
            model, top = r.pulled(tool.role), step.ceiling.value
            if top > model.rating_bar:
                yield error("ceiling_above_rating", path, ceiling=top, rating=model.rating_bar)
            share = model.peak_share_of_yield(top, rundown=not r.loosens)
            if share > ALLOWED_SHARE:
                yield error("ceiling_over_yield", path, share=percent(share), allowed=percent(ALLOWED_SHARE))
            travel = model.stroke_budget(top)
            if not r.loosens and not travel.ok:
                yield error("stroke_short", path, travel=round(travel.travel_mm, 2), stroke=model.stroke_mm)


def stages(r: Reading) -> Iterator[CheckFinding]:
    """Each pressure stage against tool, stud, ceiling and what comes before it."""
    for i, step in r.of(TensionStep):
        yield from _limits(r, i, step)
        if not any(k < i for k, _ in r.of(VentStep)):
            yield error("not_vented", ("steps", i), pressure=step.pressure.value)
        if not step.cautions:
            yield warning("no_caution", ("steps", i), pressure=step.pressure.value)
    for tool in r.procedure.tensioners:
        tensions = r.tensions_of(tool.role)
        yield from _rising(tensions)
        if tensions:
            yield from _last_stage(r.pulled(tool.role), *tensions[-1])


def _limits(r: Reading, i: int, step: TensionStep) -> Iterator[CheckFinding]:
    path, p, model = ("steps", i, "pressure"), step.pressure.value, r.pulled(step.tools)
    if p > model.rating_bar:
        yield error("stage_above_rating", path, pressure=p, rating=model.rating_bar)
    share = model.peak_share_of_yield(p)
    if share > ALLOWED_SHARE:
        yield error("stage_over_yield", path, share=percent(share), allowed=percent(ALLOWED_SHARE))
    ceiling, top = r.ceiling_before(i, step.tools), limits_of(step.pressure, step.band)[1]
    if ceiling is None:
        yield error("ceiling_missing", path, pressure=p)
    elif top is None or top > ceiling.ceiling.value:
        shown = "…" if top is None else round(top)
        yield error("stage_reaches_ceiling", path, top=shown, ceiling=ceiling.ceiling.value)


def _rising(tensions: list[tuple[int, TensionStep]]) -> Iterator[CheckFinding]:
    for (_, low), (i, high) in pairwise(tensions):
        if high.pressure.value <= low.pressure.value and low.afterwards == "raise":
            path = ("steps", i, "pressure")
            yield error("stages_not_rising", path, pressure=high.pressure.value, before=low.pressure.value)


def _last_stage(model: ClampModel, i: int, step: TensionStep) -> Iterator[CheckFinding]:
    residual = model.residual_N(step.pressure.value) / model.yield_N()
    low, high = _USUAL_SHARE
    if not low <= residual <= high:
        path = ("steps", i, "pressure")
        yield warning("share_unusual", path, share=percent(residual), low=percent(low), high=percent(high))
    if step.afterwards != "release":
        yield error("never_released", ("steps", i, "afterwards"), pressure=step.pressure.value)


def proofs(r: Reading) -> Iterator[CheckFinding]:
    """Seat, zero and signature: what must be proved, and when."""
    for i, step in r.of(TensionStep):
        if step.afterwards != "release":
            continue
        if step.feeler is None:
            yield error("seat_not_proved", ("steps", i), pressure=step.pressure.value)
        yield from _zero(r, i, step.pressure.value)
    signed = {name for _, s in r.of(HoldPointStep) for name in s.covers}
    missed = [(i, s) for i, s in r.of(TensionStep) if s.id not in signed]
    if missed:
        yield warning("not_signed_for", ("steps", missed[-1][0]), stages=", ".join(s.title for _, s in missed))
    for i, feeler in r.of(FeelerStep):
        if any(k < i for k, _ in r.of(RelieveStep)) and set(r.names(feeler)) & _pulled_names(r):
            yield error("feeler_after_release", ("steps", i), blade=feeler.blade.text)


def _pulled_names(r: Reading) -> set[str]:
    return {name for _, s in r.of(TensionStep) for name in r.names(s)}


def _zero(r: Reading, i: int, pressure: float) -> Iterator[CheckFinding]:
    later = [s for k, s in r.steps if k > i]
    off = next((k for k, s in enumerate(later) if isinstance(s, RemoveToolStep)), len(later))
    if not any(isinstance(s, RelieveStep) for s in later[:off]):
        yield error("zero_not_proved", ("steps", i), pressure=pressure)


def tools_on_studs(r: Reading) -> Iterator[CheckFinding]:
    """Tools seated, with thread to hold them, and taken off again."""
    for i, step in r.of(SeatToolStep):
        names = set(r.names(step))
        if not any(k < i and names <= set(r.names(s)) for k, s in r.of(ThreadAboveStep)):
            yield error("thread_not_measured", ("steps", i), diameter=_diameter(r, step))
        if not any(k > i and names <= set(r.names(s)) for k, s in r.of(RemoveToolStep)):
            yield error("tool_left_on", ("steps", i), step=step.title)
        if step.direction != r.procedure.applies_to.purpose:
            yield error("wrong_direction", ("steps", i, "direction"), purpose=r.procedure.applies_to.purpose)
        if (step.direction == "loosen") != (step.back_off is not None):
            code = "no_back_off" if step.direction == "loosen" else "backed_off_to_tighten"
            yield error(code, ("steps", i), step=step.title)
    for i, thread in r.of(ThreadAboveStep):
        for group in r.groups(thread):
            if group.free_above_nut is None:
                continue
            engaged = thread.at_least.value - group.free_above_nut.value
            if engaged < group.thread.diameter.value:
                needed = group.thread.diameter.value
                yield error("puller_short", ("steps", i, "at_least"), engaged=engaged, needed=needed)


def _diameter(r: Reading, step: SeatToolStep) -> float:
    return r.groups(step)[0].thread.diameter.value


def run_down(r: Reading) -> Iterator[CheckFinding]:
    """The stated run-down load against the effort on the nut bar."""
    for i, step in r.of(TensionStep):
        model = r.pulled(step.tools)
        band = preload_scatter(step.nut_bar.value, model.thread, *_RUNDOWN_FRICTION, model.face_mm)
        if not band.F_min_N <= model.rundown_N <= band.F_max_N:
            yield warning(
                "run_down_does_not_fit",
                ("steps", i, "nut_bar"),
                stated=model.rundown_N / 1000.0,
                low=round(band.F_min_N / 1000.0, 1),
                high=round(band.F_max_N / 1000.0, 1),
            )


def stretches(r: Reading) -> Iterator[CheckFinding]:
    """Lengths before any load, stretches after it, and windows that the load explains."""
    for i, step in r.of(StudLengthStep):
        names = set(r.names(step))
        # These kinds go round fasteners.
        loaded = [k for k, s in r.kinds("tension", "torque", "angle") if names & set(r.names(s))]  # type: ignore[arg-type]
        if not r.loosens and loaded and i > loaded[0]:
            yield error("length_under_load", ("steps", i), step=step.title)
    for i, stretch in r.of(StretchStep):
        yield from _stretch_fits(r, i, stretch)
        yield from _stretch_gauge(r, i, stretch)


def _stretch_fits(r: Reading, i: int, stretch: StretchStep) -> Iterator[CheckFinding]:
    names = set(r.names(stretch))
    before = [s for s in r.stages if s.index < i and names & set(s.names)]
    if not before:
        if not any(k < i for k, _ in r.kinds("tension", "torque", "angle")):
            yield error("stretch_before_load", ("steps", i), step=stretch.title)
        return
    last = before[-1]
    load = last.peak_N if stretch.datum == "at_tool_under_pressure" else last.held.usual
    reckoned = (load or 0.0) * r.models[last.group].datum_resilience(stretch.datum) + last.permanent_mm
    if abs(stretch.target.value - reckoned) > _STRETCH_FIT * reckoned:
        path = ("steps", i, "target")
        yield warning("stretch_does_not_fit", path, target=stretch.target.value, reckoned=round(reckoned, 3))


def _stretch_gauge(r: Reading, i: int, stretch: StretchStep) -> Iterator[CheckFinding]:
    half = (stretch.upper.value - stretch.lower.value) / 2.0
    gauge = r.wanted(stretch.instrument)
    grain = gauge[1].resolution_at_most if gauge else None
    if grain is None or 4.0 * grain.value > half:
        shown = "…" if grain is None else grain.text
        yield warning("length_gauge_too_coarse", ("steps", i, "instrument"), half=round(half, 3), grain=shown)
    yield from _can_be_told(i, stretch, half)
    if not stretch.lower.value <= stretch.target.value <= stretch.upper.value:
        yield error("target_outside_band", ("steps", i, "target"), target=stretch.target.value)
    if stretch.spread_at_most.value > stretch.upper.value - stretch.lower.value:
        spread = stretch.spread_at_most.value
        yield warning("spread_says_nothing", ("steps", i, "spread_at_most"), spread=spread, band=round(2.0 * half, 3))


def _can_be_told(i: int, stretch: StretchStep, half_mm: float) -> Iterator[CheckFinding]:
    """Whether a length gauge, as such gauges are, and the window are capable of each other.

    Source: derived here. A stretch is a difference of two lengths, so its doubt is that of one times the root of two;
    studs of one joint scatter besides, and what lies nearer to the limit than the doubt cannot be called.
    """
    scatter = 2.0 * _STUDS_SCATTER * stretch.target.value
    if half_mm - 2.0**0.5 * _USUAL_LENGTH_U_MM >= scatter:
        return
    gauge, window = max(0.0, (half_mm - scatter) / 2.0**0.5), scatter + 2.0**0.5 * _USUAL_LENGTH_U_MM
    shown = {"half": round(half_mm, 3), "usual": _USUAL_LENGTH_U_MM, "wanted": round(window, 3)}
    if gauge < _BEST_LENGTH_U_MM:
        yield note("window_too_narrow", ("steps", i, "target"), **shown)
    else:
        yield note("gauge_window_not_capable", ("steps", i, "instrument"), gauge=round(gauge, 3), **shown)


_USUAL_LENGTH_U_MM: Final = 0.02
"""Expanded uncertainty of one length by an outside micrometer over a stud's length in a workshop. Model."""
_BEST_LENGTH_U_MM: Final = 0.005
"""And of the best that is used at an engine. Model."""
_STUDS_SCATTER: Final = 0.0225
"""Relative standard deviation of the stretch of sound studs in one joint by tensioner. Model: simulated joints."""


def capable(r: Reading) -> Iterator[CheckFinding]:
    """Gauges and tensioners that can tell what the stage asks, and reach it."""
    needs: dict[str, float] = {}
    for _, step in r.of(TensionStep):
        needs[step.tools] = max(needs.get(step.tools, 0.0), step.pressure.value)
    for _, ceiling in r.of(CeilingStep):
        needs[ceiling.gauge] = max(needs.get(ceiling.gauge, 0.0), ceiling.ceiling.value)
    for role, needed in needs.items():
        found = r.wanted(role)
        if found is None:
            continue
        path, tool = found
        if tool.range_at_least is None or tool.range_at_least.value < needed:
            reach = "…" if tool.range_at_least is None else tool.range_at_least.text
            yield error("tool_range_short", path, tool=tool.title, range=reach, needed=needed)
    for i, step in r.of(TensionStep):
        half = half_width(step.pressure, step.band)
        gauge = r.wanted(step.gauge)
        grain = gauge[1].resolution_at_most if gauge else None
        if grain is None or grain.value > half:
            shown = "…" if grain is None else grain.text
            yield warning("gauge_too_coarse", ("steps", i, "band"), half=round(half, 1), grain=shown)
        if gauge is not None and gauge[1].range_at_least is not None:
            stated = gauge[1].accuracy
            bound = (_USUAL_CLASS if stated is None else stated.value) / 100.0 * gauge[1].range_at_least.value
            if bound > half:
                yield error("gauge_not_capable", gauge[0], bound=round(bound, 1), half=round(half, 1))


_USUAL_CLASS: Final = 0.6
"""Class of the gauges that shops have, where a document asks for none."""
_FREE_OF_CEILING: Final = 0.97


def loosening(r: Reading) -> Iterator[CheckFinding]:
    """Loosening with pressure: ceiling, back-off, turn-back and stroke for any load in the stud."""
    for i, step in r.of(LoosenPressureStep):
        model, ceiling = r.pulled(step.tools), r.ceiling_before(i, step.tools)
        reached = step.expected or step.step
        if ceiling is None:
            yield error("ceiling_missing", ("steps", i, "expected"), pressure=reached.value)
            continue
        if step.expected is not None and step.expected.value > _FREE_OF_CEILING * ceiling.ceiling.value:
            path = ("steps", i, "expected")
            yield error("expected_at_ceiling", path, expected=step.expected.value, ceiling=ceiling.ceiling.value)
        if not any(k < i for k, _ in r.of(VentStep)):
            yield error("not_vented", ("steps", i), pressure=reached.value)
        if not step.cautions:
            yield warning("no_caution", ("steps", i), pressure=reached.value)
        tried = any(k > i and s.nuts_free is not None for k, s in r.of(RelieveStep))
        if step.check_at is None and not tried:
            yield error("freedom_not_proved", ("steps", i), pressure=reached.value)
        yield from _zero(r, i, reached.value)
        yield from _budgets(r, i, step, model, ceiling.ceiling.value)


def _budgets(r: Reading, i: int, step: LoosenPressureStep, model: ClampModel, top: float) -> Iterator[CheckFinding]:
    seats = [(k, s) for k, s in r.of(SeatToolStep) if k < i and s.tools == step.tools and s.back_off is not None]
    if not seats:
        yield error("no_back_off", ("steps", i), step=step.title)
        return
    k, seat = seats[-1]
    assert seat.back_off is not None
    jack, nut = seat.back_off.value / 360.0, step.turn_back.value / 360.0
    slack = model.loosening(0.0, top, jack, nut)
    if slack.travel_mm > model.stroke_mm:
        path = ("steps", k, "back_off")
        yield error("loosening_stroke_short", path, travel=round(slack.travel_mm, 2), stroke=model.stroke_mm)
    if jack < slack.jack_turns_min_conservative:
        need = round(slack.jack_turns_min_conservative, 2)
        yield error("back_off_short", ("steps", k, "back_off"), turns=round(jack, 2), need=need, ceiling=top)
    if nut < slack.nut_turns_min_conservative:
        need = round(slack.nut_turns_min_conservative, 2)
        yield error("turn_back_short", ("steps", i, "turn_back"), turns=round(nut, 2), need=need)
    rise = nut * model.thread.P_mm
    if rise > step.room.value:
        yield error("no_room_for_nut", ("steps", i, "room"), rise=round(rise, 2), room=step.room.value)


RULES: Final[tuple[Rule, ...]] = (
    ceilings,
    stages,
    proofs,
    tools_on_studs,
    run_down,
    stretches,
    capable,
    loosening,
)
