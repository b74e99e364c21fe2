"""Whether an answer may be taken in a cell now, and the event that keeps it."""

from __future__ import annotations

from jorvek.core.procedure.cell_items import CellItem
from jorvek.core.procedure.steps import ToolIssueStep, WantedTool
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.answers import told
from jorvek.core.run.log.cells import Cell, InputType, Rule
from jorvek.core.run.log.commands import Conflict, Context, RecordReading
from jorvek.core.run.log.state import Attempt, RunState
from jorvek.core.run.rules.ageing import demand_fresh
from jorvek.core.run.rules.asked_first import demand_no_slip, question, reason_for
from jorvek.core.run.rules.authorization import Bar, barred, signing_rank, wanted_rank
from jorvek.core.run.rules.choices import used_up
from jorvek.core.run.rules.dangers import asked_again, falls_when_raised
from jorvek.core.run.rules.departures import demand_may_leave_out
from jorvek.core.run.rules.engine_effects import demand_not_relied_on, left_to_engine
from jorvek.core.run.rules.judge import judge
from jorvek.core.run.rules.metal import demand_metal_ready
from jorvek.core.run.rules.on_instrument import oil_per_shown
from jorvek.core.run.rules.plausibility import demand_likely, demand_sums_possible
from jorvek.core.run.rules.progress import DebtKind, debts, demand_open
from jorvek.core.run.rules.rejected import demand_not_rejected
from jorvek.core.tools import Tool, check_tool


def record(state: RunState, command: RecordReading, context: Context) -> ev.Recorded:
    """Take an answer in a cell, judged, with the tool and all that was known of it.

    Raises:
        Refusal: naming what stands against it; ``Conflict`` when another person was first.
    """
    known = state.definition.by_key.get(command.cell)
    if known is not None and known.ask is InputType.SIGNATURE:
        _check_signer(state, known, context)
    else:
        demand(context.actor.role, Act.RECORD)
    _check_attempt(state, command)
    cell = demand_open(state, command.cell)
    if isinstance(command.answer, ev.LeftOutAnswer):
        demand_may_leave_out(state, cell, context.actor)
        left_out = ev.Judgement(verdict=ev.Verdict.LEFT_OUT)
        return ev.Recorded(cell=cell.key, attempt=command.attempt, answer=command.answer, judgement=left_out)
    if isinstance(command.answer, ev.LeftToEngineAnswer):
        judgement = left_to_engine(state, cell, context.relied_on)
        return ev.Recorded(cell=cell.key, attempt=command.attempt, answer=command.answer, judgement=judgement)
    demand_not_relied_on(state, cell, context.relied_on)
    _check_named_person(state, cell, context)
    demand_fresh(state, cell, context.now)
    demand_metal_ready(state, cell)
    demand_not_rejected(cell, command.answer, context.rejected)
    if cell.traits.crank == "turns":
        _check_free_to_bar(state, context)
    tool = state.tool(cell.tool_role)
    if isinstance(command.answer, ev.ToolAnswer) and cell.ask is InputType.TOOL:
        tool = _drawn_tool(state, cell, command.answer, context)
    elif tool is not None and cell.ask is InputType.VALUE:
        _check_still_calibrated(state, cell, tool, context)
    judgement = judge(state, cell, command.answer, context.now, context.stood)
    demand_likely(state, cell, command.answer, judgement.corrected)
    judgement = _before_it_is_loaded(state, cell, _asked(state, cell, command.answer, judgement))
    if cell.ask is InputType.VALUE:
        at = (cell.key, command.attempt, state.seq + 1, context.now, context.actor)
        demand_sums_possible(state, Attempt(*at, command.answer, judgement, tool, "typed"))
    falls = falls_when_raised(state, cell)
    return ev.Recorded(
        cell=cell.key, attempt=command.attempt, answer=command.answer, judgement=judgement, tool=tool, falls=falls
    )


def _before_it_is_loaded(state: RunState, cell: Cell, judgement: ev.Judgement) -> ev.Judgement:
    """Name a fastener that was used as often as it may be where it is first handled, not after all were pulled."""
    if cell.fastener is None or judgement.verdict is not ev.Verdict.NOTED or cell.traits.evidence is not None:
        return judgement
    if state.definition.procedure.applies_to.purpose != "tighten" or state.definition.renews(cell):
        return judgement
    mine = [c for c in state.definition.cells_of[cell.fastener] if not state.definition.renews(c)]
    # Where its free length is judged, that says so; a temperature says nothing of the fastener.
    if any(c.rule is Rule.GROWTH for c in mine):
        return judgement
    first = next((c for c in mine if c.quantity is None), None)
    spent = used_up(state, cell) if first is cell else None
    if spent is None:
        return judgement
    return judgement.model_copy(update={"verdict": ev.Verdict.OUT_OF_BAND, "reasons": (*judgement.reasons, spent)})


def _asked(state: RunState, cell: Cell, answer: ev.Answer, judgement: ev.Judgement) -> ev.Judgement:
    """Return the judgement of a reading that is likely, or that was asked about and stands, which it then says.

    Raises:
        Refusal: the question about an unlikely reading; ``angle_slip``.
    """
    if not isinstance(answer, ev.ValueAnswer | ev.PullAnswer | ev.TurnAnswer):
        return judgement
    demand_no_slip(state, cell, judgement)
    asked = question(state, cell, answer, judgement)
    if asked is None:
        return judgement
    if not answer.sure:
        raise asked
    return judgement.model_copy(update={"reasons": (*judgement.reasons, ev.Reason(code=reason_for(asked)))})


def _check_named_person(state: RunState, cell: Cell, context: Context) -> None:
    """Some points are confirmed only by somebody of a stated rank."""
    if barred(state, cell, context.actor.id, context.actor.role) is Bar.RANK:
        wanted = wanted_rank(state, cell)
        raise Refusal("not_your_point", role=context.actor.role.value, wanted=wanted.value if wanted else "")


def _check_free_to_bar(state: RunState, context: Context) -> None:
    """The crank is never moved while a tool sits on a stud, here or on another joint of the engine."""
    here = any(d.kind is DebtKind.TOOL_ON for d in debts(state))
    where = state.started.joint_label if here else next(iter(context.tools_on), None)
    if where is not None:
        raise Refusal("tool_on_stud", joint=where)


def _check_attempt(state: RunState, command: RecordReading) -> None:
    tries = state.tries(command.cell)
    cell = state.definition.by_key.get(command.cell)
    stands = bool(tries) and tries[-1].live and not (cell is not None and asked_again(state, cell))
    if tries and (stands or command.attempt <= len(tries)):
        last = tries[-1]
        raise Conflict(command.cell, told(last.answer), last.by.name)
    if command.attempt != len(tries) + 1:
        raise Refusal("wrong_attempt", cell=command.cell, expected=len(tries) + 1, got=command.attempt)


def _wanted_tool(state: RunState, cell: Cell) -> WantedTool:
    for step in state.definition.procedure.steps:
        if isinstance(step, ToolIssueStep) and step.id == cell.step_id:
            return next(t for t in step.tools if t.role == cell.tool_role)
    raise Refusal("no_such_cell", cell=cell.key)


def _drawn_tool(state: RunState, cell: Cell, answer: ev.ToolAnswer, context: Context) -> Tool:
    tool = context.tools.get(answer.tool_id)
    if tool is None:
        raise Refusal("no_such_tool", tool=answer.tool_id)
    unfit = why_unfit(state, cell, tool)
    if unfit is not None:
        raise unfit
    if tool.out_of_date(context.today):
        if answer.override_reason is None:
            raise Refusal("tool_out_of_date", tool=tool.id, due=tool.calibration_due.isoformat())
        demand(context.actor.role, Act.OVERRIDE_TOOL)
    return tool


def why_unfit(state: RunState, cell: Cell, tool: Tool) -> Refusal | None:
    """Tell why a tool cannot do what a call asks of it, whatever its calibration; None where it can."""
    try:
        check_tool(tool, _wanted_tool(state, cell))
        demand_capable(state, cell, tool)
    except Refusal as why:
        return why
    return None


def demand_capable(state: RunState, cell: Cell, tool: Tool) -> None:
    """Refuse a pressure gauge whose own error is wider than the band of a stage that is raised on it.

    Such a stage is judged by the reading alone, so whether the gauge can tell its band at all is decided here.

    Raises:
        Refusal: ``tool_not_capable``.
    """
    if tool.class_pct is None:
        return
    for one in state.definition.cells:
        read = one.rule is Rule.SETTING and one.tool_role == cell.tool_role and one.quantity is tool.quantity
        if not read or one.target is None or one.lower is None or one.upper is None or one.what is not CellItem.RAISE:
            continue
        bound = tool.class_pct / 100.0 * tool.full_scale * oil_per_shown(state, one)
        half = max(one.target - one.lower, one.upper - one.target)
        if bound > half:
            raise Refusal("tool_not_capable", tool=tool.id, bound=round(bound, 1), half=round(half, 1))


def _check_still_calibrated(state: RunState, cell: Cell, tool: Tool, context: Context) -> None:
    """A calibration may run out between the drawing of a tool and its use."""
    drawn = next(
        (
            a
            for c in state.definition.cells
            if c.ask is InputType.TOOL and c.tool_role == cell.tool_role
            for a in (state.live(c.key),)
            if a is not None
        ),
        None,
    )
    overridden = drawn is not None and isinstance(drawn.answer, ev.ToolAnswer) and drawn.answer.override_reason
    if tool.out_of_date(context.today) and not overridden:
        raise Refusal("tool_out_of_date", tool=tool.id, due=tool.calibration_due.isoformat())


def _check_signer(state: RunState, cell: Cell, context: Context) -> None:
    bar = barred(state, cell, context.actor.id, context.actor.role)
    if bar is Bar.RANK:
        wanted = signing_rank(state, cell)
        raise Refusal("not_your_signature", role=context.actor.role.value, wanted=wanted.value if wanted else "")
    if bar is Bar.OWN_WORK:
        raise Refusal("own_work", name=context.actor.name)
    if not context.pin_confirmed:
        raise Refusal("pin_needed")
