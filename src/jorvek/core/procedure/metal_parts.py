"""Parts of the joint and what is brought to it, as a document names them; what each kind of part is, in one table."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal, TypeAlias, TypedDict

from pydantic import Field

from jorvek.core.engine.layout import JointKind, Slug
from jorvek.core.procedure.parts import Part, Text

PartKind: TypeAlias = Literal[
    "beam",
    "cap",
    "cap_jack",
    "carrier",
    "clamp",
    "cover_plate",
    "crankcase_door",
    "frame",
    "gasket",
    "guide_stud",
    "head",
    "hook",
    "journal",
    "liner",
    "pin",
    "piston",
    "plug",
    "protector",
    "puller",
    "rod",
    "sealing_ring",
    "shell",
    "strip",
    "tackle",
]
"""What a part is; the proof works by this and not by what it is called."""


@dataclass(frozen=True, kw_only=True)
class PartTraits:
    """One row of the table of parts.

    Attributes:
        brought: it is brought for the work and has to leave again; else it belongs to the engine.
        in_sweep: while it is fitted it stands in the way of the crank, or holds what the crank moves.
        carries: it can carry a part.
        shuts: while it is fitted nothing comes to the faces it lies on.
        stays: it is brought and stays in the joint (a gasket, a ring).
        measured: what must be measured again after it moved and before the procedure ends.
        opens_crankcase: while it is not in its place the crankcase is open there.
    """

    brought: bool = False
    in_sweep: bool = False
    carries: bool = False
    shuts: bool = False
    stays: bool = False
    measured: tuple[str, ...] = ()
    opens_crankcase: bool = False


class PartTable(TypedDict):
    """A row for every kind of part; a kind that is added above and not here does not type-check."""

    beam: PartTraits
    cap: PartTraits
    cap_jack: PartTraits
    carrier: PartTraits
    clamp: PartTraits
    cover_plate: PartTraits
    crankcase_door: PartTraits
    frame: PartTraits
    gasket: PartTraits
    guide_stud: PartTraits
    head: PartTraits
    hook: PartTraits
    journal: PartTraits
    liner: PartTraits
    pin: PartTraits
    piston: PartTraits
    plug: PartTraits
    protector: PartTraits
    puller: PartTraits
    rod: PartTraits
    sealing_ring: PartTraits
    shell: PartTraits
    strip: PartTraits
    tackle: PartTraits


PART_KINDS: Final[PartTable] = {
    "beam": PartTraits(brought=True, in_sweep=True, carries=True),
    "cap": PartTraits(),
    "cap_jack": PartTraits(brought=True, in_sweep=True, carries=True),
    "carrier": PartTraits(brought=True, in_sweep=True, carries=True),
    "clamp": PartTraits(brought=True),
    "cover_plate": PartTraits(brought=True, shuts=True),
    "crankcase_door": PartTraits(opens_crankcase=True),
    "frame": PartTraits(),
    "gasket": PartTraits(brought=True, stays=True),
    "guide_stud": PartTraits(brought=True),
    "head": PartTraits(),
    "hook": PartTraits(brought=True, in_sweep=True, carries=True),
    "journal": PartTraits(),
    "liner": PartTraits(measured=("stand_out",), opens_crankcase=True),
    "pin": PartTraits(),
    "piston": PartTraits(opens_crankcase=True),
    "plug": PartTraits(brought=True, shuts=True),
    "protector": PartTraits(brought=True, shuts=True),
    "puller": PartTraits(brought=True, in_sweep=True, carries=True),
    "rod": PartTraits(),
    "sealing_ring": PartTraits(brought=True, stays=True),
    "shell": PartTraits(),
    "strip": PartTraits(brought=True),
    "tackle": PartTraits(brought=True, in_sweep=True, carries=True),
}

Where: TypeAlias = Literal["in_place", "with", "hung", "aside", "away", "unknown"]
"""Where a part is: in its place; fitted to the part it goes with while that one is off; hung or carried; lying aside;
not there (yet, or any more); not known."""

Act: TypeAlias = Literal["put_in", "take_off", "hang", "lay", "oil", "seal", "clean", "measure", "look", "unknown"]
"""What a step does to the parts it names: brings them to their place, or fits what was brought; takes them off, or
away; hangs them; lays aside what is out already; oils, seals or cleans their faces; measures them; looks at them; or
what only its words say."""

Condition: TypeAlias = Literal["closed_up", "tight", "loose", "open", "landed"]
"""What a joint is like: tight with all that belongs to it back; tight; let go in its place; open (head or cover off,
cap off, liner drawn); put back and not yet tight (head landed, liner home)."""

LADDERS: Final[dict[JointKind, tuple[Condition, ...]]] = {
    JointKind.HEAD: ("closed_up", "tight", "loose", "open", "landed"),
    JointKind.LINER: ("landed", "open"),
    JointKind.ROD: ("closed_up", "tight", "loose", "open"),
    JointKind.CROSSHEAD: ("closed_up", "tight", "loose", "open"),
    JointKind.CRANKPIN: ("closed_up", "tight", "loose", "open"),
    JointKind.MAIN: ("closed_up", "tight", "loose", "open"),
    JointKind.COUNTERWEIGHT: ("closed_up", "tight", "loose", "open"),
    JointKind.THRUST: ("closed_up", "tight", "loose", "open"),
    JointKind.TIE_ROD: ("closed_up", "tight", "loose"),
    JointKind.COUPLING: ("closed_up", "tight", "loose", "open"),
    JointKind.HOLDING_DOWN: ("closed_up", "tight", "loose"),
    JointKind.CAM_BEARING: ("closed_up", "tight", "loose", "open"),
    JointKind.IDLER: ("closed_up", "tight", "loose", "open"),
    JointKind.GIRDLE: ("closed_up", "tight", "loose", "open", "landed"),
}
"""Which conditions a joint of a kind knows."""


class MetalPart(Part):
    """A part that steps name under ``touches``.

    Attributes:
        id: name within the document.
        title: what it is called, where its kind and ``which`` do not say enough.
        kind: what it is.
        which: which of several alike: upper, lower, forward.
        held_by: fastener groups that hold it in its place.
        lies_on: parts whose faces it lies on, and shuts in while it is there.
        goes_with: part that it leaves with and comes with: a shell with its cap, a piston with its rod.
        carries: for what is brought: the part it can carry.
        count: how many there are of it.
        matched: it goes back on its own other half alone.
        starts: where it is when the procedure begins; parts of the engine are in their place, what is brought is away.
        only: option choices under which it is so.
    """

    id: Slug
    title: Text | None = None
    kind: PartKind
    which: Slug | None = None
    held_by: tuple[Slug, ...] = ()
    lies_on: tuple[Slug, ...] = ()
    goes_with: Slug | None = None
    carries: Slug | None = None
    count: int = Field(default=1, ge=1, le=64)
    matched: bool = False
    starts: Where | None = None
    only: dict[Slug, tuple[Slug, ...]] = Field(default={})

    @property
    def traits(self) -> PartTraits:
        """What its kind means."""
        return PART_KINDS[self.kind]

    @property
    def called(self) -> str:
        """What it is called: its title, or its kind, with which of several before a colon, for the catalogue."""
        return self.title or (self.kind if self.which is None else f"{self.which}:{self.kind}")

    @property
    def begins(self) -> Where:
        """Where it is when the procedure begins."""
        return self.starts or ("away" if self.traits.brought else "in_place")


class Precedence(Part):
    """An order that only the author can know: the step it stands in comes before another.

    Attributes:
        step: the later one.
        reason: why, in the trade's words.
    """

    step: Slug
    reason: Text
