"""The whole procedure document and its content address."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.engine.layout import JointKind, Slug
from jorvek.core.procedure.measure import Area, Force, Length, Pressure, Ratio, Stress
from jorvek.core.procedure.steps import (
    HoldPointStep,
    Part,
    Source,
    Step,
    StretchStep,
    TensionStep,
    Text,
    ToolIssueStep,
)


class ThreadSpec(Part):
    """Diameter and pitch; the pitch is part of the thread's identity."""

    diameter: Length
    pitch: Length


class SectionSpec(Part):
    """One length of the stud below the nut: a shank diameter, or free loaded thread."""

    length: Length
    diameter: Length | Literal["thread"]


class Position(Part):
    """One fastener's place in the plan.

    Attributes:
        name: the name on the metal, not a sequence number.
        x: place along the crankshaft, towards the ``x_plus`` landmark.
        y: place across it, towards ``y_plus``.
    """

    name: Annotated[str, Field(pattern=r"^[A-Za-z0-9]{1,4}$")]
    x: Length
    y: Length


class Lubricant(Part):
    """Which product, on which faces, and which faces stay dry."""

    product: Text
    faces: tuple[Text, ...]
    dry: tuple[Text, ...] = ()


class FastenerGroup(Part):
    """Fasteners that are alike.

    Attributes:
        sections: the stud between anchorage and nut bearing plane, in order.
        yield_strength: R_p0.2 with its proof in ``yield_source``.
        free_length: length when new, for plausibility and growth.
        free_above_nut: thread between nut and puller.
    """

    id: Slug
    title: Text
    thread: ThreadSpec
    form: Literal["round_nut"]
    across: Length
    yield_strength: Stress
    yield_source: Text
    modulus: Stress
    bottom_end: Literal["tapped"]
    sections: tuple[SectionSpec, ...] = Field(min_length=1)
    nut_height: Length
    free_above_nut: Length
    free_length: Length
    lubricant: Lubricant
    positions: tuple[Position, ...] = Field(min_length=1)


class ClampedLayer(Part):
    """One clamped part; its modulus is always stated."""

    title: Text
    thickness: Length
    modulus: Stress


class Clamped(Part):
    """The clamped parts under one fastener."""

    layers: tuple[ClampedLayer, ...] = Field(min_length=1)
    bearing: Length
    hole: Length
    outer: Length
    embedding: Length


class TensionerSpec(Part):
    """The tensioner that the pressures are reckoned for.

    Attributes:
        role: role name used by the steps.
        area: effective area of one element.
        elements: stacked elements on one stud.
        efficiency: share of the oil's force that reaches the stud.
        rundown_load: load in the stud from running the nut down with the stated effort.
    """

    role: Slug
    area: Area
    elements: int = Field(ge=1, le=10)
    efficiency: Ratio
    stroke: Length
    take_up: Length
    rating: Pressure
    rundown_load: Force


class Hose(Part):
    """One hose from the distributor: the tool it feeds and the tools linked behind it."""

    name: Text
    feeds: str
    linked: tuple[str, ...] = ()


class Circle(Part):
    """A round outline in the plan."""

    shape: Literal["circle"]
    x: Length
    y: Length
    diameter: Length
    label: Text | None = None


class Box(Part):
    """A rectangular outline in the plan."""

    shape: Literal["box"]
    x: Length
    y: Length
    width: Length
    height: Length


class AppliesTo(Part):
    """What the procedure is for."""

    engine_type: Text
    joint: JointKind
    purpose: Literal["tighten"]


class Procedure(Part):
    """One revision of a procedure."""

    format: Literal["jorvek-procedure/1"]
    id: Slug
    title: Text
    revision: Annotated[str, Field(pattern=r"^[A-Z0-9]{1,6}$")]
    author: Text
    source: Source
    applies_to: AppliesTo
    fasteners: FastenerGroup
    clamped: Clamped
    tensioner: TensionerSpec
    hoses: tuple[Hose, ...] = ()
    outline: tuple[Annotated[Circle | Box, Field(discriminator="shape")], ...] = ()
    orders: dict[Slug, tuple[str, ...]]
    steps: tuple[Step, ...] = Field(min_length=1, max_length=500)

    @field_validator("orders")
    @classmethod
    def _orders_name_each_fastener_once(
        cls, orders: dict[str, tuple[str, ...]], info: ValidationInfo
    ) -> dict[str, tuple[str, ...]]:
        if "fasteners" not in info.data:
            return orders
        names = sorted(p.name for p in info.data["fasteners"].positions)
        for key, order in orders.items():
            if sorted(order) != names:
                _wrong("order_incomplete", "order '{order}' must name each fastener exactly once", order=key)
        return orders

    @model_validator(mode="after")
    def _names_hang_together(self) -> Procedure:
        _once("position", (p.name for p in self.fasteners.positions))
        _once("step", (s.id for s in self.steps))
        self._check_references()
        self._check_hoses()
        return self

    def _check_references(self) -> None:
        roles: set[str] = set()
        earlier: set[str] = set()
        for step in self.steps:
            if isinstance(step, ToolIssueStep):
                _once("tool role", [*roles, *(t.role for t in step.tools)])
                roles |= {t.role for t in step.tools}
            for field in ("gauge", "instrument", "thermometer", "tools"):
                role = getattr(step, field, None)
                if isinstance(role, str):
                    _known("tool role", role, roles, step.id)
            order = getattr(step, "order", None)
            if order is not None:
                _known("order", order, set(self.orders), step.id)
            if isinstance(step, StretchStep):
                _known("step", step.before, earlier, step.id)
            if isinstance(step, HoldPointStep):
                for covered in step.covers:
                    _known("step", covered, earlier, step.id)
            if isinstance(step, TensionStep):
                _known("tensioner", step.tools, {self.tensioner.role}, step.id)
            earlier.add(step.id)

    def _check_hoses(self) -> None:
        served = [tool for hose in self.hoses for tool in (hose.feeds, *hose.linked)]
        _once("tool on a hose", served)
        names = {p.name for p in self.fasteners.positions}
        for tool in served:
            _known("fastener", tool, names, "hoses")

    def canonical(self) -> str:
        """Return the canonical text of the revision, from which its address is made."""
        return canonical_text(json.loads(self.model_dump_json()))

    def content_hash(self) -> str:
        """Return the content address: 64 hex digits; status and approvals are not part of it."""
        return sha256_hex(self.format, self.canonical())


def _wrong(kind: str, message: str, **context: str) -> None:
    raise PydanticCustomError(f"procedure_{kind}", message, dict(context))


def _once(what: str, names: Iterable[str]) -> None:
    for name, times in Counter(names).items():
        if times > 1:
            _wrong("duplicate", "{what} '{name}' appears more than once", what=what, name=name)


def _known(what: str, name: str, known: set[str], where: str) -> None:
    if name not in known:
        _wrong(
            "unknown",
            "'{where}' refers to {what} '{name}', which is not defined before it; known: {known}",
            where=where,
            what=what,
            name=name,
            known=", ".join(sorted(known)) or "none",
        )
