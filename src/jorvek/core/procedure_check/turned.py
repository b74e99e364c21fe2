"""Rules for torque and angle."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Final

from jorvek.core.bolting.torque import torque_lever_mm
from jorvek.core.bolting.wrench import extension_setting, wrench_range
from jorvek.core.figures import stated_figure
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.loads import Stage, unrolled
from jorvek.core.procedure.parts import half_width, limits_of
from jorvek.core.procedure.steps import (
    AngleStep,
    CheckTripStep,
    EndTorque,
    EqualStage,
    FollowUpStep,
    FullReleaseStep,
    LubricateStep,
    RoundStep,
    RunDownStep,
    SettlingPassStep,
    StretchStep,
    TorqueStep,
    WantedTool,
)
from jorvek.core.procedure_check.finding import CheckFinding, error, kilo, note, percent, warning
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.units import Quantity

_AIM_FIT: Final = 0.05
_PROOF_OF_TORQUE: Final = 0.9
_ROUNDED: Final = 0.01
"""How far a made torque may be rounded, as a share of the last one."""


def torques(r: Reading) -> Iterator[CheckFinding]:
    """Each torque against lubricant, load and the one before it."""
    for i, step in r.of(TorqueStep):
        for group in r.groups(step):
            if step.lubricant != group.lubricant.product:
                path = ("steps", i, "lubricant")
                yield error("torque_for_other_lubricant", path, stated=step.lubricant, group=group.lubricant.product)
            if group.lubricant.friction is None:
                yield warning("friction_unknown", ("steps", i, "torque"), group=group.title)
        lower, upper = limits_of(step.torque, step.band)
        if not (lower or 0.0) <= step.torque.value <= (upper if upper is not None else float("inf")):
            yield error("target_outside_band", ("steps", i, "torque"), target=step.torque.value)
        if step.made is not None:
            yield from _as_made(r, i, step, step.made)
    yield from _rising(r)
    yield from _loads(r)


def _as_made(r: Reading, i: int, step: TorqueStep, made: EqualStage) -> Iterator[CheckFinding]:
    """A torque that was made as a part of the last one stands as it was made, to the figure it was rounded to."""
    last = next((s for _, s in r.of(TorqueStep) if s.id == made.of), None)
    if last is None:
        return
    equal = last.torque.value * made.part / made.parts
    if abs(step.torque.value - equal) > _ROUNDED * last.torque.value:
        shown = stated_figure(equal, Quantity.TORQUE, last.torque.unit)
        yield error("stage_not_as_made", ("steps", i, "torque"), torque=f"{shown.text} {shown.unit}", of=last.title)


def _rising(r: Reading) -> Iterator[CheckFinding]:
    for group in r.procedure.fasteners:
        before: TorqueStep | None = None
        for i, step, cycle in unrolled(r.procedure, r.selection):
            if isinstance(step, FullReleaseStep):
                before = None
            if not isinstance(step, TorqueStep) or cycle > 1 or group not in r.groups(step):
                continue
            again = before is not None and set(r.names(step)) & set(r.names(before))
            if before is not None and again and step.torque.value <= before.torque.value:
                path = ("steps", i, "torque")
                yield error("torques_not_rising", path, torque=step.torque.value, before=before.torque.value)
            before = step


def _loads(r: Reading) -> Iterator[CheckFinding]:
    for stage in r.stages:
        if stage.kind == "tension" or stage.cycle > 1:
            continue
        model = r.models[stage.group]
        at_yield = model.turned_yield_N()
        path = ("steps", stage.index, stage.kind)
        if stage.kind == "torque" and stage.held.most > _PROOF_OF_TORQUE * at_yield:
            share, allowed = percent(stage.held.most / at_yield), percent(_PROOF_OF_TORQUE)
            limit, at_most = kilo(at_yield), kilo(_PROOF_OF_TORQUE * at_yield)
            params = {"share": share, "allowed": allowed, "limit": limit, "at_most": at_most}
            yield error("torque_over_yield", path, most=kilo(stage.held.most), **params)
        aim = stage.step.aims_at if isinstance(stage.step, TorqueStep | AngleStep) else None
        if aim is not None and abs(aim.value - stage.held.usual) > _AIM_FIT * stage.held.usual:
            yield error("load_does_not_fit", path, aim=kilo(aim.value), reckoned=kilo(stage.held.usual))


def angles(r: Reading) -> Iterator[CheckFinding]:
    """Angle stages: snug first, yield only where the bolt is not used again, marks that prove."""
    for stage in r.stages:
        if not isinstance(stage.step, AngleStep) or stage.cycle > 1:
            continue
        group = _group(r, stage.group)
        limit, upper = stage.elastic_limit_deg, limits_of(stage.step.angle, stage.step.band)[1]
        reached = upper if upper is not None else stage.step.angle.value
        reused = group.reuse is None or group.reuse.rule != "always_new"
        if limit is not None and reached >= limit and reused:
            path = ("steps", stage.index, "angle")
            yield error("angle_reaches_yield", path, angle=reached, limit=round(limit, 1))
        if stage.step.end_torque is not None:
            yield from _end_torque(r, stage, stage.step.end_torque)
    yield from _snug_first(r)
    yield from _torque_after_angle(r)
    yield from _soft_bolts(r)
    for i, step in r.of(AngleStep):
        lower, upper = limits_of(step.angle, step.band)
        if not (lower or 0.0) <= step.angle.value <= (upper if upper is not None else float("inf")):
            yield error("target_outside_band", ("steps", i, "angle"), target=step.angle.value)
        grain = _grain_deg(r, step)
        if grain > half_width(step.angle, step.band) * 2.0:
            half = half_width(step.angle, step.band)
            yield warning("angle_too_coarse", ("steps", i, "band"), half=round(half, 1), grain=round(grain, 1))


_SOFT: Final = 0.95
_STRONGER: Final = 1.15
"""Yield strength of a delivered bolt over the least that its class promises."""


def _soft_bolts(r: Reading) -> Iterator[CheckFinding]:
    """What is turned by angle without an end torque or a length afterwards hides a bolt that yields or gives early."""
    for i, step in r.of(AngleStep):
        # A free length before the load tells nothing of how the bolt gives under it.
        read = {name for k, s in r.of(StretchStep) if k > i for name in r.names(s)}
        if step.end_torque is None and not set(r.names(step)) & read:
            yield note("soft_bolt_not_seen", ("steps", i), step=step.title)


def _end_torque(r: Reading, stage: Stage, stated: EndTorque) -> Iterator[CheckFinding]:
    """The limit of the torque at the end finds a soft bolt and bars no sound one.

    Source: derived here. At a friction the torque is the load there times the lever; the least over the friction
    range is that of a bolt which yields where its class promises, the most that of one 15 % stronger.
    """
    model = r.models[stage.group]
    if model.friction is None:
        return
    ends = ((model.friction[0], stage.held.most), (model.friction[2], stage.held.least))
    torques_Nm = [
        load * torque_lever_mm(model.thread, mu, mu, model.face_mm) / 1000.0 + model.prevailing_Nm for mu, load in ends
    ]
    path, least, most = ("steps", stage.index, "end_torque"), min(torques_Nm), _STRONGER * max(torques_Nm)
    shown: dict[str, str | float] = {"least": round(least, 1), "stated": stated.at_least.shown}
    if stated.at_least.value < _SOFT * least:
        yield warning("end_torque_finds_nothing", (*path, "at_least"), **shown)
    if stated.at_least.value > least * (1.0 + _ROUNDED):
        yield warning("end_torque_bars_sound", (*path, "at_least"), **shown)
    if stated.at_most is not None and stated.at_most.value < most * (1.0 - _ROUNDED):
        yield warning("end_torque_bars_strong", (*path, "at_most"), most=round(most, 1), stated=stated.at_most.shown)


_BY_EYE_DEG: Final = 2.0


def _grain_deg(r: Reading, step: AngleStep) -> float:
    """Return how finely the means can tell an angle; marks and a bar tell about two degrees."""
    drawn = r.wanted(step.tool) if step.tool else None
    grain = drawn[1].resolution_at_most if drawn else None
    return grain.value if grain is not None else _BY_EYE_DEG


def _group(r: Reading, group_id: str) -> FastenerGroup:
    return next(g for g in r.procedure.fasteners if g.id == group_id)


def _snug_first(r: Reading) -> Iterator[CheckFinding]:
    snug: set[str] = set()
    reported: set[int] = set()
    for i, step, _ in unrolled(r.procedure, r.selection):
        if isinstance(step, TorqueStep):
            snug |= set(r.names(step))
        if isinstance(step, FullReleaseStep):
            snug -= set(r.names(step))
        if isinstance(step, AngleStep) and set(r.names(step)) - snug and i not in reported:
            reported.add(i)
            yield error("angle_without_snug", ("steps", i), angle=step.angle.text)


def _torque_after_angle(r: Reading) -> Iterator[CheckFinding]:
    """A fastener that was turned through its angle is not pulled to a torque again before it is let go."""
    turned: set[str] = set()
    for i, step in r.steps:
        if KINDS[step.kind].load == "takes" and isinstance(step, RoundStep):
            turned -= set(r.names(step))
        if isinstance(step, AngleStep):
            turned |= set(r.names(step))
        if isinstance(step, TorqueStep) and turned & set(r.names(step)):
            yield error("torque_after_angle", ("steps", i), step=step.title)


def checks_that_mean_something(r: Reading) -> Iterator[CheckFinding]:
    """A click proves nothing after an angle; a check trip repeats a torque that was pulled."""
    turned: set[str] = set()
    pulled: dict[str, float] = {}
    for i, step in r.steps:
        if isinstance(step, AngleStep):
            turned |= set(r.names(step))
        if isinstance(step, TorqueStep):
            pulled |= dict.fromkeys(r.names(step), step.torque.value)
        if isinstance(step, CheckTripStep | SettlingPassStep):
            names = r.names(step)
            if turned & set(names):
                yield error("check_trip_after_angle", ("steps", i), torque=step.torque.text)
            elif any(abs(pulled.get(name, 0.0) - step.torque.value) > 1e-9 for name in names):
                yield error("check_trip_other_torque", ("steps", i, "torque"), torque=step.torque.text)
        if isinstance(step, FollowUpStep):
            yield from _follow_up(r, i, step)


def _follow_up(r: Reading, i: int, step: FollowUpStep) -> Iterator[CheckFinding]:
    angled = {name for _, s in r.of(AngleStep) for name in r.names(s)}
    for again in r.procedure.steps:
        if again.id in step.repeats and isinstance(again, TorqueStep | AngleStep) and angled & set(r.names(again)):
            yield error("retighten_after_angle", ("steps", i, "repeats"), step=again.title)


def wrenches(r: Reading) -> Iterator[CheckFinding]:
    """Wrenches that hold the target between 20 and 100 % of their scale, finely and truly enough."""
    pulls = [s for _, s in r.steps if isinstance(s, TorqueStep | CheckTripStep | SettlingPassStep)]
    for step in pulls:
        found = r.wanted(step.wrench)
        if found is None:
            continue
        path, tool = found
        setting = _setting(tool, step.torque.value)
        top = (tool.range_at_most or tool.range_at_least).value if tool.range_at_least else None
        if top is None or tool.range_at_least is None or tool.range_at_least.value < setting:
            reach = tool.range_at_least.text if tool.range_at_least else "…"
            yield error("wrench_range_short", path, tool=tool.title, range=reach, needed=round(setting, 1))
        elif wrench_range(setting, top).state != "ok":
            low = round(0.2 * top, 1)
            yield error("wrench_low_on_scale", path, tool=tool.title, target=round(setting, 1), low=low, full=top)
        if isinstance(step, TorqueStep) and tool.accuracy is not None:
            half = half_width(step.torque, step.band)
            bound = tool.accuracy.value / 100.0 * step.torque.value
            if step.band_of is None and bound > half:
                truer = math.floor(1000.0 * half / step.torque.value) / 10.0
                yield error("wrench_not_capable", path, bound=round(bound, 1), half=round(half, 1), truer=truer)
    for i, run in r.of(RunDownStep):
        first = next(
            (s.torque.value for k, s in r.of(TorqueStep) if k > i and set(r.names(s)) & set(r.names(run))), None
        )
        if run.at_most is not None and first is not None and run.at_most.value >= first:
            yield error("run_down_past_first_stage", ("steps", i, "at_most"), most=run.at_most.value, first=first)


def _setting(tool: WantedTool, torque_Nm: float) -> float:
    """Return the setting on the wrench for a torque at the fastener, its adapter counted."""
    if tool.adapter is None:
        return torque_Nm
    a = tool.adapter
    return extension_setting(torque_Nm, a.wrench_length.value, a.offset.value, a.angle.value)


def lubrication(r: Reading) -> Iterator[CheckFinding]:
    """Lubricant on the faces that want it, on none that must stay dry, and on every turned fastener."""
    applied: set[str] = set()
    for i, step in r.of(LubricateStep):
        if step.group is None:
            continue
        applied.add(step.group)
        group = _group(r, step.group)
        if step.product != group.lubricant.product:
            path = ("steps", i, "product")
            yield error("other_lubricant", path, product=step.product, group=group.lubricant.product)
        test, wrenches_used = step.friction_test, {s.wrench for _, s in r.of(TorqueStep)}
        if test is not None and test.torque_sensor in wrenches_used:
            yield error("friction_test_same_wrench", ("steps", i, "friction_test", "torque_sensor"), step=step.title)
        wet = sorted(set(step.faces) & set(group.lubricant.dry))
        if wet:
            yield error("dry_face_lubricated", ("steps", i, "faces"), faces=", ".join(wet))
    yield from _stand_ins(r)
    for group in r.procedure.fasteners:
        first = next((i for i, s in r.of(TorqueStep) if group in r.groups(s)), None)
        if first is not None and group.id not in applied and group.lubricant.faces:
            yield error("never_lubricated", ("steps", first), group=group.title, product=group.lubricant.product)


def _stand_ins(r: Reading) -> Iterator[CheckFinding]:
    """A lubricant that stands in wants another torque; a trip round several groups has only one."""
    for k, group in enumerate(r.procedure.fasteners):
        mixed = next((s for _, s in r.of(TorqueStep) if group in r.groups(s) and len(r.groups(s)) > 1), None)
        if group.lubricant.others and mixed is not None:
            path = ("fasteners", k, "lubricant", "others")
            yield error("stand_in_has_no_torque", path, group=group.title, step=mixed.title)


RULES: Final[tuple[Rule, ...]] = (torques, angles, checks_that_mean_something, wrenches, lubrication)
