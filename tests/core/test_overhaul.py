"""The engine as a whole: what may happen on it, in which order, and what a wrong entry takes with it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jorvek.core.engine.layout import JointKind
from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log.fold import advance, fold
from jorvek.core.overhaul.rules.closing import held_up
from jorvek.core.overhaul.rules.joint_conditions import condition_of, ground_of, owed, shown_condition
from jorvek.core.overhaul.rules.sweep import concerned, in_sweep, not_known
from jorvek.core.overhaul.views.crank import crank_view
from jorvek.core.refusal import Refusal
from jorvek.core.run.log.events import Person
from jorvek.core.run.views.on_engine import Carried, PartOut
from jorvek.core.sheet.access import standing_together
from tests.core.engines import UNIT_5
from tests.core.overhauled import LIO, PaperOverhaul
from tests.core.paper_run import BRAM, INES, TAM

ALL = (
    "starting_air", "remote_start", "generator_breaker", "turning_gear", "cocks", "fuel", "prelube", "coolant",
    "backflow", "signs", "gas", "valve_gear", "air_springs",
)  # fmt: skip


def no(act: Callable[[], object]) -> str:
    """The code by which an act is refused."""
    with pytest.raises(Refusal) as refused:
        act()
    return refused.value.code


# ---- how the joints stand --------------------------------------------------------------------------------------------


def test_a_run_speaks_for_its_joint_from_its_start_on_and_a_later_word_speaks_after_it() -> None:
    engine = PaperOverhaul()
    assert condition_of(engine.state, "head-4", []) == "closed_up"
    run = engine.begun("head-4")
    assert no(lambda: engine.found("open", "head-4")) == "joint_taken", "while somebody works on it the run speaks"
    run = engine.becomes(run, open=False, condition="open")
    assert condition_of(engine.state, "head-4", [run]) == "open", "the word before the run does not count any more"
    engine.found("landed", "head-4")
    assert condition_of(engine.state, "head-4", [run]) == "landed", "somebody put it back without the tablet"
    later = engine.begun("head-4", begins="landed", leaves="tight", purpose="tighten")
    later = engine.becomes(later, open=False, condition="tight")
    assert condition_of(engine.state, "head-4", [later, run]) == "tight"


def test_a_wrong_word_is_struck_and_the_one_before_it_stands_again() -> None:
    engine = PaperOverhaul()
    wrong = engine.found("open", "main-3")
    assert condition_of(engine.state, "main-3", []) == "open"
    engine.say(oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=wrong, words="It was main 5"))
    assert condition_of(engine.state, "main-3", []) == "closed_up"
    assert engine.state.line(wrong) is not None, "the struck entry stays to be read"
    assert no(lambda: engine.say(oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=wrong, words="Again"))) == (
        "not_to_be_struck"
    )


def test_only_a_lead_hand_says_how_joints_stand_and_only_what_the_ladder_knows() -> None:
    engine = PaperOverhaul()
    said = oc.DeclareConditions(kind="declare_conditions", id=uuid4(), found={"head-1": "open"}, words="Off")
    assert no(lambda: engine.say(said, LIO)) == "not_your_right"
    assert no(lambda: engine.found("tight", "liner-1")) == "no_such_condition"
    assert no(lambda: engine.found("open", "head-9")) == "no_such_joint"


def test_runs_of_an_earlier_overhaul_say_nothing_of_this_one() -> None:
    engine = PaperOverhaul(as_it_ran=False)
    engine.begun("main-3", overhaul=uuid4(), open=False, condition="closed_up")
    assert ground_of(engine.state, engine.sheet, engine.runs).stand("main-3").may_be == frozenset()


# ---- isolations ------------------------------------------------------------------------------------------------------


def test_a_point_is_isolated_once_and_given_back_in_the_sheets_order_when_nothing_relies_on_it() -> None:
    engine = PaperOverhaul(small=True)
    engine.isolate(*ALL)
    assert no(lambda: engine.isolate("fuel")) == "isolated_already"

    def give(point: str) -> oc.RestorePoint:
        return oc.RestorePoint.model_validate({"kind": "restore_point", "id": uuid4(), "point": point})

    assert no(lambda: engine.say(give("starting_air"))) == "restored_before_its_turn"
    for point in engine.sheet.restore:
        if point in engine.state.isolations:
            engine.say(give(point))
    assert not engine.state.isolations
    assert engine.state.lines[-1].data.model_dump()["point"] == "signs", "the signs come off last of all"


@pytest.mark.parametrize("what", ["joint", "run", "person", "lock", "unknown"])
def test_whatever_relies_on_the_isolations_keeps_them(what: str) -> None:
    engine = PaperOverhaul(as_it_ran=what != "unknown")
    engine.isolate("coolant", "turning_gear")
    match what:
        case "joint":
            engine.found("open", "head-5")
        case "run":
            engine.begun("head-5")
        case "person":
            engine.enter()
        case "lock":
            engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
        case _:
            pass
    give = oc.RestorePoint(kind="restore_point", id=uuid4(), point="coolant")
    assert no(lambda: engine.say(give)) == "isolation_relied_on"


def test_a_mechanic_neither_isolates_nor_gives_back_and_what_nobody_shuts_is_no_point() -> None:
    engine = PaperOverhaul()
    fuel = oc.Isolate(kind="isolate", id=uuid4(), point="fuel")
    assert no(lambda: engine.say(fuel, LIO)) == "not_your_point"
    assert no(lambda: engine.isolate("barred")) == "no_such_point", "barring through is seen to, not shut"


def test_an_isolation_is_lifted_for_a_named_test_with_everybody_out_and_put_back() -> None:
    engine = PaperOverhaul()
    engine.isolate(*ALL)

    def lift(*points: str) -> oc.LiftForTest:
        return oc.LiftForTest.model_validate(
            {"kind": "lift_for_test", "id": uuid4(), "points": points, "test": "Prelube", "guards": "Tam at the door"}
        )

    assert no(lambda: engine.say(lift("starting_air"))) == "never_lifted", "what could start the engine never is"
    inside = engine.enter()
    assert no(lambda: engine.say(lift("prelube"))) == "person_inside"
    engine.out(inside)
    lifted = engine.say(lift("prelube", "turning_gear"))
    assert engine.state.in_force("prelube") is None
    assert engine.state.in_force("fuel") is not None
    assert no(engine.enter) == "gear_not_locked"
    assert no(lambda: engine.say(lift("coolant"))) == "test_under_way"
    engine.say(oc.PutBackAfterTest(kind="put_back_after_test", id=uuid4(), lifted=lifted))
    assert engine.state.in_force("prelube") is not None
    assert not engine.state.tests


def test_a_test_waits_while_a_tool_is_under_pressure() -> None:
    engine = PaperOverhaul()
    engine.isolate("prelube")
    engine.begun("head-4", under_pressure=True)
    lift = oc.LiftForTest(kind="lift_for_test", id=uuid4(), points=("prelube",), test="Prelube", guards="Tam")
    assert no(lambda: engine.say(lift)) == "sweep_blocked"


# ---- people inside ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("oxygen", "gas", "code"),
    [(19.4, 0.0, "air_not_good"), (23.6, 0.0, "air_not_good"), (20.9, 10.0, "gas_there")],
)
def test_nobody_goes_into_bad_air(oxygen: float, gas: float, code: str) -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    assert no(lambda: engine.enter(oxygen_pct=oxygen, gas_pct=gas)) == code


def test_at_the_limits_the_air_is_good() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    for oxygen, gas in ((19.5, 9.9), (23.5, 0.0)):
        entered = engine.enter(oxygen_pct=oxygen, gas_pct=gas)
        engine.out(entered)
    assert not engine.state.inside


def test_one_is_inside_once_and_comes_out_by_name() -> None:
    engine = PaperOverhaul()
    assert no(engine.enter) == "gear_not_locked"
    engine.isolate("turning_gear")
    lio, tam = engine.enter(), engine.enter(TAM)
    assert no(engine.enter) == "inside_already"
    engine.out(lio)
    assert [i.person.name for i in engine.state.inside] == ["Tam Pereira"], "a forgotten name is not cleared by others"
    assert no(lambda: engine.out(lio)) == "no_such_entry"
    engine.out(tam)


def test_anothers_lock_comes_off_only_by_a_lead_hand_with_a_word_and_never_while_they_are_inside() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    hung = engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)

    def off(words: str | None) -> oc.TakeLockOff:
        return oc.TakeLockOff(kind="take_lock_off", id=uuid4(), hung=hung, words=words)

    assert no(lambda: engine.say(off("Gone home"), TAM)) == "anothers_lock"
    assert no(lambda: engine.say(off(None))) == "anothers_lock"
    entered = engine.enter()
    assert no(lambda: engine.say(off("Gone home"))) == "person_inside"
    engine.out(entered)
    engine.say(off("Gone home, asked by telephone"))
    assert not engine.state.locks


# ---- the crank -------------------------------------------------------------------------------------------------------


JACK = PartOut(id="part", kind="cap_jack", called="jack")


def test_the_crank_stays_while_anybody_is_inside_or_anything_is_under_pressure_or_in_its_way() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    entered = engine.enter()
    assert no(engine.move) == "sweep_blocked"
    engine.out(entered)
    run = engine.begun("main-3", under_pressure=True, tools_on=True)
    assert [o.code for o in in_sweep(engine.state, engine.sheet, engine.runs, ())] == ["under_pressure"]
    assert no(engine.move) == "sweep_blocked"
    run = engine.becomes(
        run, under_pressure=False, tools_on=False, in_sweep=(PartOut(id="part", kind="cap_jack", called="jack"),)
    )
    assert no(engine.move) == "sweep_blocked"
    engine.becomes(run, in_sweep=())
    assert no(engine.move) == "sweep_blocked", "the log says that the turning gear is locked"
    lifted = engine.lift("turning_gear")
    assert no(engine.enter) == "gear_not_locked"
    engine.move()
    engine.back(lifted)
    assert engine.state.crank is not None
    assert engine.state.crank.angle_deg == 90.0


def test_a_tool_at_rest_on_a_head_stays_by_a_lead_hands_word_and_on_a_main_never() -> None:
    engine = PaperOverhaul()
    run = engine.begun("head-4", tools_on=True)
    assert no(engine.move) == "sweep_blocked"
    assert no(lambda: engine.move(by=LIO, stays="Above the deck")) == "not_your_right"
    engine.move(stays="Above the deck")
    engine.becomes(run, open=False)
    engine.begun("main-3", tools_on=True)
    assert no(lambda: engine.move(stays="Small one")) == "sweep_blocked"
    engine.runs = ()
    engine.begun("head-4", tools_on=True, under_pressure=True)
    assert no(lambda: engine.move(stays="Above the deck")) == "sweep_blocked", "under pressure no word helps"


@pytest.mark.parametrize(("kind", "stays"), [("rod", True), ("piston", True), ("cap", True), ("head", False)])
def test_what_hangs_on_the_crank_keeps_it_and_a_head_on_the_hook_does_not(kind: str, stays: bool) -> None:
    engine = PaperOverhaul()
    engine.begun("rod-5", hung=(PartOut(id="part", kind=kind, called=kind),))
    codes = [o.code for o in in_sweep(engine.state, engine.sheet, engine.runs, ())]
    assert codes == (["hung"] if stays else [])


def test_what_closed_work_left_standing_for_the_next_keeps_the_crank() -> None:
    """A bearing is undone and its cap hangs on the jack: closing that run takes no jack away."""
    engine = PaperOverhaul()
    undone = engine.begun("main-3", open=False, condition="open", leaves="open", purpose="loosen", in_sweep=(JACK,))
    assert [(o.code, o.what) for o in in_sweep(engine.state, engine.sheet, engine.runs, ())] == [("in_sweep", "jack")]
    back = engine.begun("main-3", purpose="tighten")
    assert not in_sweep(engine.state, engine.sheet, engine.runs, ()), "the next run on the joint speaks for it"
    engine.runs = tuple(run for run in engine.runs if run.run_id != back.run_id)
    assert in_sweep(engine.state, engine.sheet, engine.runs, ())
    engine.found("open", "main-3")
    assert not in_sweep(engine.state, engine.sheet, engine.runs, ()), "somebody has looked since, and says so by name"
    assert undone.run_id == engine.runs[0].run_id


def test_a_liner_that_was_fitted_is_clamped_or_under_its_head_before_the_crank_moves() -> None:
    engine = PaperOverhaul()
    engine.found("open", "head-4")
    run = engine.begun("liner-4", open=False, begins="open", leaves="landed", condition="landed", purpose="tighten")
    assert [o.code for o in in_sweep(engine.state, engine.sheet, engine.runs, ())] == ["liner_loose"]
    engine.becomes(run, left_on=(PartOut(id="part", kind="clamp", called="clamp"),))
    assert not in_sweep(engine.state, engine.sheet, engine.runs, ())
    engine.becomes(run, left_on=())
    engine.found("landed", "head-4")
    assert not in_sweep(engine.state, engine.sheet, engine.runs, ())


def test_a_liner_of_a_vee_engine_lies_under_the_head_of_its_bank() -> None:
    """Heads that cover a bank have no number of their own liner; what a joint is called says nothing about it."""
    engine = PaperOverhaul(UNIT_5)
    engine.found("open", "head-a")
    engine.begun("liner-a3", open=False, begins="open", leaves="landed", condition="landed", purpose="tighten")
    assert [o.code for o in in_sweep(engine.state, engine.sheet, engine.runs, ())] == ["liner_loose"]
    engine.found("landed", "head-a")
    assert not in_sweep(engine.state, engine.sheet, engine.runs, ())


def test_what_a_call_allows_in_its_own_sweep_is_its_own_affair_and_nobody_elses() -> None:
    engine = PaperOverhaul()
    run = engine.begun("main-3", in_sweep=(PartOut(id="part", kind="tackle", called="roller"),))
    assert not in_sweep(engine.state, engine.sheet, engine.runs, (), run.run_id)
    assert in_sweep(engine.state, engine.sheet, engine.runs, (), uuid4())


def test_a_move_concerns_who_relies_on_where_the_crank_is_and_not_who_asks() -> None:
    engine = PaperOverhaul()
    mine = engine.begun("rod-1", crank_cell="bar/reached")
    other = engine.begun("rod-5", crank_cell="bar/reached")
    engine.begun("rod-6", crank_cell="bar/reached", open=False)
    assert [c.run_id for c in concerned(engine.state, engine.runs, mine.run_id)] == [other.run_id]


def test_an_angle_lies_on_the_circle_and_a_way_is_one_of_the_sheets() -> None:
    engine = PaperOverhaul()
    engine.move(719.9)
    two_stroke = engine.sheet.crank.model_copy(update={"cycle": engine.sheet.crank.turn, "ways": ("astern",)})
    engine.sheet = engine.sheet.model_copy(update={"crank": two_stroke})
    assert no(lambda: engine.move(300.0)) == "way_not_allowed"
    assert no(lambda: engine.move(300.0, way="astern")) == "E_RANGE"


def test_a_wrong_angle_is_struck_and_a_lost_one_is_not_known() -> None:
    engine = PaperOverhaul()
    found = oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=63.0, proof="Both rockers of 1 loose")
    first = engine.say(found)
    wrong = engine.move(120.0)
    engine.say(oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=wrong, words="Misread"))
    assert engine.state.crank is not None
    assert (engine.state.crank.seq, engine.state.crank.angle_deg) == (first, 63.0)
    engine.say(oc.LoseCrank(kind="lose_crank", id=uuid4(), words="Barred in the night"))
    assert engine.state.crank.angle_deg is None


# ---- debts, hours, closing -------------------------------------------------------------------------------------------


def test_a_debt_is_paid_by_the_procedure_that_it_names_on_its_own_cylinder_or_by_name() -> None:
    engine = PaperOverhaul()
    pipe = Carried(cell="pipes/fuel", point="fuel", text="Fuel pipe", to="close-up")
    left = engine.begun("head-4", open=False, carried=(pipe,), condition="open")
    assert [d.text for _, d in owed(engine.state, engine.runs)] == ["Fuel pipe"]
    engine.begun("head-5", procedure="close-up", open=False)
    assert list(owed(engine.state, engine.runs)), "another cylinder's closing pays nothing here"
    paying = engine.begun("head-4", procedure="close-up")
    assert list(owed(engine.state, engine.runs)), "begun is not done"
    engine.becomes(paying, settled={"fuel": engine.now.isoformat()})
    assert not list(owed(engine.state, engine.runs))
    engine.becomes(paying, settled={})
    engine.say(oc.PayDebt(kind="pay_debt", id=uuid4(), run=left.run_id, cell="pipes/fuel", words="On, by hand"))
    assert not list(owed(engine.state, engine.runs))
    again = oc.PayDebt(kind="pay_debt", id=uuid4(), run=left.run_id, cell="pipes/fuel", words="Twice")
    assert no(lambda: engine.say(again)) == "nothing_owed"


def test_work_that_was_begun_before_pays_by_the_point_that_it_put_right_after_it_arose() -> None:
    """Closing up was begun, then a neighbour's pipe came off for another joint; the point ticked after that pays it."""
    engine = PaperOverhaul()
    closing = engine.begun("head-4", procedure="close-up")
    before = engine.now.isoformat()
    engine.now += timedelta(minutes=5)
    at = (engine.now + timedelta(minutes=1)).isoformat()
    pipe = Carried(cell="pipes/fuel", point="fuel", text="Fuel pipe", to="close-up", at=at)
    engine.begun("liner-4", open=False, carried=(pipe,), condition="landed")
    engine.becomes(closing, settled={"fuel": before})
    assert list(owed(engine.state, engine.runs)), "ticked before the pipe came off"
    engine.now += timedelta(minutes=5)
    engine.becomes(closing, settled={"fuel": engine.now.isoformat()})
    assert not list(owed(engine.state, engine.runs))


def test_a_main_whose_side_bolts_were_slackened_for_the_one_beside_it_is_not_closed_up() -> None:
    engine = PaperOverhaul()
    caps = Carried(
        cell="caps/next", point="next", text="Side caps", to="close", disturbed=True, slackens=JointKind.MAIN
    )
    engine.begun("main-3", carried=(caps,), condition="open")

    def shown() -> dict[str, str | None]:
        mine = list(engine.runs)
        return {key: shown_condition(engine.state, key, mine) for key in ("main-1", "main-2", "main-3", "main-4")}

    assert shown() == {"main-1": "closed_up", "main-2": "tight", "main-3": "open", "main-4": "tight"}
    ground = ground_of(engine.state, engine.sheet, engine.runs)
    assert ground.stand("main-4").may_be == {"tight"}, "work that wants it closed up waits"
    paying = engine.begun("main-3", procedure="close")
    engine.becomes(paying, settled={"next": engine.now.isoformat()})
    assert shown()["main-2"] == shown()["main-4"] == "closed_up"


def test_what_a_liner_leaves_is_paid_on_the_head_of_its_cylinder() -> None:
    engine = PaperOverhaul()
    clamps = Carried(cell="clamps/clamps", point="clamps", text="Two clamps", to="land")
    engine.begun("liner-4", open=False, carried=(clamps,), condition="landed")
    engine.begun("head-4", procedure="land", open=False)
    assert not list(owed(engine.state, engine.runs))


def test_an_overhaul_is_closed_once_and_only_when_nothing_stands_against_it() -> None:
    engine = PaperOverhaul(small=True)
    close = oc.CloseOverhaul(kind="close_overhaul", id=uuid4())
    context = oc.EngineContext(BRAM, engine.now, engine.sheet)
    assert not list(held_up(engine.state, context))
    engine.isolate("turning_gear")
    hung = engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO)
    engine.enter()
    engine.found("open", "main-3")
    why = {h.why for h in held_up(engine.state, context)}
    assert why == {"isolation", "lock", "inside", "joint_not_closed"}
    assert no(lambda: engine.say(close)) == "overhaul_not_done"
    engine.out(engine.state.inside[0].seq)
    engine.say(oc.TakeLockOff(kind="take_lock_off", id=uuid4(), hung=hung), LIO)
    engine.found("closed_up", "main-3")
    engine.say(oc.RestorePoint(kind="restore_point", id=uuid4(), point="turning_gear"))
    assert no(lambda: engine.say(close, LIO)) == "not_your_right"
    engine.say(close)
    assert no(lambda: engine.say(oc.Remark(kind="remark", id=uuid4(), words="Late"))) == "overhaul_closed"


def test_an_unknown_joint_an_open_run_and_a_bad_gate_keep_it_open() -> None:
    engine = PaperOverhaul(small=True)
    engine.begun("head-4")
    engine.begun("liner-4", open=False, measured=True, gates_bad=True, condition="landed", leaves="landed")
    context = oc.EngineContext(BRAM, engine.now, engine.sheet, engine.runs)
    assert {(h.why, h.what) for h in held_up(engine.state, context)} == {("joint_open", "Head 4"), ("gate", "Liner 4")}
    bare = PaperOverhaul(as_it_ran=False, small=True)
    context = oc.EngineContext(BRAM, bare.now, bare.sheet)
    assert all(h.why == "joint_not_closed" for h in held_up(bare.state, context))


def test_an_engine_is_handed_over_by_two_signatures() -> None:
    engine = PaperOverhaul()

    def hand(to: Person) -> oc.HandOverEngine:
        return oc.HandOverEngine(kind="hand_over_engine", id=uuid4(), to=to.id)

    assert no(lambda: engine.say(hand(LIO))) == "pin_needed"
    assert no(lambda: engine.say(hand(LIO), pin_confirmed=True)) == "pin_needed"
    assert no(lambda: engine.say(hand(BRAM), pin_confirmed=True, other_pin_confirmed=True)) == "already_yours"
    engine.say(hand(LIO), pin_confirmed=True, other_pin_confirmed=True)


def test_a_trainee_goes_in_and_out_and_moves_nothing() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    assert no(lambda: engine.move(by=TAM)) == "not_your_right"
    engine.say(oc.LoseCrank(kind="lose_crank", id=uuid4(), words="Somebody turned it"), TAM)


def test_what_one_entered_only_they_or_a_lead_hand_strikes() -> None:
    engine = PaperOverhaul()
    found = engine.say(oc.FindCrank(kind="find_crank", id=uuid4(), angle_deg=1.0, proof="Mark"), LIO)
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=found, words="Wrong mark")
    assert no(lambda: engine.say(strike, TAM)) == "not_your_right"
    engine.say(strike, INES)
    assert engine.state.crank is None


def test_an_entry_that_another_has_ended_is_not_struck_under_it() -> None:
    engine = PaperOverhaul()
    engine.isolate("turning_gear")
    entered = engine.enter()
    engine.out(entered)
    strike = oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=entered, words="Never was")
    assert no(lambda: engine.say(strike)) == "not_to_be_struck"


# ---- the log ---------------------------------------------------------------------------------------------------------


def _acts(engine: PaperOverhaul) -> list[Callable[[], object]]:
    return [
        lambda: engine.isolate("turning_gear"),
        lambda: engine.isolate("prelube"),
        engine.enter,
        lambda: engine.enter(TAM),
        lambda: engine.out(engine.state.inside[0].seq),
        engine.move,
        lambda: engine.found("open", "main-3"),
        lambda: engine.found("closed_up", "main-3"),
        lambda: engine.say(oc.HangLock(kind="hang_lock", id=uuid4(), lock="7"), LIO),
        lambda: engine.say(
            oc.StrikeEntry(kind="strike_entry", id=uuid4(), entry=max(2, engine.state.seq - 1), words="Wrong")
        ),
        lambda: engine.say(
            oc.LiftForTest(kind="lift_for_test", id=uuid4(), points=("prelube",), test="Oil", guards="Tam")
        ),
        lambda: engine.say(
            oc.PutBackAfterTest(kind="put_back_after_test", id=uuid4(), lifted=engine.state.tests[0].seq)
        ),
        lambda: engine.say(oc.RestorePoint(kind="restore_point", id=uuid4(), point="turning_gear")),
    ]


@given(st.lists(st.integers(0, 12), max_size=40))
def test_whatever_is_done_in_whatever_order_nobody_is_inside_a_crankcase_that_can_turn(order: list[int]) -> None:
    engine = PaperOverhaul()
    acts = _acts(engine)
    for k in order:
        before, moves = engine.state, len(engine.events)
        try:
            acts[k]()
        except (Refusal, IndexError):
            assert engine.state == before, "a refused act leaves nothing behind"
            continue
        moved = len(engine.events) > moves and engine.events[-1].data.kind == "crank_moved"
        assert not (moved and before.inside)
        if engine.state.inside:
            assert engine.state.in_force("turning_gear") is not None
            assert not engine.state.tests
    assert fold(engine.events) == engine.state, "a log adds up to one state, whenever it is folded"


@given(st.lists(st.tuples(st.sampled_from(["main-2", "main-3", "main-4"]), st.booleans()), max_size=12))
def test_a_persons_word_is_taken_as_seen_and_a_forbidden_pair_is_said(order: list[tuple[str, bool]]) -> None:
    """What is so is so: nobody argues with the metal, but what stands together as it never may bars every start."""
    engine = PaperOverhaul()
    open_now: set[str] = set()
    for joint, undone in order:
        engine.found("open" if undone else "closed_up", joint)
        open_now = open_now | {joint} if undone else open_now - {joint}
    ground = ground_of(engine.state, engine.sheet, engine.runs)
    pairs = {frozenset((a, b)) for a, b, _ in standing_together(ground)}
    beside = [frozenset(("main-2", "main-3")), frozenset(("main-3", "main-4"))]
    assert pairs == {p for p in beside if p <= open_now}


def test_a_log_with_a_gap_is_no_log() -> None:
    engine = PaperOverhaul()
    engine.isolate("fuel", "gas")
    with pytest.raises(Refusal) as broken:
        fold([e for e in engine.events if e.seq != 3])
    assert broken.value.code == "log_broken"
    with pytest.raises(Refusal):
        fold(engine.events[1:])
    with pytest.raises(Refusal):
        advance(engine.state, engine.events[1])


# ---- what people say of the joints counts in the sweep --------------------------------------------------------------


def in_the_way(engine: PaperOverhaul) -> list[tuple[str, str | None]]:
    return [(o.code, o.joint) for o in in_sweep(engine.state, engine.sheet, engine.runs, ())]


def test_a_big_end_that_somebody_found_loose_keeps_the_crank() -> None:
    engine = PaperOverhaul()
    engine.found("loose", "rod-4")
    assert in_the_way(engine) == [("rod_loose", "Rod 4")]
    assert no(engine.move) == "sweep_blocked"
    engine.found("closed_up", "rod-4")
    engine.move()


def test_a_foot_that_is_off_its_pin_keeps_the_crank_while_its_piston_cannot_be_out() -> None:
    engine = PaperOverhaul()
    engine.found("open", "rod-4")
    assert in_the_way(engine) == [("rod_off", "Rod 4")], "the head is on: the piston is in"
    engine.found("open", "head-4")
    assert in_the_way(engine) == []
    engine.move(clear=["head-4"])


def test_what_a_run_left_of_a_big_end_counts_for_every_other_and_not_for_its_own_call() -> None:
    engine = PaperOverhaul()
    run = engine.begun("rod-4", condition="loose")
    assert in_the_way(engine) == [("rod_loose", "Rod 4")]
    assert not in_sweep(engine.state, engine.sheet, engine.runs, (), run.run_id), "its own document says when it turns"


def test_what_nobody_has_looked_at_is_named_and_never_clear() -> None:
    engine = PaperOverhaul(as_it_ran=False)
    unknown = not_known(engine.state, engine.sheet, engine.runs)
    assert {"Rod 4", "Main 3", "Head 1"} <= set(unknown)
    engine.found("closed_up", "rod-4")
    engine.begun("main-3", condition=None)
    left = not_known(engine.state, engine.sheet, engine.runs)
    assert not {"Rod 4", "Main 3"} & set(left), "somebody has said so, or works there"
    engine.begun("head-1", condition=None, open=False)
    assert "Head 1" in not_known(engine.state, engine.sheet, engine.runs), "closed, and nobody can tell how it was left"
    assert crank_view(engine.state, engine.sheet, engine.runs, ()).not_known == left
    assert crank_view(PaperOverhaul().state, engine.sheet, (), ()).not_known == ()
