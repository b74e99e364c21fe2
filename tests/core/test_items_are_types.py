"""What a call asks for is an item of the program, whatever names an author gives to points of a document."""

from __future__ import annotations

import ast
import re

import pytest

from jorvek.core.measuring.deflection import READ_AT
from jorvek.core.procedure.cell_items import WEBS, CellItem
from jorvek.core.procedure.kind import Kind
from jorvek.core.procedure.kinds import KINDS
from jorvek.core.procedure.steps import StepKind
from jorvek.core.run.log.cells import Cell, InputType, cells_hash
from jorvek.settings import ROOT

CORE = ROOT / "src" / "jorvek"


def made(item: str, what: CellItem | None, kind: StepKind = "make_safe") -> Cell:
    return Cell(key=f"one/{item}", step="one", kind=kind, item=item, ask=InputType.TICK, what=what)


@pytest.mark.parametrize("item", list(CellItem))
def test_a_point_that_an_author_calls_like_an_item_is_none(item: CellItem) -> None:
    named, own = made(item.value, None, "tension"), made(item.value, item, "tension")
    assert own.what is item
    assert not named.first_loads
    assert named.what not in KINDS["tension"].never_accepted
    # The name alone is the same: it is only what people see.
    assert named.item == own.item


def test_what_the_call_is_about_never_changes_the_fingerprint_of_a_run() -> None:
    assert cells_hash((made("hold", None),)) == cells_hash((made("hold", CellItem.HOLD),))


def test_several_of_an_item_are_one_item_and_keep_apart() -> None:
    third = CellItem.POINT.at(3)
    assert (third.item, str(third)) == (CellItem.POINT, "point:3")
    assert (made("point:3", CellItem.POINT).which, made("point", CellItem.POINT).which) == ("3", "")


def test_the_places_of_the_dial_are_those_of_the_sum() -> None:
    assert [item.value for item in WEBS] == [f"web_{place}" for place in READ_AT]


def test_every_kind_says_what_must_be_there_by_item() -> None:
    for kind, row in KINDS.items():
        assert isinstance(row, Kind)
        named = {*row.proves, *row.changes, *row.never_accepted, *row.read_again, *row.pumped_on}
        assert named <= {*CellItem, None}, kind


_BY_NAME = re.compile(r"\.item(_word)? (==|!=|in|not in) [\"'(\[{]")


def test_no_rule_compares_an_item_with_a_word() -> None:
    found = [str(f.relative_to(ROOT)) for f in sorted(CORE.rglob("*.py")) if _BY_NAME.search(f.read_text())]
    assert found == []


def test_no_file_spells_an_item_out_where_a_call_is_made() -> None:
    for file in sorted((CORE / "core" / "run" / "log" / "expansion").glob("*.py")):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("cell", "said"):
                assert not isinstance(node.args[1], ast.Constant | ast.JoinedStr), (file.name, node.lineno)
