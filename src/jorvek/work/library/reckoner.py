"""The Reckoner: answers with their why, and the studs of approved procedures to fill its fields from."""

from __future__ import annotations

from pydantic import BaseModel

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.fasteners import FastenerGroup, TensionerSpec
from jorvek.core.procedure.measure import Measure
from jorvek.core.reckoner.parts import Shown, show
from jorvek.core.reckoner.questions import reckon
from jorvek.core.units import Quantity
from jorvek.reports.formula import mathml
from jorvek.store.registers import RevisionHead
from jorvek.work.workshop import Workshop


class Written(BaseModel):
    """A number as a document writes it, and its unit."""

    text: str
    unit: str


class Preset(BaseModel):
    """A stud to fill fields from.

    Attributes:
        id: content address of the procedure, and the fastener group.
        title: what it is.
        typed: text and unit for each field.
    """

    id: str
    title: str
    typed: dict[str, Written]


def _written(measure: Measure) -> Written:
    """Return a measure as the document writes it."""
    number, _, unit = measure.text.partition(" ")
    return Written(text=number, unit=unit)


def _typed(f: FastenerGroup, t: TensionerSpec) -> dict[str, Written] | None:
    """Return the fields of a stud of thread, one shank and thread; None for another shape."""
    c = f.clamped
    shape = [isinstance(s.diameter, Measure) for s in f.sections]
    whole = t.area_per == "element" or t.elements == 1
    if shape != [False, True, False] or len(c.layers) != 1 or not whole:
        return None
    low, shank, high = f.sections
    assert isinstance(shank.diameter, Measure)
    assert f.nut_height is not None
    assert f.free_above_nut is not None
    measures = {
        "d_mm": f.thread.diameter,
        "P_mm": f.thread.pitch,
        "thread_low_mm": low.length,
        "d_shank_mm": shank.diameter,
        "shank_length_mm": shank.length,
        "thread_high_mm": high.length,
        "nut_height_mm": f.nut_height,
        "free_above_mm": f.free_above_nut,
        "Rp02_MPa": f.yield_strength,
        "face_mm": c.bearing,
        "hole_mm": c.hole,
        "outer_mm": c.outer,
        "E_clamped_MPa": c.layers[0].modulus,
        "f_Z_mm": c.embedding,
        "A_mm2": t.area,
        "eta": t.efficiency,
        "stroke_max_mm": t.stroke,
        "takeup_mm": t.take_up,
        "p_max_bar": t.rating,
        "F_rundown_N": t.rundown_load,
    }
    return {**{name: _written(m) for name, m in measures.items()}, "n_stack": Written(text=str(t.elements), unit="")}


def presets(workshop: Workshop) -> list[Preset]:
    """Return the studs of approved procedures whose shape the fields can hold."""
    found: list[Preset] = []
    for head in workshop.registers.revisions():
        row = workshop.registers.revision(head.hash) if head.status == "approved" else None
        found += _of_procedure(head, row.procedure) if row is not None else []
    # The same stud stands in the procedure that undoes it, too.
    return list({preset.title: preset for preset in found}.values())


def _of_procedure(head: RevisionHead, procedure: Procedure) -> list[Preset]:
    groups = {g.id: g for g in procedure.fasteners}
    found = []
    for tool in procedure.tensioners:
        f = groups[tool.group]
        typed = _typed(f, tool)
        if typed is not None:
            title = f"{head.engine_type} · {f.title} M{f.thread.diameter.value:g}×{f.thread.pitch.value:g}"
            found.append(Preset(id=f"{head.hash}/{f.id}", title=title, typed=typed))
    return found


class WhyLine(BaseModel):
    """A formula and the same with its numbers, as MathML."""

    name: str
    formula: str
    numbers: str


class Reckoned(BaseModel):
    """An answer; reckoned, and never a target of a run."""

    told: list[Shown]
    notes: list[str]
    why: list[WhyLine]
    picture: dict[str, float]


def answer(question: str, typed: dict[str, tuple[str, str]], units: dict[Quantity, str]) -> Reckoned:
    """Answer a question.

    Args:
        question: its name.
        typed: text and unit of each field.
        units: units wanted for the answer.

    Raises:
        Refusal: those of the sums.
    """
    found = reckon(question, typed)
    return Reckoned(
        told=[show(told, units) for told in found.told],
        notes=list(found.notes),
        why=[
            WhyLine(name=s.name, formula=mathml(s.formula, block=True), numbers=mathml(s.with_numbers(), block=True))
            for s in found.why
        ],
        picture=found.picture,
    )
