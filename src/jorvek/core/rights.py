"""Who may do what."""

from __future__ import annotations

from enum import StrEnum
from typing import Final

from jorvek.core.refusal import Refusal


class Role(StrEnum):
    """Roles of people; one each."""

    TRAINEE = "trainee"
    MECHANIC = "mechanic"
    LEAD_HAND = "lead_hand"
    CHIEF = "chief"
    AUTHOR = "author"
    KEEPER = "keeper"


class Act(StrEnum):
    """Acts that need a right."""

    START_RUN = "start_run"
    RECORD = "record"
    ACCEPT = "accept"
    OVERRIDE_TOOL = "override_tool"
    CLOSE_RUN = "close_run"
    LEAD_OVERHAUL = "lead_overhaul"
    CLOSE_OVERHAUL = "close_overhaul"
    IMPORT_PROCEDURE = "import_procedure"
    APPROVE_PROCEDURE = "approve_procedure"
    KEEP_REGISTER = "keep_register"


_HANDS = frozenset({Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF})
_LEADS = frozenset({Role.LEAD_HAND, Role.CHIEF})

RIGHTS: Final[dict[Act, frozenset[Role]]] = {
    Act.START_RUN: _HANDS,
    Act.RECORD: _HANDS | {Role.TRAINEE},
    Act.ACCEPT: _LEADS,
    Act.OVERRIDE_TOOL: _LEADS,
    Act.CLOSE_RUN: _LEADS,
    Act.LEAD_OVERHAUL: _LEADS,
    Act.CLOSE_OVERHAUL: frozenset({Role.CHIEF}),
    Act.IMPORT_PROCEDURE: frozenset({Role.AUTHOR, Role.CHIEF}),
    Act.APPROVE_PROCEDURE: frozenset({Role.CHIEF}),
    Act.KEEP_REGISTER: frozenset({Role.KEEPER, Role.CHIEF}),
}

_RANK: Final = {Role.MECHANIC: 1, Role.LEAD_HAND: 2, Role.CHIEF: 3}


def may(role: Role, act: Act) -> bool:
    """Tell whether a role has a right."""
    return role in RIGHTS[act]


_ASKED: Final = (Role.AUTHOR, Role.KEEPER, Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF)


def lowest(act: Act) -> Role:
    """Return the role that one asks for an act: whose task it is, else the lowest rank that may do it."""
    return next(role for role in _ASKED if role in RIGHTS[act])


def demand(role: Role, act: Act) -> None:
    """Refuse an act outside the role's rights.

    Raises:
        Refusal: ``not_your_right``, naming the roles that may.
    """
    if not may(role, act):
        allowed = ", ".join(sorted(RIGHTS[act]))
        raise Refusal("not_your_right", act=act.value, role=role.value, allowed=allowed)


def demand_may_name(role: Role, writer: Role, name: str) -> None:
    """Refuse to key in what somebody wrote on paper who stands above whoever keys it in.

    What a mechanic or a trainee wrote anybody may key in who records; with the name of a lead hand or a chief goes
    their authority, and that is lent to nobody below.

    Raises:
        Refusal: ``not_your_right``; ``no_writer`` for somebody who records nothing; ``writer_above``.
    """
    demand(role, Act.RECORD)
    if not may(writer, Act.RECORD):
        raise Refusal("no_writer", name=name, role=writer.value)
    if writer in _LEADS and not may_sign_as(role, writer):
        raise Refusal("writer_above", name=name, role=writer.value)


def may_sign_as(role: Role, wanted: Role) -> bool:
    """Tell whether a role may sign where ``wanted`` is asked: that rank or above."""
    return _RANK.get(role, 0) >= _RANK.get(wanted, 99)
