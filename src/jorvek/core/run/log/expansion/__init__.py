"""A procedure unrolled into the single calls that a run consists of."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, Final

from jorvek.core.procedure import steps as s
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.loads import unrolled
from jorvek.core.procedure.options import Selection, selections
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.expansion import measured, prepared, tensioned, turned

MAKERS: Final[dict[type[s.StepBase], Callable[[Procedure, Any], Iterator[Cell]]]] = {
    s.ConfirmStep: prepared.confirm,
    s.MakeSafeStep: prepared.points,
    s.RestoreStep: prepared.points,
    s.AncillaryOffStep: prepared.points,
    s.AncillaryOnStep: prepared.points,
    s.TemporaryOnStep: prepared.points,
    s.TemporaryOffStep: prepared.points,
    s.DisturbStep: prepared.points,
    s.PutRightStep: prepared.put_right,
    s.OpenItemStep: prepared.points,
    s.CloseItemStep: prepared.points,
    s.FitStep: prepared.fit,
    s.SenseStep: prepared.sense,
    s.ToolIssueStep: prepared.tool_issue,
    s.TemperatureGateStep: prepared.temperature_gate,
    s.CrankPositionStep: prepared.crank_position,
    s.InchStep: prepared.inch,
    s.AttitudeStep: prepared.attitude,
    s.InspectStep: prepared.inspect,
    s.MatchedPartStep: prepared.matched,
    s.NewFastenersStep: prepared.new_fasteners,
    s.SortByLengthStep: prepared.sort_by_length,
    s.LubricateStep: prepared.lubricate,
    s.SealantStep: prepared.sealant,
    s.LiftStep: prepared.lift,
    s.LandStep: prepared.land,
    s.DrawHomeStep: prepared.draw_home,
    s.TrialFitStep: prepared.trial_fit,
    s.StaggerStep: prepared.stagger,
    s.TwoPersonStep: prepared.two_person,
    s.SupportStep: prepared.support,
    s.ParkStep: prepared.park,
    s.NoReturnStep: prepared.no_return,
    s.HoldPointStep: prepared.hold_point,
    s.WaitStep: prepared.wait,
    s.FollowUpStep: prepared.follow_up,
    s.StudLengthStep: tensioned.stud_length,
    s.StretchStep: tensioned.stretch,
    s.ThreadAboveStep: tensioned.thread_above,
    s.SeatToolStep: tensioned.seat,
    s.CeilingStep: tensioned.ceiling,
    s.VentStep: tensioned.vent,
    s.TensionStep: tensioned.tension,
    s.LoosenPressureStep: tensioned.loosen,
    s.RelieveStep: tensioned.relieve,
    s.RemoveToolStep: tensioned.remove,
    s.FeelerStep: tensioned.feeler,
    s.RunDownStep: turned.run_down,
    s.TorqueStep: turned.torque,
    s.CheckTripStep: turned.check_trip,
    s.SettlingPassStep: turned.settling_pass,
    s.AngleStep: turned.angle,
    s.FullReleaseStep: turned.full_release,
    s.LoosenAngleStep: turned.loosen_angle,
    s.BackOffStep: turned.back_off,
    s.NutsOffStep: turned.nuts_off,
    s.LockStep: turned.lock,
    s.GateStep: measured.gate,
    s.ChoosePartStep: measured.choose,
    s.DeflectionStep: measured.deflection,
    s.TurnsFreelyStep: measured.turns_freely,
}


def expand(procedure: Procedure, selection: Selection | None = None) -> tuple[Cell, ...]:
    """Unroll a procedure into cells, in working order.

    The same procedure and choices always give the same cells; their fingerprint is kept in the
    run's first event.

    Args:
        procedure: the document.
        selection: how its options are chosen; the first possible way when None.
    """
    chosen = selection if selection is not None else next(iter(selections(procedure)), {})
    cells: list[Cell] = []
    for _, step, cycle in unrolled(procedure, chosen):
        cells += (_in_cycle(made, cycle) for made in _step_cells(procedure, _worded_for(step, cycle)))
    return tuple(_with_moments(_with_signatures(procedure, cells)))


def _worded_for(step: s.Step, cycle: int) -> s.Step:
    """Return a step with the words of its cycle: the paint of the second one is another line."""
    return step.model_copy(update={"mark": step.mark_in(cycle)}) if isinstance(step, s.AngleStep) else step


def _step_cells(procedure: Procedure, step: s.Step) -> Iterator[Cell]:
    for cell in MAKERS[type(step)](procedure, step):
        yield replace(cell, cautions=step.cautions)


def _in_cycle(cell: Cell, cycle: int) -> Cell:
    """Return a cell of a repetition under its own key; what it rests on within the step goes with it."""
    if cycle == 1:
        return cell
    mark = f"{cell.step}#{cycle}"

    def moved(key: str) -> str:
        return f"{mark}{key[len(cell.step) :]}" if key.startswith(f"{cell.step}/") else key

    return replace(
        cell,
        key=moved(cell.key),
        step=mark,
        needs=tuple(moved(k) for k in cell.needs),
        uses=tuple(moved(k) for k in cell.uses),
    )


def _with_signatures(procedure: Procedure, cells: list[Cell]) -> Iterator[Cell]:
    """Let each signature rest on all cells of the steps it covers."""
    covers = {step.id: set(step.covers) for step in procedure.steps if isinstance(step, s.HoldPointStep)}
    for cell in cells:
        covered = covers.get(cell.step_id)
        yield replace(cell, uses=tuple(c.key for c in cells if c.step_id in covered)) if covered else cell


def _with_moments(cells: Iterator[Cell]) -> Iterator[Cell]:
    """Mark the cells whose moment passes: free lengths before the first load, pressures before the release."""
    made = list(cells)
    for k, cell in enumerate(made):
        match cell.traits.moment:
            case "before_load":
                yield replace(cell, gone_after=_first_load(made, k, cell.fastener))
            case "before_release":
                later = (c.key for c in made[k:] if c.traits.pressure == "relieves" and c.what is CellItem.ZERO)
                yield replace(cell, gone_after=next(later, None))
            case "any":
                yield cell


def _first_load(made: list[Cell], start: int, fastener: str | None) -> str | None:
    """Return the first cell after a place that loads a fastener."""
    later = made[start:]
    pulled = {c.step for c in later if c.traits.evidence == "pressure" and c.fastener == fastener}
    for cell in later:
        if not cell.first_loads:
            continue
        if cell.fastener == fastener or cell.step in pulled:
            return cell.key
    return None
