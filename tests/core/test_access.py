"""What must be out of the way for what: the access rules of the default sheet, example by example, and as a law."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.engine.layout import Engine, JointKind
from jorvek.core.procedure.metal_parts import Condition
from jorvek.core.sheet.access import Ground, InTheWay, Stand, Work, in_the_way, standing_together
from jorvek.core.sheet.default import default_sheet
from jorvek.core.sheet.document import EngineSheet
from tests.core.engines import ENGINES, GREY_PLOVER, UNIT_2, UNIT_5, ground


def ways(g: Ground, joint: str, begins: Condition, leaves: Condition, **chosen: str) -> set[tuple[str, str | None]]:
    """What stands in the way, as joint and rule."""
    return {(o.joint, o.rule) for o in in_the_way(g, Work(joint, begins, leaves, chosen))}


def busy(g: Ground, joint: str, begins: Condition, leaves: Condition, **chosen: str) -> Ground:
    """The engine while somebody works on a joint."""
    work = Work(joint, begins, leaves, chosen)
    return replace(g, stands={**g.stands, joint: Stand(frozenset(g.path(work)), work)})


def test_a_joint_is_worked_on_from_the_condition_it_is_in() -> None:
    assert ways(ground(UNIT_2), "head-4", "landed", "tight") == {("head-4", None)}
    assert ways(ground(UNIT_2, head_4="landed"), "head-4", "landed", "tight") == set()
    assert ways(ground(UNIT_2), "head-4", "open", "landed") == {("head-4", None)}, "never loosened"


def test_a_liner_is_neither_measured_nor_drawn_under_its_head() -> None:
    under = ways(ground(UNIT_2, rod_4="open"), "liner-4", "landed", "open")
    assert under == {("head-4", "liner-under-head"), ("head-4", "liner-without-head")}
    assert ways(ground(UNIT_2, rod_4="open", head_4="open"), "liner-4", "landed", "open") == set()
    neighbour_off = ground(UNIT_2, rod_4="open", head_3="open", head_5="open")
    assert ("head-4", "liner-under-head") in ways(neighbour_off, "liner-4", "landed", "open")


def test_a_head_that_is_landed_and_loose_still_bars_the_liner() -> None:
    for condition in ("landed", "loose", "tight"):
        on = ground(UNIT_2, rod_4="open", head_4=condition)
        assert ("head-4", "liner-under-head") in ways(on, "liner-4", "landed", "open")


def test_a_head_is_not_landed_nor_tightened_while_its_liner_is_out() -> None:
    out = ground(UNIT_2, head_4="open", rod_4="open", liner_4="open")
    assert ("liner-4", "liner-under-head") in ways(out, "head-4", "open", "landed")
    assert ways(ground(UNIT_2, head_4="open"), "head-4", "open", "landed") == set()


def test_a_piston_goes_through_the_open_cylinder_and_a_rod_whose_piston_stays_does_not_ask() -> None:
    closed = ground(UNIT_2)
    assert ways(closed, "rod-4", "closed_up", "open", piston="out") == {("head-4", "piston-under-head")}
    assert ways(closed, "rod-4", "closed_up", "open", piston="stay") == set()
    assert ways(ground(UNIT_2, rod_4="open"), "rod-4", "open", "closed_up", piston="in") == {
        ("head-4", "piston-under-head")
    }


def test_a_liner_is_drawn_once_rod_and_piston_are_out_and_a_rod_closed_into_a_liner_that_is_home() -> None:
    assert ("rod-4", "liner-without-piston") in ways(ground(UNIT_2, head_4="open"), "liner-4", "landed", "open")
    out = ground(UNIT_2, head_4="open", rod_4="open", liner_4="open")
    assert ("liner-4", "rod-into-liner") in ways(out, "rod-4", "open", "closed_up", piston="in")


@pytest.mark.parametrize("of", ENGINES)
def test_neighbouring_mains_stay_shut_on_every_engine(of: Engine) -> None:
    mains = [p.key for p in ground(of).places if p.kind is JointKind.MAIN]
    for k, key in enumerate(mains):
        open_here = ground(of)
        open_here = replace(open_here, stands={**open_here.stands, key: Stand(frozenset({"open"}))})
        barred = {
            other
            for other in mains
            if ("neighbouring-mains" in {r for _, r in ways(open_here, other, "closed_up", "open")})
        }
        beside = {mains[i] for i in (k - 1, k + 1) if 0 <= i < len(mains)}
        assert barred - {key} == beside, "at the ends there is one neighbour, elsewhere two"


def test_a_main_bearing_that_is_only_loose_counts_as_open_and_a_tight_one_as_shut() -> None:
    assert ("main-3", "neighbouring-mains") in ways(ground(UNIT_2, main_3="loose"), "main-4", "closed_up", "open")
    assert ways(ground(UNIT_2, main_3="tight"), "main-4", "closed_up", "open") == set()


@pytest.mark.parametrize("idle", ["inverted", "crank_supported"])
def test_with_the_engine_on_its_head_or_the_crank_carried_neighbours_may_stand_open(idle: str) -> None:
    carried = ground(UNIT_2, idle=frozenset({idle}), main_3="open")  # type: ignore[arg-type]  # one of the two
    assert ways(carried, "main-4", "closed_up", "open") == set()
    assert list(standing_together(ground(UNIT_2, main_3="open", main_4="open")))
    assert not list(standing_together(ground(UNIT_2, idle=frozenset({idle}), main_3="open", main_4="open")))  # type: ignore[arg-type]  # as above


def test_one_head_over_a_bank_concerns_every_liner_of_that_bank_and_none_of_the_other() -> None:
    on = ground(UNIT_5, rod_a3="open", rod_b3="open", head_b="open")
    assert ("head-a", "liner-under-head") in ways(on, "liner-a3", "landed", "open")
    assert ways(on, "liner-b3", "landed", "open") == set()
    out = ground(UNIT_5, head_a="open", liner_a3="open")
    assert ("liner-a3", "liner-under-head") in ways(out, "head-a", "open", "closed_up")


def test_a_two_stroke_draws_no_piston_past_a_rod() -> None:
    rules = {rule.id for rule in ground(GREY_PLOVER).sheet.needs}
    assert "liner-without-piston" not in rules
    assert ways(ground(GREY_PLOVER), "crankpin-2", "closed_up", "open") == set()


def test_a_gate_that_failed_keeps_the_head_off_until_it_is_measured_again() -> None:
    off = ground(UNIT_2, head_4="open")
    bad = replace(off, stands={**off.stands, "liner-4": Stand(frozenset({"landed"}), None, gates_bad=True)})
    found = in_the_way(bad, Work("head-4", "open", "landed"))
    assert [(o.why, o.joint, o.hurts) for o in found] == [("gate", "liner-4", False)]
    assert ways(bad, "head-5", "closed_up", "open") == set(), "another cylinder's gate bars nobody here"


def test_nobody_knows_is_never_taken_for_out_of_the_way() -> None:
    g = ground(UNIT_2, main_3="closed_up")
    unknown = replace(g, stands={k: v for k, v in g.stands.items() if k != "main-3"})
    found = in_the_way(unknown, Work("main-4", "closed_up", "open"))
    assert [(o.why, o.joint) for o in found] == [("unknown", "main-3")]
    own = in_the_way(unknown, Work("main-3", "closed_up", "open"))
    assert ("unknown", "main-3") in {(o.why, o.joint) for o in own}


def test_work_under_way_keeps_what_it_relies_on_as_it_is() -> None:
    measuring = busy(ground(UNIT_2, head_4="open", rod_4="open"), "liner-4", "landed", "open")
    found = in_the_way(measuring, Work("head-4", "open", "landed"))
    assert {(o.why, o.joint) for o in found} >= {("relied_on", "liner-4"), ("under_way", "liner-4")}
    drawing = busy(ground(UNIT_2, head_4="open"), "rod-4", "closed_up", "open", piston="out")
    assert {(o.why, o.joint) for o in in_the_way(drawing, Work("head-4", "open", "landed"))} >= {("relied_on", "rod-4")}


def test_what_a_procedure_does_not_say_may_be_anything() -> None:
    silent = Work("main-4", None, None)
    assert {o.joint for o in in_the_way(ground(UNIT_2, main_3="open"), silent)} == {"main-3"}


def test_every_rule_says_why_and_those_that_hurt_are_marked() -> None:
    for of in ENGINES:
        sheet = ground(of).sheet
        assert all(len(reason) > 20 for reason in (*(r.reason for r in sheet.never), *(r.reason for r in sheet.needs)))
        assert {r.id for r in sheet.never if r.hurts} == {"neighbouring-mains", "liner-under-head"}


_MOVES: dict[JointKind, tuple[tuple[Condition, Condition], ...]] = {
    JointKind.HEAD: (("closed_up", "open"), ("open", "landed"), ("landed", "tight"), ("tight", "closed_up")),
    JointKind.LINER: (("landed", "open"), ("open", "landed")),
}
_OTHERS: tuple[tuple[Condition, Condition], ...] = (("closed_up", "open"), ("open", "closed_up"))


@given(st.sampled_from(ENGINES), st.data())
def test_no_order_of_legal_acts_brings_together_what_never_stands_together(of: Engine, data: st.DataObject) -> None:
    """Work begins where the rules allow it, goes through everything on its way, and ends, in any order."""
    g = ground(of)
    near = [p for p in g.places if p.slot <= 1.5]
    for _ in range(data.draw(st.integers(4, 40))):
        place = data.draw(st.sampled_from(near))
        stand = g.stand(place.key)
        if stand.work is not None:
            ends = data.draw(st.sampled_from([stand.work.leaves, *stand.may_be]))
            assert ends is not None
            after = Stand(frozenset({ends}))
        else:
            begins, leaves = data.draw(st.sampled_from(_MOVES.get(place.kind, _OTHERS)))
            chosen = data.draw(st.sampled_from([{}, {"piston": "out"}, {"piston": "in"}]))
            work = Work(place.key, begins, leaves, chosen)
            if in_the_way(g, work):
                continue
            after = Stand(frozenset(g.path(work)), work)
        g = replace(g, stands={**g.stands, place.key: after})
        assert not list(standing_together(g))


def test_what_stands_in_the_way_is_said_once() -> None:
    found = in_the_way(ground(UNIT_2, main_3="open"), Work("main-4", "closed_up", "open"))
    assert len(found) == 1
    assert isinstance(found[0], InTheWay)
    assert found[0].wanted == ("closed_up", "tight")
    assert found[0].hurts


@pytest.mark.parametrize(("of", "barred"), [("lower", {"main-1", "main-2"}), ("higher", {"main-4", "main-5"})])
def test_mains_may_have_to_be_closed_one_after_the_other_along_the_engine(of: str, barred: set[str]) -> None:
    default = default_sheet(UNIT_2)
    along = {
        "id": "one-after-the-other",
        "work": {"joint": "main", "leaves": ["tight"]},
        "other": {"joint": "main", "in": ["tight", "closed_up"]},
        "of": of,
        "reason": "The manual closes the caps from one end",
    }
    plain = {**default.plain(), "needs": [along], "never": []}
    sheet = EngineSheet.model_validate(plain)
    loose = {key.replace("-", "_"): "loose" for key in ("main-1", "main-2", "main-4", "main-5")}
    found = ways(ground(UNIT_2, sheet, **loose), "main-3", "loose", "tight")  # type: ignore[arg-type]  # all one condition
    assert {joint for joint, rule in found if rule == "one-after-the-other"} == barred
