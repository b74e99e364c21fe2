"""The single calls that a run consists of."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, fields
from enum import StrEnum
from typing import Any, Final

from jorvek.core.canonical import canonical_text, sha256_hex
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.kind import Kind
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.steps import StepKind
from jorvek.core.units import Quantity


class InputType(StrEnum):
    """What a call asks the mechanic for."""

    TICK = "tick"
    VALUE = "value"
    FEELER = "feeler"
    TOOL = "tool"
    SEEN = "seen"
    SIGNATURE = "signature"
    CHOICE = "choice"
    WORDS = "words"
    COUNT = "count"
    PULL = "pull"
    TURN = "turn"


class Rule(StrEnum):
    """How an answer is judged."""

    NONE = "none"
    SETTING = "setting"
    GROWTH = "growth"
    STRETCH = "stretch"
    SPREAD = "spread"
    GUARDED = "guarded"
    FEELER = "feeler"
    MOVED = "moved"
    STAYED = "stayed"
    ANGLE = "angle"
    RELEASE = "release"
    EQUAL = "equal"
    FORM = "form"
    CHOSEN = "chosen"
    STRIP = "strip"
    REPEAT = "repeat"
    FRICTION = "friction"


@dataclass(frozen=True)
class Cell:
    """One thing to be recorded, with a key that never changes.

    Attributes:
        key: ``step/item`` or ``step/item/fastener``; the second time round ``step#2/…``.
        step: step id, with its cycle from the second on.
        kind: kind of the step.
        item: what within the step, as its key says it: an item of the program, numbered where there are several, or the
            name that an author gave a point.
        what: the item of the program; None for a point that an author names, whatever it is called.
        fastener: position name, None when it concerns all.
        ask: what is asked for.
        rule: how the answer is judged.
        quantity: of a value, None otherwise.
        unit: the author's unit, shown first.
        target: aim in the glossary unit.
        lower: lower limit in the glossary unit.
        upper: upper limit in the glossary unit.
        plausible: physical range outside which a reading is refused, glossary unit.
        tool_role: role of the instrument or tool.
        needs: cells that must be filled before this one, besides all earlier steps.
        uses: cells whose answers this one's judgement rests on.
        gone_after: once this cell is filled, this one's moment has passed.
        wait_s: time that must pass after the needed cell.
        deliberate: asks for a touch on its own words, never for the space bar.
        text: the author's words.
        cautions: the author's warnings for this step.
        choices: answers to choose from.
        worded: the author's words say what it is, not the catalogue.
    """

    key: str
    step: str
    kind: StepKind
    item: str
    ask: InputType
    what: CellItem | None = None
    rule: Rule = Rule.NONE
    fastener: str | None = None
    quantity: Quantity | None = None
    unit: str | None = None
    target: float | None = None
    lower: float | None = None
    upper: float | None = None
    plausible: tuple[float, float] | None = None
    tool_role: str | None = None
    needs: tuple[str, ...] = ()
    uses: tuple[str, ...] = ()
    gone_after: str | None = None
    wait_s: float = 0.0
    deliberate: bool = False
    text: str | None = None
    cautions: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    worded: bool = False

    @property
    def step_id(self) -> str:
        """The step's id in the document."""
        return self.step.partition("#")[0]

    @property
    def traits(self) -> Kind:
        """What its kind of step means."""
        return KINDS[self.kind]

    @property
    def in_author_words(self) -> bool:
        """Whether the author's words say what is asked for, not the catalogue."""
        return self.worded or self.traits.worded

    @property
    def changes_shared_facts(self) -> bool:
        """Whether filling it changes a fact on which other joints rely."""
        return self.traits.shared(self.what)

    @property
    def first_loads(self) -> bool:
        """Whether it is the call that first puts a reckoned load on its fastener."""
        return self.what is not None and self.what is self.traits.load_item

    @property
    def cycle(self) -> int:
        """1 for the first time round."""
        return int(self.step.partition("#")[2] or 1)

    @property
    def which(self) -> str:
        """Which of several of an item: the number of a round or point, or a group; empty for the only one."""
        return self.item.partition(":")[2]

    @property
    def item_word(self) -> str:
        """Name of the item in the catalogue: without the number of a round or a point."""
        return self.item.partition(":")[0]


_LATER: Final = {"choices": (), "worded": False}
"""Fields that came later; they count for the fingerprint only where they say something."""


def _stated(cell: Cell) -> dict[str, Any]:
    data = asdict(cell)
    quiet = {"what", *(name for name, default in _LATER.items() if getattr(cell, name) == default)}
    return {f.name: data[f.name] for f in fields(cell) if f.name not in quiet}


def seats_tool(cell: Cell) -> bool:
    """Tell whether a tool sits on a stud once the cell is filled."""
    return cell.traits.tool == "on" and cell.what is CellItem.SEAT


def cells_hash(cells: tuple[Cell, ...]) -> str:
    """Return the fingerprint of an expansion."""
    return sha256_hex(canonical_text(json.loads(json.dumps([_stated(c) for c in cells]))))
