"""A cause found on one part reopens the same check on joints of the same kind, also where work is closed."""

from __future__ import annotations

from jorvek.core.procedure.steps import StepKind
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log import commands as c
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.blocked_reason import blocked_reason
from jorvek.core.run.rules.progress import demand_running


def name_cause(state: RunState, command: c.NameCause, context: c.Context) -> ev.CauseNamed:
    """Keep a cause in the run where it was found.

    Raises:
        Refusal: ``no_such_cell``, ``not_your_right``, ``run_paused``.
    """
    demand(context.actor.role, Act.RECORD)
    demand_running(state)
    if command.cell not in state.definition.by_key:
        raise Refusal("no_such_cell", cell=command.cell)
    return ev.CauseNamed(cell=command.cell, cause=command.cause)


def concerns(state: RunState, cell: str, kind: StepKind) -> bool:
    """Tell whether a run has made the check of a cell in which a joint of the same kind found a cause.

    Args:
        state: the other joint's run.
        cell: the check's cell, as in the run where the cause was found.
        kind: kind of its step there.
    """
    known = state.definition.by_key.get(cell)
    return known is not None and known.kind == kind and state.live(cell) is not None


def ask(state: RunState, command: c.AskSister) -> ev.SisterAsked:
    """Open the check here again."""
    return ev.SisterAsked(origin=command.origin, joint=command.joint, cell=command.cell, cause=command.cause)


def answer(state: RunState, command: c.AnswerSister, context: c.Context) -> ev.SisterAnswered:
    """Keep what the check showed; in an open run it must have been made again first.

    Raises:
        Refusal: ``no_such_question``, ``not_your_right``, ``not_yet``.
    """
    demand(context.actor.role, Act.RECORD)
    check = next((k for k in state.sister_checks if k.seq == command.asked and k.found_too is None), None)
    if check is None:
        raise Refusal("no_such_question", asked=command.asked)
    if state.status != "closed" and state.live(check.cell) is None:
        raise blocked_reason(state, check.cell, check.cell)
    return ev.SisterAnswered(asked=command.asked, found_too=command.found_too, words=command.words)
