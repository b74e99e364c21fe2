"""Release pressures round a joint, and gates along an engine: what runs say side by side."""

from __future__ import annotations

import math
from datetime import datetime
from typing import Final
from uuid import UUID

from jorvek.core.engine.layout import Engine, joints_of
from jorvek.core.measuring.pooled import Side, stands_out
from jorvek.core.measuring.uncertainty import USUAL
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import ChoosePartStep, GateStep, LoosenPressureStep
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.events import ChoiceAnswer
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.breakaway import Strip, strips
from jorvek.core.run.rules.judge import ceiling_for
from jorvek.core.run.views.labels import View, step_title
from jorvek.core.units import Quantity
from jorvek.store.run_summaries import RunSummary
from jorvek.store.runindex import RunRow
from jorvek.work.engine.berth import EngineNamed, engines_named
from jorvek.work.workshop import Workshop


class FreedNut(View):
    """One nut of a strip sheet, pressures in bar.

    Attributes:
        free_bar: pressure at which it came free; None while it is not noted.
        tight_bar: last try at which it was tight.
        load_kN: load that stands for.
        share_pct: of what a healthy stud shows.
        standing: low, ok or high.
        spread_kN: half the range of 95 % about that load: the step between two tries, gauge, tool and transfer.
        stands_out: low or high among its neighbours, by the scatter of joints like this one.
        last_bar: where it came free the time before.
        tightened_bar: lowest pressure while it was last tightened.
    """

    name: str
    free_bar: float | None
    tight_bar: float | None
    load_kN: float | None
    spread_kN: float | None
    share_pct: float | None
    standing: str | None
    stands_out: Side | None
    last_bar: float | None
    tightened_bar: float | None


class StripSheet(View):
    """The release pressures of one step of a run.

    Attributes:
        procedure: by which it was let free; joints let free by the same are like it.
        told: whether enough is known of such joints to tell whether one nut stands out.
        pattern: uniform, scatter, systematic_low or systematic_high; None until every nut is noted.
    """

    run_id: UUID
    engine: str
    joint: str
    title: str
    at: datetime
    by: str
    expected_bar: float | None
    ceiling_bar: float | None
    try_bar: float
    procedure: str
    told: bool
    pattern: str | None
    nuts: tuple[FreedNut, ...]


class GatePoint(View):
    """One reading or figure of a gate in mm, with its limits, its verdict and how often it was tried."""

    label: str
    value: float | None
    lower: float | None
    upper: float | None
    verdict: str | None
    tries: int


class GateSheet(View):
    """One gate of a run along the engine.

    Attributes:
        slot: place along the engine, in cylinder pitches.
        figures: figures worked out from the readings, by name.
        part: part that the measurement chose.
    """

    run_id: UUID
    joint: str
    slot: float
    title: str
    measure: str
    lower: float | None
    upper: float | None
    points: tuple[GatePoint, ...]
    figures: tuple[GatePoint, ...]
    part: str | None


class GateSummary(View):
    """The gates of a run, not yet placed along its engine."""

    sheets: tuple[GateSheet, ...]


class EngineGates(View):
    """The gates of one engine."""

    id: str
    engine: str
    pitches: int
    left_end: str
    right_end: str
    gates: tuple[GateSheet, ...]


class StripSummary(View):
    """What the strip sheets want to know of a run.

    Attributes:
        sheets: its own, without what earlier runs say.
        released: pressure at which each fastener came free, in bar, by its name.
        tightened: lowest pressure of the last stage that pulled each, in bar.
    """

    sheets: tuple[StripSheet, ...]
    released: dict[str, float]
    tightened: dict[str, float]


def strip_summary(run_id: UUID, state: RunState) -> StripSummary:
    """Return what strip sheets say of a run."""
    found = _strips(state)
    released = (
        (name, bar) for strip in reversed(found) for name, bar in zip(strip.names, strip.pressures, strict=True)
    )
    names = {c.fastener for c in state.definition.cells if c.traits.evidence == "pressure" and c.fastener is not None}
    pulled = ((name, _tightened(state, name)) for name in names)
    return StripSummary(
        sheets=tuple(_sheet(run_id, state, strip) for strip in found),
        released={name: bar for name, bar in released if bar is not None},
        tightened={name: bar for name, bar in pulled if bar is not None},
    )


_STRIPS: Final = RunSummary("strips", StripSummary, strip_summary)


class Strips(View):
    """The strip sheets of one engine, the one last worked on first.

    Attributes:
        engines: those that anything was ever worked on.
        engine: whose these are; None where nothing was ever worked on.
        older: whether there may be more than were asked for.
    """

    engines: tuple[EngineNamed, ...]
    engine: str | None
    sheets: tuple[StripSheet, ...]
    older: bool


SHEETS_AT_FIRST: Final = 24


def strip_sheets(workshop: Workshop, engine_id: str | None = None, most: int = SHEETS_AT_FIRST) -> Strips:
    """Return the release pressures of an engine's runs; of the one last worked on that has any when none is named.

    Args:
        workshop: the workshop.
        engine_id: the engine.
        most: how many sheets at the most, the newest ones: those of years are not worked out to show today's.
    """
    asked = [engine_id] if engine_id is not None else workshop.registers.engines_worked_on()
    sheets: tuple[StripSheet, ...] = ()
    older = False
    chosen = asked[0] if asked else None
    for one in asked:
        sheets, older = _strips_of(workshop, one, most)
        if sheets:
            chosen = one
            break
    return Strips(engines=engines_named(workshop), engine=chosen, sheets=sheets, older=older)


_ROWS_AT_ONCE: Final = 50


def _newest_strips(workshop: Workshop, rows: list[RunRow], most: int) -> dict[UUID, StripSummary]:
    """Return what the newest runs say, as many as it takes for so many sheets."""
    found: dict[UUID, StripSummary] = {}
    while len(found) < len(rows) and sum(len(one.sheets) for one in found.values()) < most:
        found |= workshop.summaries.of(_STRIPS, rows[len(found) : len(found) + _ROWS_AT_ONCE])
    return found


def _strips_of(workshop: Workshop, engine_id: str, most: int) -> tuple[tuple[StripSheet, ...], bool]:
    every = workshop.registers.runs(engine_id)
    # Twice as many as are shown: what came before stands beside the last of them, too.
    summaries = _newest_strips(workshop, every, 2 * most)
    rows = every[: len(summaries)]
    joints: dict[tuple[str, str], list[StripSummary]] = {}
    for row in rows:
        joints.setdefault((row.engine_id, row.joint_key), []).append(summaries[row.id])
    sheets = [
        sheet.model_copy(update={"nuts": tuple(_beside(nut, runs[k + 1 :]) for nut in sheet.nuts)})
        for runs in joints.values()
        for k, summary in enumerate(runs)
        for sheet in summary.sheets
    ]
    sheets.sort(key=lambda sheet: sheet.at, reverse=True)
    others = _elsewhere(workshop, engine_id, rows) if sheets else []
    shown = tuple(
        _among_like(sheet, [*sheets[k + 1 :], *(one for one in others if one.at < sheet.at)])
        for k, sheet in enumerate(sheets[:most])
    )
    return shown, len(sheets) > most or len(rows) < len(every)


def _elsewhere(workshop: Workshop, engine_id: str, rows: list[RunRow]) -> list[StripSheet]:
    """Return the newest sheets of other engines by the same procedures: enough to know how such nuts scatter."""
    documents = {head.hash: head.id for head in workshop.registers.revisions()}
    used = {documents.get(row.procedure_hash) for row in rows}
    hashes = [summary for summary, name in documents.items() if name in used]
    alike = workshop.registers.runs_by(hashes, engine_id, _LIKE_AT_MOST)
    found = workshop.summaries.of(_STRIPS, alike).values()
    return [sheet for summary in found for sheet in summary.sheets]


_LIKE_AT_MOST: Final = 60


def _among_like(sheet: StripSheet, earlier: list[StripSheet]) -> StripSheet:
    """Tell which nuts stand out, by the scatter of this joint and of earlier releases by the same procedure."""
    alike = [one for one in earlier if (one.procedure, one.title) == (sheet.procedure, sheet.title)]
    noted = [nut for nut in sheet.nuts if nut.free_bar]
    found = stands_out(
        [_middle(nut) for nut in noted],
        [[_middle(nut) for nut in one.nuts if nut.free_bar] for one in alike],
        sheet.try_bar / max((_middle(nut) for nut in noted), default=1.0),
    )
    sides = {nut.name: side for nut, side in zip(noted, found.sides, strict=True)}
    nuts = tuple(nut.model_copy(update={"stands_out": sides.get(nut.name)}) for nut in sheet.nuts)
    return sheet.model_copy(update={"nuts": nuts, "told": found.told})


def _middle(nut: FreedNut) -> float:
    free = nut.free_bar or 0.0
    return (free + (free if nut.tight_bar is None else nut.tight_bar)) / 2.0


def _beside(nut: FreedNut, earlier: list[StripSummary]) -> FreedNut:
    """Put beside a nut what the runs before it say of its fastener."""
    last = next((run.released[nut.name] for run in earlier if nut.name in run.released), None)
    tightened = next((run.tightened[nut.name] for run in earlier if nut.name in run.tightened), None)
    return nut.model_copy(update={"last_bar": last, "tightened_bar": tightened})


def _sheet(run_id: UUID, state: RunState, strip: Strip) -> StripSheet:
    return StripSheet(
        run_id=run_id,
        engine=state.started.engine.name,
        joint=state.started.joint_label,
        title=step_title(state, strip.step),
        at=state.last_at,
        by=state.watches[-1].by.name,
        expected_bar=strip.expected_bar,
        ceiling_bar=strip.ceiling_bar,
        try_bar=strip.try_bar,
        procedure=state.definition.procedure.id,
        told=False,
        pattern=strip.analysis.pattern.value if strip.analysis and None not in strip.pressures else None,
        nuts=tuple(_nut(state, strip, k) for k in range(len(strip.names))),
    )


def _strips(state: RunState) -> tuple[Strip, ...]:
    loosened = any(isinstance(step, LoosenPressureStep) for step in state.definition.procedure.steps)
    if not loosened:
        return ()
    return strips(state, {key: ceiling_for(state, cells[0]) for key, cells in state.definition.steps})


def _nut(state: RunState, strip: Strip, k: int) -> FreedNut:
    name, free, analysis = strip.names[k], strip.pressures[k], strip.analysis
    standing = analysis.classes[k] if analysis else None
    return FreedNut(
        name=name,
        free_bar=free,
        tight_bar=strip.tight[k],
        load_kN=strip.loads_kN[k],
        spread_kN=_spread_kN(state, strip, k),
        share_pct=analysis.pct[k] if analysis else None,
        standing=standing.value if standing else None,
        stands_out=None,
        last_bar=None,
        tightened_bar=None,
    )


def _spread_kN(state: RunState, strip: Strip, k: int) -> float | None:
    """Return the expanded uncertainty (k = 2) of the load that a release stands for."""
    cells = [c for c in state.definition.by_step[strip.step] if c.what is CellItem.FREE]
    live, load, free = state.live(cells[k].key), strip.loads_kN[k], strip.pressures[k]
    if live is None or load is None or not free:
        return None
    step = (free - (strip.tight[k] or 0.0)) / 12.0**0.5 / free
    gauge = (live.judgement.uncertainty or 0.0) / 2.0 / free
    return 2.0 * load * math.hypot(step, gauge, USUAL.area, USUAL.efficiency, USUAL.transfer)


def _tightened(state: RunState, name: str) -> float | None:
    """Return the lowest pressure of the last stage that pulled a fastener in a run."""
    steps = {c.step for c in state.definition.cells if c.traits.evidence == "pressure" and c.fastener == name}
    lowest = [c for c in state.definition.cells if c.step in steps and c.what is CellItem.LOWEST]
    live = [state.live(c.key) for c in lowest]
    return next((a.judgement.corrected for a in reversed(live) if a is not None), None)


class Gates(View):
    """The gates along one engine.

    Attributes:
        engines: those that anything was ever worked on.
        along: the engine's; None where there are none.
    """

    engines: tuple[EngineNamed, ...]
    along: EngineGates | None


def gates_along(workshop: Workshop, engine_id: str | None = None) -> Gates:
    """Return the newest gates of every joint along an engine; if none is named, the one last worked on that has any."""
    engines = {engine.id: engine for engine in workshop.registers.engines()}
    asked = [engine_id] if engine_id is not None else workshop.registers.engines_worked_on()
    found = (_gates_of(workshop, engines[one]) for one in asked if one in engines)
    along = next((one for one in found if one.gates or engine_id is not None), None)
    return Gates(engines=engines_named(workshop), along=along)


def _gates_of(workshop: Workshop, engine: Engine) -> EngineGates:
    rows = workshop.registers.runs(engine.id)
    summaries = workshop.summaries.of(_GATES, rows)
    slots = {joint.key: joint.slot for joint in joints_of(engine)}
    sheets: dict[tuple[str, str], GateSheet] = {}
    for row in rows:
        for sheet in reversed(summaries[row.id].sheets):
            slot = slots.get(row.joint_key, 0.0)
            # A liner that was measured dry and again when it was home stands as it is now.
            what = sheet.measure if sheet.measure == "stand_out" else sheet.title
            sheets.setdefault((row.joint_key, what), sheet.model_copy(update={"slot": slot}))
    return EngineGates(
        id=engine.id,
        engine=engine.name,
        pitches=engine.cylinders_per_bank,
        left_end=engine.landmarks.x_minus,
        right_end=engine.landmarks.x_plus,
        gates=tuple(sorted(sheets.values(), key=lambda g: (g.measure, g.slot))),
    )


def gate_summary(run_id: UUID, state: RunState) -> GateSummary:
    """Return what the gates along an engine say of a run."""
    sheets = []
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if not isinstance(step, GateStep) or not any(state.tries(c.key) for c in cells):
            continue
        limits = [c for c in cells if c.ask is InputType.VALUE and (c.lower is not None or c.upper is not None)]
        read = [
            c for c in cells if c.ask in (InputType.VALUE, InputType.FEELER) and c.quantity is not Quantity.TEMPERATURE
        ]
        sheets.append(
            GateSheet(
                run_id=run_id,
                joint=state.started.joint_label,
                slot=0.0,
                title=step_title(state, key),
                measure=step.gate.measure,
                lower=limits[0].lower if limits else None,
                upper=limits[0].upper if limits else None,
                points=tuple(_point(state, c, c.text or c.item) for c in read),
                figures=tuple(_point(state, c, c.item_word) for c in cells if c.ask is InputType.SEEN),
                part=_part(state, step.id),
            )
        )
    return GateSummary(sheets=tuple(sheets))


_GATES: Final = RunSummary("gates", GateSummary, gate_summary)


def _point(state: RunState, cell: Cell, label: str) -> GatePoint:
    live = state.live(cell.key)
    judged = live.judgement if live else None
    value = None if judged is None else judged.judged if judged.judged is not None else judged.corrected
    return GatePoint(
        label=label,
        value=value,
        lower=cell.lower,
        upper=cell.upper,
        verdict=judged.verdict.value if judged else None,
        tries=len(state.tries(cell.key)),
    )


def _part(state: RunState, gate: str) -> str | None:
    for cell in state.definition.cells:
        step = state.definition.steps_by_id[cell.step_id]
        if isinstance(step, ChoosePartStep) and step.gate == gate:
            live = state.live(cell.key)
            return live.answer.choice if live and isinstance(live.answer, ChoiceAnswer) else None
    return None
