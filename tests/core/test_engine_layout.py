"""The engines of the demo world have the joints that their layout says."""

from __future__ import annotations

import pytest

from jorvek.core.engine.layout import Engine, JointKind, joints_of
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.settings import ROOT


def engine(name: str, **changes: str) -> Engine:
    text = (ROOT / "world" / "engines" / f"{name}.yaml").read_text()
    for old, new in changes.items():
        assert old in text
        text = text.replace(old, new)
    return read_model(read_yaml(text.encode()), Engine)


def names(which: Engine, kind: JointKind) -> list[str]:
    return [j.name for j in joints_of(which) if j.kind is kind]


def test_an_in_line_seven_has_seven_heads_and_eight_mains_between_them() -> None:
    unit_2 = engine("unit-2")
    assert names(unit_2, JointKind.HEAD) == list("1234567")
    assert names(unit_2, JointKind.MAIN) == list("01234567")
    places = {j.key: j.slot for j in joints_of(unit_2)}
    assert places["main-3"] < places["head-4"] < places["main-4"]
    assert {j.label for j in joints_of(unit_2)} >= {"Head 4", "Main 0", "Rod 7", "Liner 1"}


def test_a_vee_ten_has_one_head_a_bank_and_rods_side_by_side() -> None:
    unit_5 = engine("unit-5")
    assert names(unit_5, JointKind.HEAD) == ["A", "B"]
    assert names(unit_5, JointKind.ROD) == ["A1", "A2", "A3", "A4", "A5", "B1", "B2", "B3", "B4", "B5"]
    places = {j.key: j.slot for j in joints_of(unit_5)}
    assert places["rod-a2"] == places["rod-b2"]
    assert names(unit_5, JointKind.MAIN) == list("123456")


def test_a_two_stroke_calls_its_heads_covers() -> None:
    labels = [j.label for j in joints_of(engine("grey-plover")) if j.kind is JointKind.HEAD]
    assert labels == ["Cover 1", "Cover 2", "Cover 3", "Cover 4", "Cover 5"]


def test_no_two_joints_share_an_address() -> None:
    for name in ("unit-2", "unit-5", "grey-plover"):
        keys = [j.key for j in joints_of(engine(name))]
        assert len(keys) == len(set(keys))


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ('"7", "5", "3"', '"7", "5", "5"', "each cylinder exactly once"),
        ("cylinders_per_bank: 7", "cylinders_per_bank: 0", "greater than or equal to 1"),
        ("rotation: clockwise", "rotation: left", "'clockwise' or 'anticlockwise'"),
        ("running_hours: 18412", "running_hours: -1", "greater than or equal to 0"),
        ("place: Skerrow", "colour: grey\nplace: Skerrow", "Extra inputs"),
    ],
)
def test_an_engine_that_cannot_be_is_refused(old: str, new: str, says: str) -> None:
    with pytest.raises(DocumentRefused) as refused:
        engine("unit-2", **{old: new})
    assert says in str(refused.value)
