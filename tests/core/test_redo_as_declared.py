"""What a document says is done again together, is: for pulls under pressure, for measurements, in its own cycle."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.rules.redo import redo_scope
from tests.core.paper_run import PaperRun, shipped

COVER = "ulvane-5x46-cover-tighten"


def steps_of(run: PaperRun, keys: tuple[str, ...]) -> list[str]:
    by_key = run.state.definition.by_key
    return list(dict.fromkeys(by_key[key].step for key in keys))


def test_one_stud_of_a_cover_slackened_has_the_whole_cover_pulled_again() -> None:
    run = PaperRun(COVER, tools="four")
    declared = next(group for group in run.state.definition.procedure.redo if group.id == "cover")
    pulls = [key for key, cells in run.state.definition.steps if cells[0].step_id in declared.steps]
    last = next(c.key for c in run.state.definition.by_step[pulls[-1]] if c.quantity is not None)
    run.play(run.state.definition.by_key[last].gone_after or "")
    run.play_one()
    scope = redo_scope(run.state, last)
    assert set(pulls) <= set(steps_of(run, scope)), "all its stages, not the last alone"
    # Free lengths are read of slack studs; these are loaded.
    assert all(run.state.definition.by_key[key].traits.moment != "before_load" for key in scope)


def test_while_the_pressure_is_up_a_nut_alone_is_run_down_again() -> None:
    run = PaperRun(COVER, tools="four")
    step = next(key for key, cells in run.state.definition.steps if cells[0].traits.evidence == "pressure")
    nuts = [c.key for c in run.state.definition.by_step[step] if c.item == "nut"]
    run.play(nuts[1])
    assert steps_of(run, redo_scope(run.state, nuts[0])) == [step]


@pytest.mark.parametrize("names_it", [False, True])
def test_two_measurements_that_a_document_ties_together_are_taken_together(names_it: bool) -> None:
    plain: dict[str, Any] = copy.deepcopy(shipped("tarnholt-7l34-liner-fit").plain())
    first, second = "go-no-go", "dry-height"
    if names_it:
        tied = {"id": "tied", "steps": [second], "from_step": first, "why": "One rests on the other"}
        plain["redo"] = [*plain.get("redo", []), tied]
    run = PaperRun(Procedure.model_validate(plain))
    last = run.state.definition.by_step[second][-1].key
    run.play(last)
    run.play_one()
    assert steps_of(run, redo_scope(run.state, last)) == ([first, second] if names_it else [second])
