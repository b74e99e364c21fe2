"""What there is to be said of a kind of step: the columns of the table of kinds.

A column by which something is permitted, or by which a reading escapes the engine's lock, has no default: a row that
does not say it does not type-check. The others default to the safe side.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final, Literal

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.metal_parts import Act
from jorvek.core.procedure.steps import StepKind


class Redo(Enum):
    """What is done again together with a cell of a step."""

    ALONE = "alone"
    FASTENER = "fastener"
    TURN = "turn"
    PULL = "pull"
    LOADED = "loaded"
    STEP = "step"


EVERY: Final = (*CellItem, None)
"""Every item of the step, points that an author names among them."""


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One row of the table.

    Attributes:
        leave_out: somebody with the authority may leave it out; what carries a part excepted.
        proves: items of it that prove that it is safe or sound: they are never left out.
        offline: a tablet without a link may record it.
        crank: whether the crank turns in it.
        load: whether it adds to or takes from what the fasteners hold.
        load_item: item that first puts a reckoned load on a fastener.
        pressure: whether oil pressure comes up or goes off in it.
        support: whether it gives a part its support, or needs one to be there.
        tool: whether a tool comes onto the studs or off them.
        closes: it covers faces that were prepared before it.
        paint: item after which a paint mark stands on the metal.
        wipes_paint: its marks are wiped and the cycle begins anew.
        in_order: its points are done one after the other, as they are listed.
        ages: how its outcome may be renewed when it has grown old: by a look, or only by doing it again.
        never_held_up: taking pressure and tools off is not held up by a question.
        never_accepted: items of which a verdict outside its limits has no acceptance by name.
        read_again: items that are simply set or read anew when they are outside their limits.
        pumped_on: items that are simply read again when they are still too low.
        moment: when a reading of it can no longer be taken.
        redo: what goes with it when it is done again.
        after_pull: it is done again when the pull before it is.
        evidence: which evidence of a fastener's load it gives.
        settled_by: kind that pays back what it leaves owed.
        names_pieces: its answers name single fasteners or parts.
        on_sisters: a cause found in it may be there on joints of the same kind, too.
        worded: the author's words say what is asked, not the catalogue.
        does: what it does to the parts it names, where the step itself does not say it.
        hands_off: it needs no isolation: nobody has hands, tools or parts in the engine for it.
        changes: items that change a fact on which other joints rely: such a reading is decided under
            the engine's lock.
    """

    leave_out: bool
    offline: bool
    crank: Literal["turns", "still"]
    load: Literal["adds", "takes", "none"]
    proves: tuple[CellItem, ...]
    never_accepted: tuple[CellItem, ...]
    changes: tuple[CellItem | None, ...]
    hands_off: bool
    never_held_up: bool
    load_item: CellItem | None = None
    pressure: Literal["raises", "relieves", "none"] = "none"
    support: Literal["gives", "gives_if_stated", "needs", "none"] = "none"
    tool: Literal["on", "off", "none"] = "none"
    closes: bool = False
    paint: CellItem | None = None
    wipes_paint: bool = False
    in_order: bool = False
    ages: Literal["never", "look", "again"] = "never"
    read_again: tuple[CellItem, ...] = ()
    pumped_on: tuple[CellItem, ...] = ()
    moment: Literal["any", "before_load", "before_release"] = "any"
    redo: Redo = Redo.ALONE
    after_pull: bool = False
    evidence: Literal["pressure", "stretch", "turning"] | None = None
    settled_by: StepKind | None = None
    names_pieces: bool = False
    on_same_kind: bool = False
    worded: bool = False
    does: Act | None = None

    def shared(self, item: CellItem | None) -> bool:
        """Tell whether a call for an item, or for an author's point, changes a fact on which others rely.

        That a check was made is such a fact: a cause found on one joint opens it again on joints of the same kind.
        """
        return self.on_same_kind or item in self.changes

    @property
    def uncovers_or_loads(self) -> bool:
        """Whether a temperature taken before it is relied on by it."""
        return self.load != "none"

    @property
    def covers(self) -> bool:
        """Whether what was clean, greased or sealed is shut in by it."""
        return self.closes or self.load == "adds"
