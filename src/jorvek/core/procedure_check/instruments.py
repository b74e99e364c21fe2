"""Instruments that reach what they measure; tools counted by the way that was chosen, parts as they were fitted."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.measure import Measure
from jorvek.core.procedure.steps import (
    GateStep,
    InspectStep,
    NutsOffStep,
    Owing,
    SeatToolStep,
    Settling,
    StretchStep,
    StudLengthStep,
    SupportStep,
    ThreadAboveStep,
    ToolIssueStep,
    WantedTool,
)
from jorvek.core.procedure.steps.measuring import BoreForm
from jorvek.core.procedure_check.finding import CheckFinding, error
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.units import Quantity


def in_range(r: Reading) -> Iterator[CheckFinding]:
    """A length is measured with an instrument that reaches so far, where its range is stated."""
    for i, step in r.steps:
        found = list(_lengths(r, step))
        # What measures a length names its instrument.
        drawn = r.wanted(getattr(step, "instrument", "")) if found else None
        if drawn is None:
            continue
        path, tool = drawn
        for least, most in found:
            if _short(tool, most) or _long(tool, least):
                scale = f"{_text(tool.range_at_least)} … {_text(tool.range_at_most)}"
                yield error(
                    "instrument_out_of_range", path, tool=tool.title, range=scale, step=r.procedure.steps[i].title
                )
                break


def _text(measure: Measure | None) -> str:
    return "–" if measure is None else measure.text


def _short(tool: WantedTool, most_mm: float) -> bool:
    reach = tool.range_at_least
    return reach is not None and reach.quantity is Quantity.LENGTH and reach.value < most_mm


def _long(tool: WantedTool, least_mm: float) -> bool:
    reach = tool.range_at_most
    return reach is not None and reach.quantity is Quantity.LENGTH and reach.value < least_mm


def _lengths(r: Reading, step: object) -> Iterator[tuple[float, float]]:
    """Yield the least and the most that a step has an instrument measure, in mm."""
    match step:
        case StudLengthStep():
            for group in r.groups(step):
                yield group.free_length.value, group.free_length.value + step.growth_limit.value
        case ThreadAboveStep():
            yield step.at_least.value, step.at_least.value
        case GateStep(gate=BoreForm() as gate):
            yield gate.nominal.value, gate.nominal.value
        case _:
            return


def reaches(r: Reading) -> Iterator[CheckFinding]:
    """A gauge that touches reaches the far end of a tapped stud only through a bore."""
    ends = [(i, s) for i, s in r.of(StretchStep) if s.datum == "end_to_end"]
    befores = {s.before for _, s in ends} | _free_lengths(r)
    steps: list[tuple[int, StretchStep | StudLengthStep]] = [*ends]
    steps += [(i, s) for i, s in r.of(StudLengthStep) if s.id in befores]
    for i, step in steps:
        drawn = r.wanted(step.instrument)
        if drawn is not None and drawn[1].reads == "by_sound":
            continue
        for group in r.groups(step):
            if group.bottom_end == "tapped" and group.form.endswith("nut") and not group.bored:
                yield error("far_end_not_reached", ("steps", i, "instrument"), group=group.title)


def _free_lengths(r: Reading) -> set[str]:
    """Return the steps that measure studs which no stretch follows: whole, from end to end."""
    followed = {s.before for _, s in r.of(StretchStep)}
    return {s.id for _, s in r.of(StudLengthStep) if s.id not in followed}


def tools_counted(r: Reading) -> Iterator[CheckFinding]:
    """As many tools are drawn as sit on studs at once."""
    for i, seat in r.of(SeatToolStep):
        drawn = [t for _, s in r.of(ToolIssueStep) for t in s.tools if t.role == seat.tools]
        wanted = len(r.names(seat))
        if drawn and drawn[0].count < wanted:
            yield error("too_few_tools", ("steps", i), have=drawn[0].count, want=wanted)


def parts_counted(r: Reading) -> Iterator[CheckFinding]:
    """What was fitted is taken off by the same number."""
    fitted = {s.id: len(s.items) for _, s in r.steps if isinstance(s, Owing)}
    fitted |= {s.id: s.carriers for _, s in r.of(SupportStep)}
    for i, step in r.steps:
        if isinstance(step, Settling) and step.of in fitted and fitted[step.of] != len(step.items):
            yield error("counted_otherwise", ("steps", i), put=fitted[step.of], off=len(step.items), step=step.title)


_BY_LENGTH: Final = ("by_length", "by_length_and_count")


def reuse(r: Reading) -> Iterator[CheckFinding]:
    """Fasteners that go back by their length are measured before they are tightened."""
    if r.loosens:
        return
    for k, group in enumerate(r.procedure.fasteners):
        if group.reuse is not None and group.reuse.rule in _BY_LENGTH and not _measured(r, group):
            yield error("reuse_not_measured", ("fasteners", k, "reuse"), group=group.title)


def freed(r: Reading) -> Iterator[CheckFinding]:
    """Studs that stay in and go by their length are measured while they are free; what is measured is compared."""
    if not r.procedure.parts:
        return
    for k, group in enumerate(r.procedure.fasteners):
        stays = group.reuse is not None and group.reuse.rule in _BY_LENGTH and group.nutted()
        if r.loosens and stays and r.of(NutsOffStep) and not _measured(r, group):
            yield error("freed_not_measured", ("fasteners", k, "reuse"), group=group.title)
    after = {name for _, s in r.of(StretchStep) for name in r.names(s)}
    for i, step in r.of(StudLengthStep):
        missed = [name for name in r.names(step) if name not in after]
        if not r.loosens and missed:
            yield error("stretch_not_taken", ("steps", i), names=", ".join(missed))


def drawn(r: Reading) -> Iterator[CheckFinding]:
    """Every tool that a step uses is drawn under the way that was chosen."""
    roles = {t.role for _, s in r.of(ToolIssueStep) for t in s.tools}
    for i, seat in r.of(SeatToolStep):
        if roles and seat.tools not in roles:
            yield error("tool_not_drawn", ("steps", i, "tools"), role=seat.tools)


def _measured(r: Reading, group: FastenerGroup) -> bool:
    names = {p.name for p in group.positions}
    rounds = [s for _, s in r.of(StudLengthStep) if names <= set(r.names(s))]
    looks = [s for _, s in r.of(InspectStep) if s.order and names <= set(r.procedure.orders[s.order].names())]
    return bool(rounds or looks)


RULES: Final[tuple[Rule, ...]] = (in_range, reaches, tools_counted, parts_counted, reuse, freed, drawn)
