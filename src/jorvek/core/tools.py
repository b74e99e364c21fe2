"""Tools of the register, and whether one will do."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from jorvek.core.calibration import Points, class_uncertainty
from jorvek.core.engine.layout import ShortText, Slug
from jorvek.core.procedure.steps import WantedTool
from jorvek.core.refusal import Refusal
from jorvek.core.units import Quantity

Finite = Annotated[float, Field(allow_inf_nan=False)]


class Tool(BaseModel):
    """One tool, or one set drawn together.

    Attributes:
        id: number on the tool.
        name: what it is called.
        tool_class: class that procedures ask for.
        quantity: what it measures or limits, in the glossary unit of that quantity.
        pieces: pieces in the set.
        full_scale: end of the scale or rating.
        resolution: graduation.
        class_pct: accuracy class in % of full scale, for pressure gauges.
        accuracy_pct: error bound in % of reading, for torque wrenches.
        uncertainty: expanded uncertainty (k = 2) from the certificate, for the others.
        certificate: number of the calibration certificate.
        calibration_due: last day on which the calibration holds.
        calibration_points: (shown, true) pairs from the certificate.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Annotated[str, Field(pattern=r"^[A-Z0-9][A-Z0-9-]{0,19}$")]
    name: ShortText
    tool_class: Slug
    quantity: Quantity
    pieces: int = Field(default=1, ge=1, le=64)
    full_scale: Finite = Field(gt=0)
    resolution: Finite | None = Field(default=None, gt=0)
    class_pct: Finite | None = Field(default=None, ge=0, le=10)
    accuracy_pct: Finite | None = Field(default=None, ge=0, le=50)
    uncertainty: Finite | None = Field(default=None, ge=0)
    certificate: ShortText
    calibration_due: date
    calibration_points: Points = []

    def expanded_uncertainty(self) -> float:
        """Return U (k = 2) of a reading, in the glossary unit; 0 when none is stated."""
        if self.class_pct is not None:
            return class_uncertainty(self.full_scale, self.class_pct)
        return self.uncertainty or 0.0

    def out_of_date(self, today: date) -> bool:
        """Tell whether the calibration has run out."""
        return today > self.calibration_due


def check_tool(tool: Tool, wanted: WantedTool) -> None:
    """Refuse a tool that cannot do what the step asks, whatever its calibration.

    Raises:
        Refusal: ``tool_class``, ``tool_range``, ``tool_scale``, ``tool_resolution``, ``tool_accuracy``
            or ``tool_pieces``.
    """
    if tool.tool_class != wanted.tool_class:
        raise Refusal("tool_class", tool=tool.id, got=tool.tool_class, wanted=wanted.tool_class)
    reach, grain = wanted.range_at_least, wanted.resolution_at_most
    if reach is not None and tool.full_scale < reach.value:
        raise Refusal("tool_range", tool=tool.id, got=tool.full_scale, wanted=reach.text)
    top = wanted.range_at_most
    if top is not None and tool.full_scale > top.value:
        raise Refusal("tool_scale", tool=tool.id, got=tool.full_scale, wanted=top.text)
    bound = tool.class_pct if tool.class_pct is not None else tool.accuracy_pct
    if wanted.accuracy is not None and (bound is None or bound > wanted.accuracy.value):
        raise Refusal("tool_accuracy", tool=tool.id, got=bound, wanted=wanted.accuracy.text)
    if grain is not None and (tool.resolution is None or tool.resolution > grain.value):
        raise Refusal("tool_resolution", tool=tool.id, got=tool.resolution, wanted=grain.text)
    if tool.pieces < wanted.count:
        raise Refusal("tool_pieces", tool=tool.id, got=tool.pieces, wanted=wanted.count)
