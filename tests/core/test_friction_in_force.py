"""What the bolts are turned with: the lubricant at hand, another one by name, and friction tested that day."""

from __future__ import annotations

import copy
from typing import Any
from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.bolting.thread import iso_thread
from jorvek.core.bolting.torque import preload_from_torque
from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.definition import define
from jorvek.core.run.rules.friction import in_force, model_in
from jorvek.core.run.views.bench import bench_view
from jorvek.core.run.views.calls import Call
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.moved_as_expected import BOLT_FRICTION_DOUBT, moved_as_expected
from jorvek.core.run.views.rows import rows as rows_of
from tests.core.paper_run import BRAM, PaperRun, shipped
from tests.core.test_limits_of_rules import codes
from tests.core.test_procedure_check import PLAIN

MAIN = "corvane-v10-main-tighten"
THREAD, FACE_MM = iso_thread(24, 2), 31.0


def begun() -> PaperRun:
    run = PaperRun(MAIN, clearance="free")
    run.play("oil-main/product")
    return run


def first_call(run: PaperRun) -> Call:
    return bench_view(UUID(int=0), run.state, run.looking()).calls[0]


def with_paste(*, taken: bool = True) -> PaperRun:
    """The oil is out; the paste on the shelf is one that the book knows."""
    run = begun()
    run.record("oil-main/product", ev.ChoiceAnswer(choice="Assembly paste", note="No oil on the island"))
    if taken:
        command = c.Accept(
            kind="accept", id=uuid4(), cell="oil-main/product", attempt=1, reason="Book names it, torques as told"
        )
        run.send(command, BRAM)
    return run


def load_N(torque_Nm: float, mu: float) -> float:
    return preload_from_torque(torque_Nm, THREAD, mu, mu, FACE_MM)


def test_the_bolts_are_oiled_with_what_the_document_reckons_with_unless_somebody_says_otherwise() -> None:
    run = begun()
    assert run.state.definition.by_key["oil-main/product"].choices == ("Engine oil", "Assembly paste", "another")
    run.record("oil-main/product", ev.ChoiceAnswer(choice="Engine oil"))
    assert in_force(run.state)["main-bolt"].torque_share == 1.0


def test_another_lubricant_says_at_once_what_becomes_of_the_torques() -> None:
    judged = with_paste(taken=False).state.tries("oil-main/product")[-1].judgement
    assert (judged.verdict, codes(judged)) == (ev.Verdict.OUT_OF_BAND, ["lubricant_instead"])
    told = str(judged.reasons[0].params["torques"])
    new = 240 * (load_N(240, 0.12) / load_N(240, 0.10))
    assert f"240 N·m → {new:.0f}" in told
    assert told.count("→") == 2, "each torque once, and none of a trial that was not chosen"


def test_what_is_asked_and_written_down_speaks_of_the_lubricant_that_is_at_hand() -> None:
    run = with_paste()
    assert (first_call(run).text, first_call(run).details["product"]) == ("Assembly paste", "Assembly paste")
    run.play("oil-main/face:1")
    assert first_call(run).text == "Assembly paste: thread"
    run.play("snug/setting")
    shown = first_call(run).figure
    assert shown is not None
    run.value("snug/setting", shown.text, "N.m")
    rows = {row.cell: row for row in rows_of(run.state)}
    assert rows["oil-main/face:1"].text == "Assembly paste: thread", "the record says what was on the bolts"
    target = rows["snug/setting"].target
    assert target is not None
    assert float(target.text) == pytest.approx(float(shown.text), abs=1.0), "and the torque that was aimed for"
    plain = begun()
    plain.record("oil-main/product", ev.ChoiceAnswer(choice="Engine oil"))
    assert first_call(plain).details["product"] == "Engine oil"


def test_the_torque_for_another_lubricant_gives_the_load_that_was_meant() -> None:
    run = with_paste()
    run.play("snug/setting")
    call = first_call(run)
    new = 90 * load_N(90, 0.12) / load_N(90, 0.10)
    assert call.figure is not None
    assert float(call.figure.text) == pytest.approx(new, abs=0.6), "on a mark of the wrench"
    assert (call.stated and call.stated.text) == "90", "what the book says stands beside it"
    assert run.value("snug/setting", "90", "N.m").verdict is ev.Verdict.OUT_OF_BAND, "the book's torque is too much now"
    run.strike("snug/setting")
    assert run.value("snug/setting", call.figure.text, "N.m").verdict is ev.Verdict.IN_BAND
    assert (first_call(run).text or "").startswith(f"{new:.0f}"), "the pull says the torque that is set, not the book's"
    pulled = run.record("snug/pull/1", ev.PullAnswer(outcome=ev.PullOutcome.MOVED))
    assert pulled.clamp_kN == pytest.approx(load_N(90, 0.12) / 1000.0, rel=0.02), "the paste was tested, too"


def test_nothing_is_set_anew_before_somebody_takes_it_by_name() -> None:
    run = with_paste(taken=False)
    assert in_force(run.state)["main-bolt"].torque_share == 1.0
    assert run.state.live("oil-main/product") is not None


def test_a_lubricant_that_nobody_knows_claims_no_load() -> None:
    run = PaperRun(MAIN, clearance="free")
    run.play("oil-side/product")
    run.record("oil-side/product", ev.ChoiceAnswer(choice="another", note="Tin without a label"))
    run.send(c.Accept(kind="accept", id=uuid4(), cell="oil-side/product", attempt=1, reason="All there is"), BRAM)
    assert model_in(run.state, "A").friction is None
    run.play("snug/setting")
    assert run.state.tries("side-low-a/pull/A")[-1].judgement.clamp_kN is None
    assert estimate(run.state, "A") is None
    assert model_in(run.state, "1").friction is not None, "the main bolts have their own oil"


def test_a_lubricant_that_nobody_knows_is_known_once_it_is_tested() -> None:
    run = begun()
    run.record("oil-main/product", ev.ChoiceAnswer(choice="another", note="Tin without a label"))
    run.send(c.Accept(kind="accept", id=uuid4(), cell="oil-main/product", attempt=1, reason="Tested below"), BRAM)
    run.play("oil-main/tested_load:1")
    for k in (1, 2, 3):
        run.value(f"oil-main/tested_load:{k}", f"{load_N(240, 0.16) / 1000.0:.2f}", "kN")
    seen = run.record("oil-main/friction", ev.SeenAnswer())
    assert seen.verdict is ev.Verdict.NOTED
    assert seen.judged == pytest.approx(0.16, rel=0.001)
    assert model_in(run.state, "1").friction == pytest.approx((0.1472, 0.16, 0.1728), rel=0.001)


def at_the_test() -> PaperRun:
    run = begun()
    run.play("oil-main/tested_load:1")
    return run


def after_tests(*loads_kN: float) -> PaperRun:
    run = at_the_test()
    for k, load in enumerate(loads_kN, 1):
        run.value(f"oil-main/tested_load:{k}", f"{load:.2f}", "kN")
    return run


def test_the_friction_of_the_day_is_what_the_test_bolt_says() -> None:
    loads = [load_N(240, mu) / 1000.0 for mu in (0.108, 0.110, 0.112)]
    run = after_tests(*loads)
    call = first_call(run)
    assert call.computed is not None
    assert call.computed.text == "0.110"
    judged = run.record("oil-main/friction", ev.SeenAnswer())
    assert judged.verdict is ev.Verdict.IN_BAND
    assert judged.uncertainty == pytest.approx(0.08 * 0.110, rel=0.01), "one bolt speaks for its like to 8 %"
    least, usual, most = model_in(run.state, "1").friction or (0.0, 0.0, 0.0)
    assert (least, usual, most) == pytest.approx((0.1012, 0.110, 0.1188), rel=0.01)


@pytest.mark.parametrize(("bolts", "share"), [(1, 0.08), (2, 0.08 / 2**0.5), (3, 0.08 / 3**0.5), (4, 0.04)])
def test_bolts_differ_so_more_of_them_say_more_of_their_like(bolts: int, share: float) -> None:
    def several(data: Any) -> None:
        step = next(s for s in data["steps"] if s["id"] == "oil-main")
        step["friction_test"]["bolts"] = bolts

    run = PaperRun(changed(several), clearance="free")
    run.play("oil-main/tested_load:1")
    asked = [cell.key for cell in run.state.definition.cells if cell.what is CellItem.TESTED_LOAD]
    assert len(asked) == max(3, bolts), "three readings at least, one of each bolt at least"
    for key in asked:
        run.value(key, f"{load_N(240, 0.12) / 1000.0:.2f}", "kN")
    judged = run.record("oil-main/friction", ev.SeenAnswer())
    assert judged.uncertainty == pytest.approx(share * 0.12, rel=0.01)


def test_readings_that_scatter_widen_the_friction_of_the_day() -> None:
    run = after_tests(*(load_N(240, mu) / 1000.0 for mu in (0.10, 0.12, 0.14)))
    judged = run.record("oil-main/friction", ev.SeenAnswer())
    assert judged.uncertainty == pytest.approx(2 * 0.02 / 3**0.5, rel=0.02)


@pytest.mark.parametrize(("mu", "verdict"), [(0.145, ev.Verdict.IN_BAND), (0.155, ev.Verdict.OUT_OF_BAND)])
def test_another_oil_than_the_sheet_speaks_of_is_found(mu: float, verdict: ev.Verdict) -> None:
    """The sheet says up to 0.14; a test tells to 5 %, so 0.145 may still be it and 0.155 is not."""
    run = after_tests(*[load_N(240, mu) / 1000.0] * 3)
    assert run.record("oil-main/friction", ev.SeenAnswer()).verdict is verdict


def test_a_load_that_no_friction_explains_is_refused_before_it_is_kept() -> None:
    """At 240 N·m even a bolt without any friction pulls no more than 754 kN."""
    run = after_tests(64.0, 64.0)
    before = len(run.events)
    with pytest.raises(Refusal) as refused:
        run.value("oil-main/tested_load:3", "800", "kN")
    assert refused.value.code in ("readings_at_odds", "above_full_scale")
    assert len(run.events) == before


def test_the_friction_of_the_day_is_shown_beside_the_range_of_the_lubricant_at_hand() -> None:
    bands = []
    for run in (begun(), with_paste()):
        run.play("oil-main/friction")
        call = first_call(run)
        bands.append((call.lower and call.lower.text, call.upper and call.upper.text))
    assert bands == [("0.100", "0.140"), ("0.080", "0.120")]


@given(st.floats(0.06, 0.20))
def test_a_wrench_and_a_friction_are_told_apart_once_the_friction_is_known(mu: float) -> None:
    """The test turns the wide range of a table into a narrow one round what the oil really is."""
    run = after_tests(*[load_N(240, mu) / 1000.0] * 3)
    run.record("oil-main/friction", ev.SeenAnswer())
    live = run.state.live("oil-main/friction")
    assert live is not None
    if live.settled:
        least, usual, most = model_in(run.state, "1").friction or (0.0, 0.0, 0.0)
        assert usual == pytest.approx(mu, rel=0.01)
        assert (most - least) / usual == pytest.approx(0.16, rel=0.02)


def test_the_friction_of_the_day_stands_behind_loads_and_movement() -> None:
    run = after_tests(*[load_N(240, 0.11) / 1000.0] * 3)
    run.play("turn/turn/1")
    pulled = run.state.tries("full-snug/pull/1")[-1].judgement
    assert pulled.clamp_kN == pytest.approx(load_N(240, 0.11) / 1000.0, rel=0.001)
    main = next(m for m in moved_as_expected(run.state) if m.group == "Main bolt")
    assert main.most_pct - main.least_pct < 15.0, "the table alone lets expect 31 % between its ends"


def changed(change: Any) -> Procedure:
    data = copy.deepcopy(PLAIN[MAIN])
    change(data)
    return Procedure.model_validate(data)


def test_a_test_with_the_wrench_of_the_stages_would_hide_its_error() -> None:
    def same(data: Any) -> None:
        step = next(s for s in data["steps"] if s["id"] == "oil-main")
        step["friction_test"]["torque_sensor"] = "wrench-big"

    assert "friction_test_same_wrench" in {f.code for f in check(changed(same))}


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("torque_sensor", "nobody", "tool role 'nobody'"),
        ("readings", 1, "greater than or equal to 2"),
    ],
)
def test_a_friction_test_needs_tools_that_are_drawn_and_more_than_one_reading(
    field: str, value: object, says: str
) -> None:
    def spoil(data: Any) -> None:
        step = next(s for s in data["steps"] if s["id"] == "oil-main")
        step["friction_test"][field] = value

    with pytest.raises(ValueError, match=says):
        changed(spoil)


def test_a_stand_in_is_named_once_and_needs_the_friction_of_the_product() -> None:
    def twice(data: Any) -> None:
        data["fasteners"][0]["lubricant"]["others"][0]["product"] = "Engine oil"

    def unknown(data: Any) -> None:
        del data["fasteners"][0]["lubricant"]["friction"]

    for spoil, says in ((twice, "more than once"), (unknown, "need the 'friction'")):
        with pytest.raises(ValueError, match=says):
            changed(spoil)


def test_without_a_test_or_a_stand_in_a_lubrication_is_asked_as_before() -> None:
    cells = [cell.key for cell in define(shipped(MAIN)).cells if cell.step == "oil-side"]
    assert cells == ["oil-side/product", "oil-side/batch", "oil-side/face:1", "oil-side/face:2"]


def test_testing_the_oil_does_not_make_bolts_alike() -> None:
    """However many bolts were tested, each of the joint keeps the friction of its own."""

    def many(data: Any) -> None:
        step = next(s for s in data["steps"] if s["id"] == "oil-main")
        step["friction_test"]["bolts"] = 6

    run = PaperRun(changed(many), clearance="free")
    run.play("turn/turn/1")
    assert in_force(run.state)["main-bolt"].tested
    assert not in_force(run.state)["main-side"].tested, "the side bolts have the range of the table"
    held = estimate(run.state, "1")
    assert held is not None
    assert held.F_N is not None
    assert held.u_N is not None
    assert held.u_N / held.F_N > BOLT_FRICTION_DOUBT
