"""What a joint is like at one moment."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from jorvek.core.procedure.metal_parts import Where

Hold = Literal["tight", "slack", "out"]
"""What a fastener is like: loaded; in, and holding nothing; out."""
Face = Literal["as_it_was", "clean", "oiled", "sealed"]


@dataclass(frozen=True)
class PartState:
    """One part.

    Attributes:
        where: where it is.
        face: what its faces are like.
        measured: which measurements were taken since it last moved.
        moved: it has moved since the procedure began.
        squeezed: for a strip: the joint was tightened over it.
    """

    where: Where
    face: Face = "as_it_was"
    measured: frozenset[str] = frozenset()
    moved: bool = False
    squeezed: bool = False


@dataclass(frozen=True)
class JointState:
    """The joint.

    Attributes:
        parts: by their names in the document.
        holds: by fastener.
        seated: fasteners with a tool on.
        engaged: fasteners whose thread above the nut was measured since their tool was last off.
        hoses: whether oil can come to the tools.
        pressure: whether oil pressure stands in them.
        proved: roles of tools whose ceiling was proved on a shut line.
        isolated: nothing can start the engine; None where the procedure does not say.
        attitude: how the engine lies.
        signed: somebody has signed for the whole.
        cooled: the time after shutdown has passed.
    """

    parts: Mapping[str, PartState]
    holds: Mapping[str, Hold]
    seated: frozenset[str] = frozenset()
    engaged: frozenset[str] = frozenset()
    hoses: bool = False
    pressure: bool = False
    proved: frozenset[str] = frozenset()
    isolated: bool | None = None
    attitude: str = "upright"
    signed: bool = False
    cooled: bool = False

    def where(self, part: str) -> Where:
        """Return where a part is; a part that is not there under these options is away."""
        state = self.parts.get(part)
        return "away" if state is None else state.where

    def fitted(self, part: str) -> bool:
        """Tell whether a part is in its place."""
        return self.where(part) == "in_place"

    def perhaps(self, part: str) -> bool:
        """Tell whether a part may be in its place: it is, or nobody knows."""
        return self.where(part) in ("in_place", "unknown")

    def with_part(self, name: str, state: PartState) -> JointState:
        """Return the joint with one part changed."""
        return replace(self, parts={**self.parts, name: state})

    def with_holds(self, names: tuple[str, ...], hold: Hold) -> JointState:
        """Return the joint with some fasteners changed."""
        return replace(self, holds={**self.holds, **dict.fromkeys(names, hold)})
