"""The model of the parts: what it finds is found by what parts are, in every document, however they are called."""

from __future__ import annotations

import copy
import json
import re
from typing import Any

import pytest
from pydantic import ValidationError

from jorvek.core.metal.chain import follows, gaps
from jorvek.core.metal.ends import condition
from jorvek.core.metal.planned_moves import PlannedMoves
from jorvek.core.metal.proof import beginning, ending, simulated, stuck
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure.options import selections
from jorvek.core.procedure_check import Severity, check
from jorvek.documents.yaml_reader import DocumentRefused, read_model, read_yaml
from jorvek.messages import say
from jorvek.work.library.checking import checked_lines
from tests.core.drafts import Change, Data, also, change, move
from tests.core.metal_drafts import METAL, unnamed
from tests.core.test_procedure_check import GOOD, PATHS, PLAIN

HEAD, MAIN, ROD = "tarnholt-7l34-head-loosen", "tarnholt-7l34-main-tighten", "tarnholt-7l34-rod-loosen"


def called_otherwise(data: Data) -> Data:
    """Return a document in which every part and every step has another name and another title."""
    names = {p["id"]: f"p{k}" for k, p in enumerate(data.get("parts", []))}
    steps = {s["id"]: f"s{k}" for k, s in enumerate(data["steps"])}

    def swapped(value: Any, field: str | None) -> Any:
        if isinstance(value, list):
            return [swapped(v, field) for v in value]
        if isinstance(value, dict):
            return {k: swapped(v, k) for k, v in value.items()}
        table = {**dict.fromkeys(_PARTS, names), **dict.fromkeys(_STEPS, steps)}.get(field or "", {})
        return table.get(value, value) if isinstance(value, str) else value

    other: Data = swapped(copy.deepcopy(data), None)
    for k, part in enumerate(other.get("parts", [])):
        part["id"], part["title"] = names[data["parts"][k]["id"]], f"Thing {k}"
    for k, step in enumerate(other["steps"]):
        step["id"], step["title"] = f"s{k}", f"Work {k}"
    return other


_PARTS = ("touches", "allows", "proof_on", "lies_on", "goes_with", "carries")
_STEPS = ("covers", "passed", "repeats", "steps", "before", "of", "step", "from_step", "gate")


def found(data: Data) -> list[tuple[str, tuple[str | int, ...]]]:
    return sorted((f.code, f.path) for f in check(Procedure.model_validate(data)))


@pytest.mark.parametrize(
    ("code", "name", "spoil"), [m[:3] for m in METAL], ids=[f"{m[0]}-{k}" for k, m in enumerate(METAL)]
)
def test_what_is_found_does_not_hang_on_names(code: str, name: str, spoil: Change) -> None:
    data = copy.deepcopy(PLAIN[name])
    spoil(data)
    mine = found(data)
    assert code in [c for c, _ in mine]
    assert found(called_otherwise(data)) == mine


@pytest.mark.parametrize("name", GOOD)
def test_every_way_through_a_shipped_procedure_can_be_done_and_ends_as_it_says(name: str) -> None:
    procedure = GOOD[name]
    assert procedure.parts
    for way in selections(procedure):
        moves = PlannedMoves(procedure, way)
        assert list(stuck(moves)) == []
        assert condition(moves, ending(moves)) in (None, procedure.leaves)


def test_a_cap_takes_its_shell_along_and_a_rod_its_piston() -> None:
    moves = PlannedMoves(GOOD[ROD], {"piston": "out"})
    before = beginning(moves)
    assert [before.where(name) for name in ("cap", "lower-shell", "rod", "piston")] == ["in_place"] * 4
    steps = {step.id: metal for _, step, metal in simulated(moves)}
    assert [steps["pairs"].where(name) for name in ("cap", "lower-shell")] == ["aside", "with"]
    assert [steps["out-down"].where(name) for name in ("rod", "piston", "upper-shell")] == ["hung", "with", "with"]
    after = ending(moves)
    assert [after.where(name) for name in ("lower-shell", "upper-shell", "jack", "protector")] == [
        "aside",
        "aside",
        "away",
        "in_place",
    ]


def test_nuts_are_tight_then_slack_then_out_and_the_journal_is_oiled_before_it_is_covered() -> None:
    moves = PlannedMoves(GOOD[HEAD], {})
    steps = {step.id: metal for _, step, metal in simulated(moves)}
    assert [set(steps[at].holds.values()) for at in ("free", "relieve", "hook")] == [{"tight"}, {"slack"}, {"out"}]
    assert (steps["vent"].hoses, steps["free"].hoses, steps["nuts-off"].hoses) == (False, True, False)
    assert (steps["relieve"].pressure, steps["tools-off"].pressure) == (True, False)
    main = {step.id: metal for _, step, metal in simulated(PlannedMoves(GOOD[MAIN], {}))}
    assert main["shells"].parts["journal"].face == "oiled"


def test_the_step_that_would_clear_it_is_named() -> None:
    data = copy.deepcopy(PLAIN[MAIN])
    steps = data["steps"]
    names = [s["id"] for s in steps]
    steps.insert(names.index("free") + 1, steps.pop(names.index("jack-off")))
    finding = next(f for f in check(Procedure.model_validate(data)) if f.code == "sweep_not_clear")
    assert (finding.params["part"], finding.params["cleared_by"]) == ("cap_jack", "Cap jack off")


@pytest.mark.parametrize(
    ("place", "value", "said"),
    [
        ("parts.0.lies_on", ["nothing"], "part 'nothing'"),
        ("parts.0.held_by", ["bolts"], "fastener group 'bolts'"),
        ("parts.1.goes_with", "lower-shell", "part 'lower-shell'"),
        ("parts.0.goes_with", "lower-shell", "depends on itself"),
        ("parts.0.kind", "gearbox", "cap_jack"),
        ("parts.3.kind", "cap", "both the cap of this joint"),
        ("parts.4.id", "journal", "appears more than once"),
        ("@oil.touches", ["journal", "wheel"], "part 'wheel'"),
        ("@oil.touches", ["journal", "journal"], "appears more than once"),
        ("@nip.does", "melt", "'put_in', 'take_off'"),
        ("@tools.does", "take_off", "'does' needs 'touches'"),
        ("@oil.must_precede", [{"step": "later", "reason": "so"}], "step 'later'"),
        ("@chief-sees.must_precede", [{"step": "door", "reason": "so"}], None),
    ],
)
def test_bad_parts_are_refused_by_name_and_line(place: str, value: object, said: str | None) -> None:
    data = copy.deepcopy(PLAIN[MAIN])
    change((place, value))(data)
    if place.startswith("@chief"):
        change(("@door.must_precede", [{"step": "chief-sees", "reason": "round and round"}]))(data)
        said = "depends on itself"
    with pytest.raises(ValidationError) as refused:
        Procedure.model_validate(data)
    assert said is not None
    assert said in str(refused.value)
    # A document as text is told by its line.
    with pytest.raises(DocumentRefused) as told:
        read_model(read_yaml(json.dumps(data).encode()), Procedure)
    assert all(f.line >= 1 for f in told.value.findings)


def test_a_thousand_parts_are_one_clear_refusal_and_two_hundred_no_hang() -> None:
    data = copy.deepcopy(PLAIN[MAIN])
    many = [{"id": f"plug-{k}", "kind": "plug", "lies_on": ["journal"], "count": 1} for k in range(1000)]
    data["parts"] += many
    with pytest.raises(ValidationError, match="at most 200"):
        Procedure.model_validate(data)
    data["parts"] = data["parts"][:200]
    assert faults(Procedure.model_validate(data)) == []


def faults(procedure: Procedure) -> list[str]:
    return [f.code for f in check(procedure) if f.severity is not Severity.NOTE]


def test_a_document_of_two_hundred_and_fifty_six_ways_is_no_hang() -> None:
    """Every way is held against the first one, and every way of ending against unlike beginnings alone."""
    data = copy.deepcopy(PLAIN[MAIN])
    both = [{"id": "yes", "title": "Yes"}, {"id": "no", "title": "No"}]
    data["options"] = [{"id": f"option-{k}", "title": f"Option {k}", "choices": both} for k in range(8)]
    many = Procedure.model_validate(data)
    assert len(selections(many)) == 256
    assert faults(many) == []
    assert gaps(GOOD["tarnholt-7l34-main-loosen"], many) == gaps(many, GOOD["tarnholt-7l34-main-loosen"]) == ()


def test_a_document_that_names_no_parts_is_worked_as_before() -> None:
    data = copy.deepcopy(PLAIN[HEAD])
    unnamed(data)
    procedure = Procedure.model_validate(data)
    assert not PlannedMoves(procedure, {}).simulated
    assert [f.code for f in check(procedure)] == ["not_played"]
    assert all(f.severity is Severity.WARNING for f in check(procedure)), "it stays workable"


def test_one_procedure_takes_up_what_the_other_leaves() -> None:
    pairs = {(a.id, b.id): gaps(a, b) for a in GOOD.values() for b in GOOD.values() if follows(a, b)}
    assert len(pairs) >= len(GOOD)
    assert {pair: gap for pair, gap in pairs.items() if gap} == {}


def test_the_text_of_every_shipped_procedure_is_checked_whole() -> None:
    for name in GOOD:
        said, stops = checked_lines(PATHS[name].read_bytes())
        assert not stops
        assert all(line.message.startswith(f"{say('check.severity.note')}:") for line in said), name
        assert re.search(r"^from: ", PATHS[name].read_text(), re.M)


@pytest.mark.parametrize("kept", [(), ("jack",)])
def test_whatever_turns_the_crank_may_say_what_stays_in_its_sweep_on_purpose(kept: tuple[str, ...]) -> None:
    data: Any = copy.deepcopy(PLAIN[MAIN])
    also(move("jack-off", "free"), change(("@free.allows", list(kept))))(data)
    codes = {f.code for f in check(Procedure.model_validate(data))}
    assert ("sweep_not_clear" in codes) is not bool(kept)
