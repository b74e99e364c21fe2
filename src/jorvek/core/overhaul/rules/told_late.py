"""What was told later is looked at by somebody else: the thing itself, by name and PIN."""

from __future__ import annotations

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.overhaul.log import events as ov
from jorvek.core.overhaul.log.state import Inside, Overhaul
from jorvek.core.overhaul.rules.isolating import demand_rank
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand, may
from jorvek.core.run.log.events import Person


def look_at_told(state: Overhaul, command: oc.LookAtTold, context: oc.EngineContext) -> ov.ToldConfirmed:
    """Take what somebody entitled has found, who has looked at the thing itself and is not who told it here.

    Raises:
        Refusal: ``nothing_told``, ``told_by_oneself``, ``pin_needed``; ``not_your_right``, ``not_your_point``.
    """
    line = next((one for one in state.told if one.seq == command.entry), None)
    if line is None:
        raise Refusal("nothing_told", entry=command.entry)
    if context.actor.id == line.by.id:
        raise Refusal("told_by_oneself", name=context.actor.name)
    match line.data:
        case ov.Isolated() | ov.Restored():
            demand_rank(context.sheet, line.data.point, context.actor)
        case ov.LockOff() | ov.ConditionsDeclared():
            demand(context.actor.role, Act.LEAD_OVERHAUL)
        case _:
            demand(context.actor.role, Act.START_RUN)
    if isinstance(line.data, ov.Left):
        inside = next((one for one in state.inside if one.seq == line.data.entered), None)
        if inside is not None:
            demand_takes_off(inside, context.actor)
    if not context.pin_confirmed:
        raise Refusal("pin_needed")
    return ov.ToldConfirmed(entry=command.entry, words=command.words)


def demand_takes_off(inside: Inside, actor: Person) -> None:
    """Refuse to take somebody off the board, but to themselves, who attends them, and a chief.

    Raises:
        Refusal: ``not_theirs_to_take_off``.
    """
    own = (inside.person.id, inside.attended_by.id if inside.attended_by else None)
    if actor.id not in own and not may(actor.role, Act.CLOSE_OVERHAUL):
        raise Refusal("not_theirs_to_take_off", name=inside.person.name, attendant=inside.attendant)
