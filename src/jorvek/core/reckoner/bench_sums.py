"""Questions with one line of arithmetic that still go wrong on paper: units, a squeezed strip."""

from __future__ import annotations

import math

from jorvek.core.measuring.bearing import strip_clearance
from jorvek.core.reckoner.parts import Group, Inputs, Question, Reckoning, Step, Told, choice, field
from jorvek.core.reckoner.stud import number
from jorvek.core.units import GLOSSARY_UNIT, UNIT_NAMES, Quantity, convert

_KINDS = {
    "torque": (Quantity.TORQUE, "lbf.ft", "180"),
    "pressure": (Quantity.PRESSURE, "psi", "14500"),
    "length": (Quantity.LENGTH, "thou", "12"),
    "force": (Quantity.FORCE, "kN", "860"),
    "angle": (Quantity.ANGLE, "deg", "75"),
    "temperature": (Quantity.TEMPERATURE, "degF", "68"),
}


def units(x: Inputs) -> Reckoning:
    """Return one reading in every unit that measures the same."""
    kind = str(x["kind"])
    quantity = _KINDS[kind][0]
    value = number(x, f"value_{kind}")
    base = GLOSSARY_UNIT[quantity]
    each = {unit: convert(value, quantity, base, unit) for unit in UNIT_NAMES[quantity]}
    return Reckoning(
        told=tuple(Told(f"unit:{unit}", shown, None) for unit, shown in each.items()),
        notes=("exact_factors",),
        why=(),
        picture={unit: shown for unit, shown in each.items() if math.isfinite(shown)},
    )


def strip(x: Inputs) -> Reckoning:
    """Return the clearance that a squeezed strip shows."""
    width, doubt = number(x, "width_mm"), number(x, "U_width_mm")
    if x["scale"] == "printed":
        marks = [(number(x, f"mark_width_{k}"), number(x, f"mark_clearance_{k}")) for k in (1, 2)]
        clearance = strip_clearance(width, table=marks)
        (w0, c0), (w1, c1) = marks
        slope = (c1 - c0) / (w1 - w0)
        step = Step(
            "strip_scale",
            r"c = c_1 + (c_2 - c_1) \cdot \frac{w - w_1}{w_2 - w_1}",
            {"c_1": c0, "c_2": c1, "w_1": w0, "w_2": w1, "w": width},
            clearance,
            "mm",
        )
    else:
        d0 = number(x, "strip_dia_mm")
        clearance = strip_clearance(width, strip_dia_mm=d0)
        slope = -clearance / width
        step = Step("strip_volume", r"c = \frac{\pi \cdot d_0^2}{4 \cdot w}", {"d_0": d0, "w": width}, clearance, "mm")
    return Reckoning(
        told=(Told("clearance_mm", clearance, Quantity.LENGTH, spread=abs(slope) * doubt),),
        notes=("strip_printed",) if x["scale"] == "printed" else ("strip_volume",),
        why=(step,),
        picture={"width": width, "clearance": clearance},
    )


UNITS = Question(
    "units",
    (
        choice("kind", tuple(_KINDS)),
        *(
            field(f"value_{kind}", quantity, unit, default, shown_if=("kind", kind))
            for kind, (quantity, unit, default) in _KINDS.items()
        ),
    ),
    units,
)
_PRINTED, _VOLUME = ("scale", "printed"), ("scale", "volume")
STRIP = Question(
    "strip",
    (
        field("width_mm", Quantity.LENGTH, "mm", "1.9"),
        choice("scale", ("printed", "volume")),
        field("mark_width_1", Quantity.LENGTH, "mm", "1.6", shown_if=_PRINTED),
        field("mark_clearance_1", Quantity.LENGTH, "mm", "0.112", shown_if=_PRINTED),
        field("mark_width_2", Quantity.LENGTH, "mm", "2.4", shown_if=_PRINTED),
        field("mark_clearance_2", Quantity.LENGTH, "mm", "0.076", shown_if=_PRINTED),
        field("strip_dia_mm", Quantity.LENGTH, "mm", "0.5", shown_if=_VOLUME),
        field("U_width_mm", Quantity.LENGTH, "mm", "0.1", Group.DOUBT),
    ),
    strip,
)
