"""What a drawn instrument must show: its own correction, and only marks that it has."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from jorvek.core.calibration import shown_for, true_value
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.friction import torque_Nm
from jorvek.core.run.rules.strip import scale_of, widths_for
from jorvek.core.units import Quantity

_ON_A_MARK: Final = 1e-9
_WIDTH_GRAIN_MM: Final = 0.01


@dataclass(frozen=True)
class Shown:
    """Aim and limits of a setting in the figures of the instrument that is read, in the glossary unit."""

    aim: float | None
    lower: float | None
    upper: float | None


def shown_on(state: RunState, cell: Cell) -> Shown | None:
    """Return aim and band of a setting as the drawn instrument shows them; of a clearance, the widths of the strip.

    Each is what the instrument shows for the true value, by its certificate, taken to a mark of the scale that lies
    inside the band. Where no mark does, the figures stand unrounded: such an instrument is too coarse, and the check
    of the procedure and the issue of the tool have said so.

    Args:
        state: the run as it stands.
        cell: a call.

    Returns:
        The figures; None where no instrument of the quantity is drawn or the call is no setting.
    """
    tool = state.tool(cell.tool_role)
    if cell.rule is Rule.STRIP:
        grain = tool.resolution if tool is not None and tool.resolution is not None else _WIDTH_GRAIN_MM
        return _to_marks(grain, Shown(None, *widths_for(scale_of(state, cell), cell.lower, cell.upper)))
    if tool is None or tool.quantity is not cell.quantity or cell.rule is not Rule.SETTING:
        return None
    stated = (cell.target, cell.lower, cell.upper)
    figures = (None if true is None else shown_of(state, cell, torque_Nm(state, cell, true)) for true in stated)
    return _to_marks(tool.resolution, Shown(*figures))


def only_rounded(state: RunState, cell: Cell) -> bool:
    """Tell whether a wrench shows a torque as the book states it, but for the marks of its scale.

    Then the book's figure stays as it is, and the mark is said beside it.
    """
    if cell.quantity is not Quantity.TORQUE or cell.target is None:
        return False
    return math.isclose(shown_of(state, cell, torque_Nm(state, cell, cell.target)), cell.target, rel_tol=1e-9)


def shown_of(state: RunState, cell: Cell, true: float) -> float:
    """Return what the drawn instrument shows for a true value of a call's quantity.

    Outside its certificate it is taken to show what is true. On an air gauge, what the air side shows for the oil.
    """
    tool, at_gauge = state.tool(cell.tool_role), true / oil_per_shown(state, cell)
    points = tool.calibration_points if tool is not None and tool.quantity is cell.quantity else []
    if not points or not points[0][1] <= at_gauge <= points[-1][1]:
        return at_gauge
    return shown_for(at_gauge, points)


def true_of(state: RunState, cell: Cell, shown: float) -> float:
    """Return the true value of what the drawn instrument shows; the inverse of ``shown_of``."""
    tool = state.tool(cell.tool_role)
    points = tool.calibration_points if tool is not None and tool.quantity is cell.quantity else []
    inside = bool(points) and points[0][0] <= shown <= points[-1][0]
    return (true_value(shown, points) if inside else shown) * oil_per_shown(state, cell)


def oil_per_shown(state: RunState, cell: Cell) -> float:
    """Return the oil's pressure over what the gauge in hand stands for: 1 on the oil side.

    Source: derived here. An air gauge that reads high by h shows (1 + h) times the oil's pressure on its own scale;
    one that shows the air itself stands at the oil's pressure over the ratio of the pump.
    """
    wanted = state.definition.wanted_tools.get(cell.tool_role or "")
    pump = state.definition.pump_of(cell)
    if wanted is None or wanted.side != "air" or pump is None:
        return 1.0
    ratio = 1.0 if pump.ratio is None else pump.ratio.value
    high = 0.0 if pump.air_gauge_reads_high is None else pump.air_gauge_reads_high.value / 100.0
    return ratio / (1.0 + high)


def _to_marks(grain: float | None, exact: Shown) -> Shown:
    if grain is None:
        return exact
    low = None if exact.lower is None else grain * math.ceil(exact.lower / grain - _ON_A_MARK)
    high = None if exact.upper is None else grain * math.floor(exact.upper / grain + _ON_A_MARK)
    if low is not None and high is not None and low > high:
        return exact
    aim = None if exact.aim is None else grain * round(exact.aim / grain)
    if aim is not None and low is not None:
        aim = max(aim, low)
    if aim is not None and high is not None:
        aim = min(aim, high)
    return Shown(aim, low, high)
