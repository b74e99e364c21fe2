"""What is shown of the engine, what a run says to it, and what may be left to whoever is last."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from uuid import UUID, uuid4

import pytest

from jorvek.core.engine.layout import JointKind
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.rules.joint_conditions import ground_of
from jorvek.core.overhaul.rules.starting import AskedWork, demand_access, in_force_for
from jorvek.core.overhaul.views.crank import crank_view
from jorvek.core.overhaul.views.dossier import dossier
from jorvek.core.overhaul.views.engine import engine_view
from jorvek.core.overhaul.views.joints import Known, joints_now, next_up
from jorvek.core.overhaul.views.log_lines import AT_FIRST, log_page
from jorvek.core.procedure.metal_parts import LADDERS, Condition
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import ReopenForEngine, TryPressure
from jorvek.core.run.log.fold import begin, fold
from jorvek.core.run.rules.dangers import zero_after
from jorvek.core.run.rules.engine_effects import demand_not_relied_on, left_to_engine, reopen_for_engine
from jorvek.core.run.views.follow_ups import follow_ups
from jorvek.core.run.views.on_engine import Carried, PartOut, on_engine
from jorvek.core.run.views.record import record_of
from jorvek.core.sheet.access import Work
from jorvek.core.sheet.relations import related
from tests.core.engines import UNIT_5, ground
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, PaperRun
from tests.core.test_every_kind_of_run import NAMES
from tests.core.test_sheet_check import shipped

HEAD = "tarnholt-7l34-head"


def known(name: str, begins: Condition, leaves: Condition, joint: JointKind = JointKind.HEAD) -> Known:
    """A procedure as a list knows it; those that take apart have "loosen" or "draw" in their name."""
    purpose = "loosen" if "loosen" in name or "draw" in name else "tighten"
    return Known("0" * 64, name, name.capitalize(), "A", joint, purpose, begins, leaves)


SHELF = (
    known("close", "tight", "closed_up"),
    known("land", "open", "landed"),
    known("loosen", "closed_up", "open"),
    known("tighten", "landed", "tight"),
    known("liner-draw", "landed", "open", JointKind.LINER),
    known("liner-fit", "open", "landed", JointKind.LINER),
)


def view_of(engine: PaperOverhaul) -> object:
    return engine_view(engine.state, engine.sheet, engine.runs, SHELF, (), engine.now)


# ---- the engine's page -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("condition", "order"),
    [
        ("closed_up", ["loosen", "land", "tighten", "close"]),
        ("open", ["land", "tighten", "close", "loosen"]),
        ("landed", ["tighten", "close", "loosen", "land"]),
        ("tight", ["close", "loosen", "land", "tighten"]),
    ],
)
def test_procedures_follow_each_other_from_where_the_joint_stands(condition: str, order: list[str]) -> None:
    engine = PaperOverhaul()
    engine.found(condition, "head-4")
    head = next(j for j in joints_now(engine.state, engine.sheet, (), SHELF) if j.key == "head-4")
    assert [offer.id for offer in head.offers] == order
    assert [offer.when for offer in head.offers] == ["now", "later", "later", "later"]


def test_a_head_is_not_next_over_a_liner_that_is_still_to_be_drawn() -> None:
    engine = PaperOverhaul()
    engine.say(oc.SetScope(kind="set_scope", id=uuid4(), scope=("head-4", "liner-4", "head-6")))
    engine.found("open", "head-4", "rod-4")

    def following() -> list[str]:
        joints = joints_now(engine.state, engine.sheet, engine.runs, SHELF)
        return [j.key for j in next_up(ground_of(engine.state, engine.sheet, engine.runs), joints)]

    assert following() == ["liner-4", "head-6"], "what is apart goes on first, then what waits to be opened"
    run = engine.begun("liner-4", begins="open", leaves="landed", purpose="tighten", condition="open")
    assert following() == ["head-6"]
    engine.becomes(run, open=False, condition="landed")
    assert following() == ["head-4", "head-6"]


def test_a_joint_that_was_apart_and_is_back_is_done_and_one_that_was_never_touched_is_not() -> None:
    engine = PaperOverhaul()
    engine.found("open", "rod-1")
    engine.found("closed_up", "rod-1")
    engine.begun("head-2", open=False, purpose="tighten", begins="tight", leaves="closed_up", condition="closed_up")
    joints = {j.key: j for j in joints_now(engine.state, engine.sheet, engine.runs, SHELF)}
    assert [key for key, joint in joints.items() if joint.done] == ["head-2", "rod-1"]
    assert joints["rod-1"].told_by == "Bram Okafor"
    assert joints["head-2"].told_by is None, "its run says it"


def test_the_page_says_who_is_inside_what_hangs_and_what_is_owed() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear", "prelube")
    engine.enter()
    engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
    run = engine.begun("head-4", under_pressure=True, by="Dessa Marlow", crank_cell="bar/reached")
    engine.begun(
        "rod-5",
        open=False,
        condition="open",
        carried=(Carried(cell="doors/door", point="door", text="Doors", to="rod-close"),),
    )
    engine.becomes(run, hung=(PartOut(id="part", kind="head", called="head"),))
    view = engine_view(engine.state, engine.sheet, engine.runs, SHELF, (), engine.now)
    assert [one.person for one in view.inside] == ["Lio Sandvik"]
    assert view.under_pressure == ("Head 4",)
    assert view.hung == ("Head 4: head",)
    assert [(one.joint, one.text, one.to) for one in view.owed] == [("Rod 5", "Doors", "rod-close")]
    assert {p.point: p.state for p in view.points}["turning_gear"] == "isolated"
    assert {p.point: p.state for p in view.points}["fuel"] == "open"
    assert [k.lock for k in view.locks] == ["7"]
    assert {o.code for o in view.crank.obstacles} == {"person_inside", "under_pressure"}
    assert [c.by for c in view.crank.concerned] == ["Dessa Marlow"]
    assert view.log.lines[0].seq == engine.state.seq, "the newest first"
    assert {h.why for h in view.held_up} >= {"joint_open", "joint_not_closed", "debt", "isolation", "lock", "inside"}
    assert next(j for j in view.joints if j.key == "head-4").under_way


def test_a_test_under_way_is_on_the_page_and_the_points_that_it_lifted() -> None:
    engine = PaperOverhaul()
    engine.isolate("prelube")
    engine.say(oc.LiftForTest(kind="lift_for_test", id=uuid4(), points=("prelube",), test="Oil", guards="Tam"))
    view = engine_view(engine.state, engine.sheet, engine.runs, SHELF, (), engine.now)
    assert [(one.test, one.points) for one in view.tests] == [("Oil", ("prelube",))]
    assert {p.point: p.state for p in view.points}["prelube"] == "lifted"


def test_at_a_dead_centre_the_crank_says_whose_it_is() -> None:
    engine = PaperOverhaul()
    assert not crank_view(engine.state, engine.sheet, (), ()).known
    engine.move(720 / 7)
    assert crank_view(engine.state, engine.sheet, (), ()).at_top == ("2",)
    engine.move(719.8)
    assert crank_view(engine.state, engine.sheet, (), ()).at_top == ("1",), "just before the circle closes"
    engine.move(50.0)
    assert crank_view(engine.state, engine.sheet, (), ()).at_top == ()


def test_every_piston_says_how_far_below_its_top_it_stands() -> None:
    sheet = shipped("tarnholt-7l34")
    engine = PaperOverhaul(sheet=sheet)
    assert crank_view(engine.state, sheet, (), ()).below_top_mm == {}, "nobody knows where the crank is"
    engine.move(0.0)
    heights = crank_view(engine.state, sheet, (), ()).below_top_mm
    assert heights["1"] == pytest.approx(0.0, abs=1e-9)
    assert all(0 < mm <= 450 for name, mm in heights.items() if name != "1"), "an odd engine has no companions"
    bare = PaperOverhaul()
    bare.move(0.0)
    assert crank_view(bare.state, bare.sheet, (), ()).below_top_mm == {}, "no geometry, no height"


# ---- starting --------------------------------------------------------------------------------------------------------


def test_each_thing_in_the_way_has_words_of_its_own() -> None:
    engine = PaperOverhaul()

    def code(joint: str, begins: Condition, leaves: Condition, *let: ev.RuleDeparted, by: ev.Person = BRAM) -> str:
        with pytest.raises(Refusal) as refused:
            demand_access(
                engine.state, engine.sheet, engine.runs, AskedWork(joint, Work(joint, begins, leaves)), let, by
            )
        return refused.value.code

    assert code("head-4", "open", "landed") == "access_own"
    engine.found("open", "head-4")
    engine.found("open", "liner-4")
    assert code("head-4", "open", "landed") == "access_rule"
    engine.found("landed", "liner-4")
    engine.begun(
        "liner-4", open=False, measured=True, gates_bad=True, begins="open", leaves="landed", condition="landed"
    )
    assert code("head-4", "open", "landed") == "access_gate"
    gate = ev.RuleDeparted(rule="gates-before-head", joint="liner-4", reason="Measured by hand, in the book")
    work = AskedWork("Head 4", Work("head-4", "open", "landed"))
    demand_access(engine.state, engine.sheet, engine.runs, work, (gate,), BRAM)
    assert code("head-4", "open", "landed", gate, by=LIO) == "not_your_right"
    other = gate.model_copy(update={"joint": "liner-5"})
    assert code("head-4", "open", "landed", other) == "access_gate", "a departure is for the joint that it names"
    engine.begun("main-3")
    assert code("main-4", "closed_up", "open") == "access_under_way"
    hurts = ev.RuleDeparted(rule="neighbouring-mains", joint="main-3", reason="In a hurry")
    assert code("main-4", "closed_up", "open", hurts) == "access_under_way", "nobody departs from what hurts people"
    bare = PaperOverhaul(as_it_ran=False)
    with pytest.raises(Refusal) as refused:
        demand_access(bare.state, bare.sheet, (), work, (), BRAM)
    assert refused.value.code == "access_unknown"
    engine.begun("liner-6", begins="landed", leaves="open", condition="landed")
    engine.found("open", "head-6")
    assert code("head-6", "open", "closed_up") in ("access_under_way", "access_relied_on")


def test_what_the_engine_has_isolated_answers_a_runs_making_safe_in_whoevers_name_it_was() -> None:
    engine = PaperOverhaul()
    engine.isolate("starting_air", "fuel")
    run = PaperRun(f"{HEAD}-loosen")
    held = in_force_for(engine.state, run.state.definition)
    assert {one.cell for one in held} == {"make-safe/starting-air", "make-safe/fuel"}
    first = run.events[0]
    assert isinstance(first.data, ev.RunStarted)
    begun = begin(
        run.state.definition,
        first.model_copy(update={"data": first.data.model_copy(update={"in_force": held})}),
    )
    answered = begun.live("make-safe/fuel")
    assert answered is not None
    assert (answered.by, answered.source, answered.at) == (BRAM, "engine", held[0].at + timedelta(minutes=1))
    assert begun.live("make-safe/coolant") is None


# ---- left to the engine ----------------------------------------------------------------------------------------------


def test_only_what_gives_back_or_shows_after_it_is_left_to_whoever_is_last() -> None:
    run = PaperRun(f"{HEAD}-close")
    run.play("water-back/coolant")
    state = run.state
    coolant, water, pipes = (
        state.definition.by_key[key] for key in ("water-back/coolant", "water-on/outlet", "pipes/fuel")
    )
    for cell, relied in ((coolant, ()), (pipes, ("Head 5",)), (water, ("Head 5",))):
        with pytest.raises(Refusal) as refused:
            left_to_engine(state, cell, relied)
        assert refused.value.code == "not_for_engine"
    with pytest.raises(Refusal) as refused:
        demand_not_relied_on(state, coolant, ("Head 5", "Rod 5", "Main 3", "Liner 5", "Head 6"))
    assert str(refused.value.params["by"]).endswith("+ 1")
    demand_not_relied_on(state, coolant, ())
    judged = left_to_engine(state, coolant, ("Head 5",))
    assert judged.verdict is ev.Verdict.LEFT_OUT
    run.take(
        ev.Recorded(cell=coolant.key, attempt=1, answer=ev.LeftToEngineAnswer(), judgement=judged),
    )
    with pytest.raises(Refusal):
        demand_not_relied_on(run.state, water, ("Head 5",))
    assert left_to_engine(run.state, water, ("Head 5",)).reasons[0].params == {"by": "Head 5"}
    assert [one.text for one in on_engine(uuid4(), run.state).carried] == []
    run.take(ev.Recorded(cell=water.key, attempt=1, answer=ev.LeftToEngineAnswer(), judgement=judged))
    assert [one.text for one in on_engine(uuid4(), run.state).carried] == ["Water outlet bend"]


def test_a_position_that_no_longer_holds_is_asked_whole_again() -> None:
    run = PaperRun("tarnholt-7l34-rod-loosen", piston="stay")
    run.play(next(c.key for c in run.state.definition.cells if c.kind == "temporary_on"))
    before = on_engine(uuid4(), run.state)
    assert before.crank_cell is not None
    why = "The crank: Lio Sandvik, Rod 2"
    opened = reopen_for_engine(run.state, ReopenForEngine(id=uuid4(), cells=(before.crank_cell,), why=why))
    run.take(opened)
    kinds = {run.state.definition.by_key[key].kind for key in opened.cells}
    assert "crank_position" in kinds
    assert on_engine(uuid4(), run.state).crank_cell is None
    with pytest.raises(Refusal) as refused:
        reopen_for_engine(run.state, ReopenForEngine(id=uuid4(), cells=(before.crank_cell,), why=why))
    assert refused.value.code == "nothing_to_redo", "it is open already"


# ---- what a run says to the engine -----------------------------------------------------------------------------------


@pytest.mark.parametrize("name", NAMES)
def test_every_procedure_takes_its_joint_along_the_ladder_from_where_it_begins_to_where_it_leaves(name: str) -> None:
    run = PaperRun(name)
    run.play()
    procedure, events = run.state.definition.procedure, run.events
    rungs = LADDERS[procedure.applies_to.joint]
    seen: list[Condition | None] = []
    for k in range(1, len(events) + 1, max(1, len(events) // 5)):
        here = on_engine(UUID(int=1), fold(run.state.definition, events[:k]))
        seen.append(here.condition)
        assert here.condition is None or here.condition in rungs
        assert here.open
        assert set(here.on_studs) <= set(here.bound) <= set(here.drawn)
        assert not (here.under_pressure and not here.tools_on), "pressure without a tool is no pressure"
    assert seen[0] == procedure.begins
    closed = on_engine(UUID(int=1), replace(run.state, status="closed", closed_at=run.now))
    assert closed.condition == procedure.leaves
    assert not closed.under_pressure
    assert closed.on_studs == ()
    asked = follow_ups(UUID(int=1), replace(run.state, status="closed", closed_at=run.now)).asked
    assert all((one.due_at is None) != (one.due_h is None) for one in asked)
    assert follow_ups(UUID(int=1), run.state).asked == (), "an open run asks for nothing yet"


@pytest.mark.parametrize(
    "name", ["tarnholt-7l34-head-tighten", "tarnholt-7l34-rod-loosen", "tarnholt-7l34-main-tighten"]
)
def test_pressure_stands_from_the_first_figure_of_the_gauge_until_zero_is_proved(name: str) -> None:
    run = PaperRun(name)
    up = next(c for c in run.state.definition.cells if c.item in ("raise", "free") and c.traits.pressure == "raises")
    zero = zero_after(run.state, up.key)
    assert zero is not None
    run.play(up.key)
    assert not on_engine(uuid4(), run.state).under_pressure
    if up.item == "free":
        run.send(TryPressure(kind="try_pressure", id=uuid4(), step=up.step, text="600", unit="bar"))
        assert on_engine(uuid4(), run.state).under_pressure, "no nut is free yet, and the oil stands at 600 bar"
    run.play(zero.key)
    assert on_engine(uuid4(), run.state).under_pressure
    run.value(zero.key, "0", "bar")
    assert not on_engine(uuid4(), run.state).under_pressure


# ---- the dossier -----------------------------------------------------------------------------------------------------


def test_a_dossier_has_a_sheet_for_every_joint_that_was_worked_on_or_should_have_been() -> None:
    engine = PaperOverhaul()
    engine.say(oc.SetScope(kind="set_scope", id=uuid4(), scope=("head-4", "main-3")))
    engine.found("open", "rod-6")
    work = PaperRun(f"{HEAD}-tighten")
    work.play("second/feeler/3")
    work.record("second/feeler/3", ev.FeelerAnswer(enters=True))
    let = ev.RuleDeparted(rule="gates-before-head", joint="liner-4", reason="In the book")
    seen = on_engine(UUID(int=4), work.state).model_copy(update={"overhaul": engine.id, "departed": (let,)})
    record = record_of(UUID(int=4), work.state, "a" * 64)
    made = dossier(engine.state, "b" * 64, engine.sheet, (seen,), {UUID(int=4): record}, {}, date(2026, 11, 28))
    by_label = {joint.label: joint for joint in made.joints}
    assert list(by_label) == ["Head 4", "Rod 6", "Main 3"]
    assert made.not_measured == ("Main 3",)
    assert by_label["Head 4"].works[0].seal is None
    assert [row.cell for row in by_label["Head 4"].exceptions] == ["second/feeler/3"]
    assert [(one.rule, one.by) for one in made.rules_let] == [("gates-before-head", "Bram Okafor")]
    assert made.exceptions == 2
    assert made.people[0].readings == len(work.state.counting)
    assert by_label["Rod 6"].by_word == "Bram Okafor: Seen"


# ---- relations -------------------------------------------------------------------------------------------------------


def test_relations_mean_the_joints_that_one_would_point_at() -> None:
    five = ground(UNIT_5)

    def meant(joint: str, kind: JointKind, of: str) -> list[str]:
        return [p.key for p in related(UNIT_5, five.by_key[joint], kind, of, five.places)]  # type: ignore[arg-type]  # one of the relations

    assert meant("rod-a3", JointKind.ROD, "same_pin") == ["rod-b3"]
    assert meant("rod-a3", JointKind.ROD, "itself") == ["rod-a3"]
    assert len(meant("rod-a3", JointKind.ROD, "same_kind")) == 9
    assert meant("rod-a3", JointKind.MAIN, "beside") == ["main-3", "main-4"]
    assert len(meant("main-3", JointKind.HEAD, "all")) == 2
    assert meant("main-3", JointKind.HEAD, "same_cylinder") == [], "a main belongs to no cylinder"
    assert meant("head-a", JointKind.LINER, "same_cylinder") == [f"liner-a{n}" for n in range(1, 6)]


# ---- the log, a page at a time ---------------------------------------------------------------------------------------


def test_the_page_of_an_engine_does_not_grow_with_its_log_and_every_line_can_be_read() -> None:
    engine = PaperOverhaul()
    for k in range(AT_FIRST + 30):
        engine.say(oc.Remark(kind="remark", id=uuid4(), words=f"Line {k}"))
    view = engine_view(engine.state, engine.sheet, engine.runs, SHELF, (), engine.now)
    assert len(view.log.lines) == AT_FIRST
    assert view.log.more
    read = [line.seq for line in view.log.lines]
    while (page := log_page(engine.state, 7, read[-1])).lines:
        assert page.more == (page.lines[-1].seq > engine.state.lines[0].seq)
        read += [line.seq for line in page.lines]
    assert read == [line.seq for line in reversed(engine.state.lines)], "each once, newest first"
    assert not log_page(engine.state, len(read)).more


def test_what_was_keyed_in_from_paper_is_read_by_itself() -> None:
    engine = PaperOverhaul()
    engine.say(oc.Remark(kind="remark", id=uuid4(), words="Here"))
    assert log_page(engine.state, 10, from_paper=True).lines == ()
