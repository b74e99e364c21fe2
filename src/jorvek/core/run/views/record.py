"""The finished, or unfinished, run as a readable sheet."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date, datetime
from uuid import UUID

from jorvek.core import CORE_VERSION
from jorvek.core.figures import Figure, figure
from jorvek.core.measuring.evidence import Agreement, ClampEstimate
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.clamp import ClampModel, models
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.steps import Source, TensionStep
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.annotations import (
    PhotoView,
    RemarkView,
    SisterView,
    TroubleView,
    WatchView,
    photo_views,
    sister_views,
    troubles_of,
)
from jorvek.core.run.views.bench import RunStatus, status_of
from jorvek.core.run.views.claims import ClaimView, claim_views
from jorvek.core.run.views.estimate import after_neighbours, estimate
from jorvek.core.run.views.found import FoundView, found_of
from jorvek.core.run.views.joint_plan import Plan, plan_of
from jorvek.core.run.views.labels import View, step_title
from jorvek.core.run.views.ladder import StuckView, stuck_views
from jorvek.core.run.views.moved_as_expected import MovedAsExpected, moved_as_expected, told_by_movement
from jorvek.core.run.views.movement import MovementSheet, movement_of
from jorvek.core.run.views.rows import Mark, Row, rows
from jorvek.core.tools import Tool
from jorvek.core.units import GLOSSARY_UNIT, Quantity


class RecordSection(View):
    """The rows of one step."""

    step: str
    title: str
    kind: str
    cautions: tuple[str, ...]
    rows: tuple[Row, ...]


class DrawnTool(View):
    """A tool or gauge that was used, with its calibration as it was then."""

    id: str
    name: str
    certificate: str
    calibration_due: date
    uncertainty: Figure | None


class StudSummary(View):
    """One fastener in one line: what it ended with.

    Attributes:
        clamp_turn: load by the last torque or angle.
        after_neighbours: load as set, less what later groups took away.
        together_spread: doubt of ``together``, k = 2.
        together_own: the part of it that is this fastener's own; what is common to the joint does not tell them apart.
        by_movement: its load is told by how far it turned, for the torque does not go with that.
        verdict: of its stretch; of its last torque or angle where no stretch is read.
    """

    fastener: str
    stretch: Figure | None
    clamp_pressure: Figure | None
    clamp_stretch: Figure | None
    clamp_turn: Figure | None
    after_neighbours: Figure | None
    together: Figure | None
    together_spread: Figure | None
    together_own: Figure | None
    by_movement: bool
    agreement: Agreement | None
    verdict: ev.Verdict | None

    def speaks(self) -> bool:
        """Tell whether the run says anything about what this fastener holds."""
        known = (self.stretch, self.clamp_pressure, self.clamp_turn, self.together, self.agreement, self.verdict)
        return any(one is not None for one in known)


class StageFigures(View):
    """What a pressure stage puts into a stud, as reckoned from the document."""

    title: str
    pressure: Figure
    tool_load: Figure
    residual: Figure
    peak_share_of_yield: Figure


class RedoView(View):
    """Work done again."""

    by: str
    at: datetime
    reason: str
    cells: tuple[str, ...]


class Signature(View):
    """A hold point signed."""

    title: str
    by: str
    role: str
    at: datetime


class DepartureView(View):
    """A fastener that was taken out of its turn."""

    by: str
    at: datetime
    reason: str
    title: str
    fastener: str | None


class RuleLetView(View):
    """A rule of the engine sheet that was let be for this run, by name."""

    rule: str
    joint: str
    reason: str
    by: str
    at: datetime


class AnsweredView(View):
    """A point of making safe that the engine's isolation answered: it was shut before this run began."""

    cell: str
    by: str
    at: datetime


class RenewalView(View):
    """Something past its time that was looked at and found good."""

    by: str
    at: datetime
    words: str
    title: str


class ChosenWay(View):
    """An option and what was chosen, in the author's words."""

    option: str
    choice: str


class ObservedView(View):
    """What decides the numbers, as it was found."""

    title: str
    value: str
    evidence: str


class BroughtIn(View):
    """That a run comes from another installation: who brought it in, and when. Nothing in it was signed here."""

    by: str
    at: datetime


class RunRecord(View):
    """The whole record of a run.

    Attributes:
        brought_in: None for a run of this site.
    """

    run_id: UUID
    seq: int
    status: RunStatus
    content_hash: str
    engine: str
    engine_type: str
    serial: str
    place: str
    running_hours: float
    joint: str
    joint_key: str
    procedure_id: str
    procedure_title: str
    revision: str
    procedure_hash: str
    source: Source
    format_version: str
    core_version: str
    schema_version: int
    started_at: datetime
    started_by: str
    closed: Mark | None
    plan: Plan
    tools: tuple[DrawnTool, ...]
    stages: tuple[StageFigures, ...]
    studs: tuple[StudSummary, ...]
    exceptions: tuple[Row, ...]
    sections: tuple[RecordSection, ...]
    redos: tuple[RedoView, ...]
    signatures: tuple[Signature, ...]
    watches: tuple[WatchView, ...]
    remarks: tuple[RemarkView, ...]
    troubles: tuple[TroubleView, ...]
    stuck: tuple[StuckView, ...]
    claims: tuple[ClaimView, ...]
    movement: tuple[MovementSheet, ...]
    moved_as_expected: tuple[MovedAsExpected, ...]
    found: tuple[FoundView, ...]
    departures: tuple[DepartureView, ...]
    rules_let: tuple[RuleLetView, ...]
    answered: tuple[AnsweredView, ...]
    renewals: tuple[RenewalView, ...]
    sister_checks: tuple[SisterView, ...]
    photos: tuple[PhotoView, ...]
    chosen: tuple[ChosenWay, ...]
    observed: tuple[ObservedView, ...]
    brought_in: BroughtIn | None = None


def record_of(run_id: UUID, state: RunState, content_hash: str, brought_in: BroughtIn | None = None) -> RunRecord:
    """Return the record of a run.

    Args:
        run_id: the run.
        state: the run as it stands.
        content_hash: hash of the newest event, which seals all before it.
        brought_in: that it comes from another installation; None for a run of this site.
    """
    procedure, engine, all_rows = state.definition.procedure, state.started.engine, rows(state)
    return RunRecord(
        run_id=run_id,
        brought_in=brought_in,
        seq=state.seq,
        status=status_of(state),
        content_hash=content_hash,
        engine=engine.name,
        engine_type=engine.type,
        serial=engine.serial,
        place=engine.place,
        running_hours=engine.running_hours,
        joint=state.started.joint_label,
        joint_key=state.started.joint_key,
        procedure_id=procedure.id,
        procedure_title=procedure.title,
        revision=procedure.revision,
        procedure_hash=state.definition.procedure_hash,
        source=procedure.source,
        format_version=procedure.format,
        core_version=CORE_VERSION,
        schema_version=ev.SCHEMA_VERSION,
        started_at=state.started_at,
        started_by=state.started_by.name,
        closed=_closed(state),
        plan=plan_of(state),
        tools=_tools(state),
        stages=stage_figures(procedure, {cells[0].step_id for _, cells in state.definition.steps}),
        studs=_studs(state, all_rows),
        exceptions=tuple(r for r in all_rows if _exceptional(r)),
        sections=_sections(state, all_rows),
        redos=tuple(RedoView(by=r.by.name, at=r.at, reason=r.reason, cells=r.cells) for r in state.redos),
        signatures=_signatures(state),
        watches=tuple(WatchView(by=w.by.name, person_id=w.by.id, at=w.at) for w in state.watches),
        remarks=tuple(RemarkView(by=r.by.name, at=r.at, text=r.text) for r in state.remarks),
        troubles=troubles_of(state),
        stuck=stuck_views(state),
        claims=claim_views(state),
        movement=movement_of(state),
        moved_as_expected=moved_as_expected(state),
        found=found_of(state),
        departures=_departures(state),
        rules_let=tuple(
            RuleLetView(rule=d.rule, joint=d.joint, reason=d.reason, by=state.started_by.name, at=state.started_at)
            for d in state.started.departures
        ),
        answered=tuple(AnsweredView(cell=f.cell, by=f.by.name, at=f.at) for f in state.started.in_force),
        renewals=_renewals(state),
        sister_checks=sister_views(state),
        photos=photo_views(state),
        chosen=_chosen(state),
        observed=tuple(
            ObservedView(title=_key_title(procedure, o.key), value=o.value, evidence=o.evidence)
            for o in state.started.observed
        ),
    )


def _departures(state: RunState) -> tuple[DepartureView, ...]:
    found = []
    for key, allowed in state.out_of_turn.items():
        cell = state.definition.by_key[key]
        title = step_title(state, cell.step)
        found.append(
            DepartureView(by=allowed.by.name, at=allowed.at, reason=allowed.reason, title=title, fastener=cell.fastener)
        )
    return tuple(found)


def _renewals(state: RunState) -> tuple[RenewalView, ...]:
    return tuple(
        RenewalView(by=r.by.name, at=r.at, words=r.words, title=step_title(state, step))
        for step, r in state.renewals.items()
    )


def _chosen(state: RunState) -> tuple[ChosenWay, ...]:
    made = state.started.selection
    return tuple(
        ChosenWay(option=o.title, choice=c.title)
        for o in state.definition.procedure.options
        for c in o.choices
        if made.get(o.id) == c.id
    )


def _key_title(procedure: Procedure, key: str) -> str:
    return next((v.title for v in procedure.variants if v.id == key), key)


def _closed(state: RunState) -> Mark | None:
    if state.closed_at is None or state.closed_by is None:
        return None
    return Mark(by=state.closed_by.name, at=state.closed_at, reason=None)


def _exceptional(row: Row) -> bool:
    odd = row.verdict in (ev.Verdict.OUT_OF_BAND, ev.Verdict.TOO_NEAR, ev.Verdict.LEFT_OUT)
    return odd or row.struck is not None or row.accepted is not None or row.rejected is not None or row.fallen


def _tools(state: RunState) -> tuple[DrawnTool, ...]:
    drawn = {a.tool.id: a.tool for tries in state.attempts.values() for a in tries if a.tool is not None}
    return tuple(_drawn(drawn[key]) for key in sorted(drawn))


def _drawn(tool: Tool) -> DrawnTool:
    uncertainty = tool.expanded_uncertainty()
    return DrawnTool(
        id=tool.id,
        name=tool.name,
        certificate=tool.certificate,
        calibration_due=tool.calibration_due,
        uncertainty=figure(uncertainty, tool.quantity, GLOSSARY_UNIT[tool.quantity]) if uncertainty else None,
    )


def stage_figures(procedure: Procedure, chosen: Collection[str]) -> tuple[StageFigures, ...]:
    """Return what each pressure stage of the chosen way through a procedure puts into a stud."""
    by_group, tools = models(procedure), {t.role: t for t in procedure.tensioners}
    stages: list[StageFigures] = []
    for step in procedure.steps:
        if isinstance(step, TensionStep) and step.id in chosen:
            model, bar = by_group[tools[step.tools].group], step.pressure.value
            assert isinstance(model, ClampModel)
            stages.append(
                StageFigures(
                    title=step.title,
                    pressure=figure(bar, Quantity.PRESSURE, step.pressure.unit),
                    tool_load=figure(model.tool_load_N(bar), Quantity.FORCE, "kN"),
                    residual=figure(model.residual_N(bar), Quantity.FORCE, "kN"),
                    peak_share_of_yield=figure(100 * model.peak_share_of_yield(bar), Quantity.RATIO, "%"),
                )
            )
    return tuple(stages)


def _studs(state: RunState, all_rows: tuple[Row, ...]) -> tuple[StudSummary, ...]:
    after = after_neighbours(state)
    found = (_stud(state, all_rows, p.name, after.get(p.name)) for p in state.definition.procedure.positions())
    return tuple(stud for stud in found if stud.speaks())


def _stud(state: RunState, all_rows: tuple[Row, ...], name: str, after_N: float | None) -> StudSummary:
    live = [r for r in all_rows if r.struck is None and not r.fallen]
    cells = state.definition.by_key
    own = [(r, cells[r.cell].traits.evidence) for r in live if r.fastener == name]
    stretch = next((r for r, evidence in own if evidence == "stretch" and r.item == CellItem.LENGTH), None)
    mine = [r for r in live if r.clamp is not None and state.definition.speaks_for(cells[r.cell], name)]
    pressed = [r for r in mine if cells[r.cell].traits.evidence == "pressure"]
    turned = [r for r, evidence in own if evidence == "turning"]
    held = estimate(state, name)
    return StudSummary(
        fastener=name,
        stretch=stretch.judged if stretch else None,
        clamp_pressure=pressed[-1].clamp if pressed else None,
        clamp_stretch=stretch.clamp if stretch else None,
        clamp_turn=next((r.clamp for r in reversed(turned) if r.clamp is not None), None),
        after_neighbours=None if after_N is None else figure(after_N, Quantity.FORCE, "kN"),
        together=None if held is None or held.F_N is None else figure(held.F_N, Quantity.FORCE, "kN"),
        together_spread=None if held is None or held.u_N is None else figure(2 * held.u_N, Quantity.FORCE, "kN"),
        together_own=_own_spread(held),
        by_movement=bool(turned) and name in told_by_movement(state),
        agreement=None if held is None else held.agreement,
        verdict=stretch.verdict if stretch else turned[-1].verdict if turned else None,
    )


def _own_spread(held: ClampEstimate | None) -> Figure | None:
    if held is None or held.u_N is None or held.common_N <= 0.0:
        return None
    return figure(2.0 * max(0.0, held.u_N**2 - held.common_N**2) ** 0.5, Quantity.FORCE, "kN")


def _sections(state: RunState, all_rows: tuple[Row, ...]) -> tuple[RecordSection, ...]:
    sections: list[RecordSection] = []
    for step, cells in state.definition.steps:
        mine = tuple(r for r in all_rows if r.step == step)
        sections.append(
            RecordSection(
                step=step,
                title=step_title(state, step),
                kind=cells[0].kind,
                cautions=cells[0].cautions,
                rows=mine,
            )
        )
    return tuple(sections)


def _signatures(state: RunState) -> tuple[Signature, ...]:
    signed: list[Signature] = []
    for cell in state.definition.cells:
        live = state.live(cell.key) if cell.ask is InputType.SIGNATURE else None
        if live is not None:
            title = step_title(state, cell.step)
            signed.append(Signature(title=title, by=live.by.name, role=live.by.role.value, at=live.at))
    return tuple(signed)
