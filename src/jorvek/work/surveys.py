"""Release pressures round a joint, and gates along an engine: what runs say side by side."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from jorvek.core.engine.layout import joints_of
from jorvek.core.procedure.steps import GateStep, LoosenPressureStep
from jorvek.core.run.cells import Ask, Cell
from jorvek.core.run.judge import ceiling_for
from jorvek.core.run.readings import View, step_title
from jorvek.core.run.released import Strip, strips
from jorvek.core.run.state import RunState
from jorvek.core.units import Quantity
from jorvek.store.registers import RunRow
from jorvek.work.workshop import Workshop


class FreedNut(View):
    """One nut of a strip sheet, pressures in bar.

    Attributes:
        free_bar: pressure at which it came free; None while it is not noted.
        tight_bar: last try at which it was tight.
        load_kN: load that stands for.
        share_pct: of what a healthy stud shows.
        standing: low, ok or high.
        stands_out: far from the middle of its neighbours.
        last_bar: where it came free the time before.
        tightened_bar: lowest pressure while it was last tightened.
    """

    name: str
    free_bar: float | None
    tight_bar: float | None
    load_kN: float | None
    share_pct: float | None
    standing: str | None
    stands_out: bool
    last_bar: float | None
    tightened_bar: float | None


class StripSheet(View):
    """The release pressures of one step of a run.

    Attributes:
        pattern: uniform, scatter, systematic_low or systematic_high; None until every nut is noted.
    """

    run_id: UUID
    engine: str
    joint: str
    title: str
    at: datetime
    by: str
    expected_bar: float
    ceiling_bar: float | None
    try_bar: float
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


class EngineGates(View):
    """The gates of one engine."""

    engine: str
    pitches: int
    left_end: str
    right_end: str
    gates: tuple[GateSheet, ...]


def strip_sheets(workshop: Workshop) -> tuple[StripSheet, ...]:
    """Return the release pressures of all runs, the one last worked on first."""
    rows = workshop.registers.runs()
    states = {row.id: workshop.log.snapshot(row.id).state for row in rows}
    sheets = [sheet for k, row in enumerate(rows) for sheet in _sheets(row, rows[k + 1 :], states)]
    return tuple(sorted(sheets, key=lambda sheet: sheet.at, reverse=True))


def _sheets(row: RunRow, earlier: list[RunRow], states: dict[UUID, RunState]) -> list[StripSheet]:
    state = states[row.id]
    before = [states[r.id] for r in earlier if (r.engine_id, r.joint_key) == (row.engine_id, row.joint_key)]
    found = []
    for strip in _strips(state):
        found.append(
            StripSheet(
                run_id=row.id,
                engine=state.started.engine.name,
                joint=state.started.joint_label,
                title=step_title(state, strip.step),
                at=state.last_at,
                by=state.watches[-1].by.name,
                expected_bar=strip.expected_bar,
                ceiling_bar=strip.ceiling_bar,
                try_bar=strip.try_bar,
                pattern=strip.analysis.pattern.value if strip.analysis and None not in strip.pressures else None,
                nuts=tuple(_nut(strip, k, before) for k in range(len(strip.names))),
            )
        )
    return found


def _strips(state: RunState) -> tuple[Strip, ...]:
    loosened = any(isinstance(step, LoosenPressureStep) for step in state.definition.procedure.steps)
    if not loosened:
        return ()
    return strips(state, {key: ceiling_for(state, cells[0]) for key, cells in state.definition.steps})


def _nut(strip: Strip, k: int, before: list[RunState]) -> FreedNut:
    name, free, analysis = strip.names[k], strip.pressures[k], strip.analysis
    standing = analysis.classes[k] if analysis else None
    return FreedNut(
        name=name,
        free_bar=free,
        tight_bar=None if free is None else max(0.0, free - strip.try_bar),
        load_kN=strip.loads_kN[k],
        share_pct=analysis.pct[k] if analysis else None,
        standing=standing.value if standing else None,
        stands_out=analysis is not None and k in analysis.outliers,
        last_bar=next((bar for state in before for bar in (_released(state, name),) if bar is not None), None),
        tightened_bar=next((bar for state in before for bar in (_tightened(state, name),) if bar is not None), None),
    )


def _released(state: RunState, name: str) -> float | None:
    for strip in _strips(state):
        if name in strip.names:
            return strip.pressures[strip.names.index(name)]
    return None


def _tightened(state: RunState, name: str) -> float | None:
    """Return the lowest pressure of the last stage that pulled a fastener in a run."""
    steps = {c.step for c in state.definition.cells if c.kind == "tension" and c.fastener == name}
    lowest = [c for c in state.definition.cells if c.step in steps and c.item == "lowest"]
    live = [state.live(c.key) for c in lowest]
    return next((a.judgement.corrected for a in reversed(live) if a is not None), None)


def gates_along(workshop: Workshop) -> tuple[EngineGates, ...]:
    """Return the newest gates of every joint, engine by engine, along the crankshaft."""
    rows = workshop.registers.runs()
    found: list[EngineGates] = []
    for engine in workshop.registers.engines():
        slots = {joint.key: joint.slot for joint in joints_of(engine)}
        sheets: dict[tuple[str, str], GateSheet] = {}
        for row in rows:
            if row.engine_id != engine.id:
                continue
            state = workshop.log.snapshot(row.id).state
            for sheet in _gates(row, state, slots.get(row.joint_key, 0.0)):
                sheets.setdefault((row.joint_key, sheet.title), sheet)
        if sheets:
            found.append(
                EngineGates(
                    engine=engine.name,
                    pitches=engine.cylinders_per_bank,
                    left_end=engine.landmarks.x_minus,
                    right_end=engine.landmarks.x_plus,
                    gates=tuple(sorted(sheets.values(), key=lambda g: (g.measure, g.slot))),
                )
            )
    return tuple(found)


def _gates(row: RunRow, state: RunState, slot: float) -> list[GateSheet]:
    sheets = []
    for key, cells in state.definition.steps:
        step = state.definition.steps_by_id[cells[0].step_id]
        if not isinstance(step, GateStep) or not any(state.tries(c.key) for c in cells):
            continue
        limits = [c for c in cells if c.ask is Ask.VALUE and (c.lower is not None or c.upper is not None)]
        read = [c for c in cells if c.ask in (Ask.VALUE, Ask.FEELER) and c.quantity is not Quantity.TEMPERATURE]
        sheets.append(
            GateSheet(
                run_id=row.id,
                joint=state.started.joint_label,
                slot=slot,
                title=step_title(state, key),
                measure=step.gate.measure,
                lower=limits[0].lower if limits else None,
                upper=limits[0].upper if limits else None,
                points=tuple(_point(state, c, c.text or c.item) for c in read),
                figures=tuple(_point(state, c, c.item_word) for c in cells if c.ask is Ask.SEEN),
                part=_part(state, step.id),
            )
        )
    return sheets


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
        if cell.item == "part" and getattr(step, "gate", None) == gate:
            live = state.live(cell.key)
            return getattr(live.answer, "choice", None) if live else None
    return None
