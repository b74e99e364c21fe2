"""What a drawn instrument must show: its own correction, and only marks that it has."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from jorvek.core.calibration import shown_for
from jorvek.core.run.log.cells import Cell, Rule
from jorvek.core.run.log.state import RunState
from jorvek.core.tools import Tool

_ON_A_MARK: Final = 1e-9


@dataclass(frozen=True)
class Shown:
    """Aim and limits of a setting in the figures of the instrument that is read, in the glossary unit."""

    aim: float | None
    lower: float | None
    upper: float | None


def shown_on(state: RunState, cell: Cell) -> Shown | None:
    """Return aim and band of a setting as the drawn instrument shows them.

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
    if tool is None or tool.quantity is not cell.quantity or cell.rule is not Rule.SETTING:
        return None
    aim, lower, upper = (_on_scale(tool, value) for value in (cell.target, cell.lower, cell.upper))
    return _to_marks(tool.resolution, Shown(aim, lower, upper))


def _on_scale(tool: Tool, true: float | None) -> float | None:
    points = tool.calibration_points
    if true is None or not points or not points[0][1] <= true <= points[-1][1]:
        return true
    return shown_for(true, points)


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
