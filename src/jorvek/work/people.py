"""People, PINs and sessions."""

from __future__ import annotations

import hashlib
import re
import secrets
import unicodedata
from datetime import datetime, timedelta
from typing import Final, TypeAlias
from uuid import UUID, uuid4

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.run.log.events import Person
from jorvek.core.units import Quantity
from jorvek.store.registers import PersonRow
from jorvek.work.workshop import Workshop

Member: TypeAlias = PersonRow
"""A person on the register, with what they like."""

SESSION_LIFE = timedelta(hours=14)
_TRIES_BEFORE_DELAY = 5
_FIRST_DELAY_S = 30
_LONGEST_DELAY_S = 900
_PIN = re.compile(r"[0-9]{6}")
_NAME = re.compile(r"\S(.{0,78}\S)?")
_hasher = PasswordHasher()


def add_person(workshop: Workshop, name: str, role: Role, pin: str) -> UUID:
    """Put a person on the register.

    Raises:
        Refusal: ``pin_form`` unless the PIN has six digits; ``name_form``; ``name_taken``, by a name
            that differs only in capitals, too: on a record the two would be one.
    """
    if not _PIN.fullmatch(pin):
        raise Refusal("pin_form")
    if not _NAME.fullmatch(name) or not name.isprintable():
        raise Refusal("name_form")
    person, folded = PersonRow(uuid4(), name, role, _hasher.hash(pin), True, 0, None), _folded(name)
    workshop.registers.add_person(person, lambda known: _folded(known) == folded)
    return person.id


def _folded(name: str) -> str:
    return unicodedata.normalize("NFKC", name).casefold()


def check_pin(workshop: Workshop, person_id: UUID, pin: str) -> PersonRow:
    """Return the person if the PIN is right.

    After five wrong ones each further one doubles a delay, up to a quarter of an hour. A try is counted
    before the PIN is looked at, because that takes a while: many at once are as many tries.

    Raises:
        Refusal: ``pin_wrong``; ``pin_delay`` with the seconds left; ``no_such_person``.
    """
    now = workshop.clock()
    person = workshop.registers.count_try(person_id, lambda one: _after_try(one, now))
    if not _right(person.pin_hash, pin):
        raise Refusal("pin_wrong")
    workshop.registers.forget_tries(person_id)
    return person


def _after_try(person: PersonRow, now: datetime) -> tuple[int, datetime | None]:
    """Return how many tries stand after one more, and until when the next has to wait."""
    if not person.active:
        raise Refusal("no_such_person")
    if person.locked_until is not None and person.locked_until > now:
        raise Refusal("pin_delay", seconds=int((person.locked_until - now).total_seconds()) + 1)
    tries = person.failures + 1
    over = tries - _TRIES_BEFORE_DELAY
    delay_s = min(_LONGEST_DELAY_S, _FIRST_DELAY_S * 2 ** min(over, 10)) if over >= 0 else 0
    return tries, now + timedelta(seconds=delay_s) if delay_s else None


def _right(pin_hash: str, pin: str) -> bool:
    try:
        return _hasher.verify(pin_hash, pin)
    except VerificationError:
        return False


def sign_in(workshop: Workshop, person_id: UUID, pin: str) -> tuple[str, PersonRow]:
    """Open a session and return its token.

    Raises:
        Refusal: as ``check_pin``.
    """
    person = check_pin(workshop, person_id, pin)
    token = secrets.token_urlsafe(32)
    workshop.registers.open_session(token_hash(token), person.id, workshop.clock() + SESSION_LIFE)
    return token, person


def who(workshop: Workshop, token: str | None) -> PersonRow | None:
    """Return whose session a token is, or None."""
    return workshop.registers.session_person(token_hash(token), workshop.clock()) if token else None


def sign_out(workshop: Workshop, token: str) -> None:
    """End a session; the tablet has nothing on it any more that nobody knows of."""
    workshop.registers.end_session(token_hash(token))
    workshop.tablets.gone(token_hash(token))


OWN_UNITS: Final[dict[Quantity, tuple[str, ...]]] = {
    Quantity.PRESSURE: ("bar", "MPa", "psi"),
    Quantity.TORQUE: ("N.m", "lbf.ft", "kgf.m"),
    Quantity.LENGTH: ("mm", "in", "thou"),
    Quantity.TEMPERATURE: ("degC", "degF"),
}
"""Units that a person may choose to work in; the record keeps what was read."""


def choose_units(workshop: Workshop, person_id: UUID, units: dict[Quantity, str]) -> PersonRow:
    """Remember the units that a person likes to work in.

    Raises:
        Refusal: ``E_UNIT`` for a unit that is not offered for its quantity.
    """
    for quantity, unit in units.items():
        allowed = OWN_UNITS.get(quantity, ())
        if unit not in allowed:
            raise Refusal("E_UNIT", unit=unit, allowed=", ".join(allowed))
    workshop.registers.set_units(person_id, units)
    return workshop.registers.person(person_id)


def as_actor(person: PersonRow) -> Person:
    """Return a person as events name them."""
    return Person(id=person.id, name=person.name, role=person.role)


def person_by_name(workshop: Workshop, name: str) -> PersonRow:
    """Return the person of that name.

    Raises:
        Refusal: ``no_such_person``.
    """
    found = next((p for p in workshop.registers.people() if p.name == name), None)
    if found is None:
        raise Refusal("no_such_person")
    return found


def token_hash(token: str) -> str:
    """Return what is stored of a session's token."""
    return hashlib.sha256(token.encode()).hexdigest()
