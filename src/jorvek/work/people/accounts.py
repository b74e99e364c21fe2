"""People, PINs and sessions."""

from __future__ import annotations

import hashlib
import re
import secrets
import unicodedata
from collections import deque
from contextlib import suppress
from contextvars import ContextVar
from datetime import datetime, timedelta
from functools import partial
from itertools import pairwise
from typing import Final, TypeAlias
from uuid import UUID, uuid4

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, Role, demand
from jorvek.core.run.log.events import Person
from jorvek.core.units import Quantity
from jorvek.messages import LANGUAGES
from jorvek.store.people import PersonRow, Tries
from jorvek.work.budget import HASHING, SIGNING_IN
from jorvek.work.workshop import DatabaseAwayError, Workshop

Member: TypeAlias = PersonRow
"""A person on the register, with what they like."""

SESSION_LIFE = timedelta(hours=14)
_TRIES_BEFORE_DELAY = 5
_TRIES_FROM_ONE_ADDRESS = 20
_FORGOTTEN_AFTER = timedelta(hours=1)
_FIRST_DELAY_S = 30
_LONGEST_DELAY_S = 900
_PIN = re.compile(r"[0-9]{6}")
_NAME = re.compile(r"\S(.{0,78}\S)?")
_hasher = PasswordHasher()


def add_person(workshop: Workshop, name: str, role: Role, pin: str) -> UUID:
    """Put a person on the register.

    Raises:
        Refusal: ``pin_form`` unless the PIN has six digits; ``pin_trivial``; ``name_form``, also for letters of several
            scripts; ``name_taken``, by a name that differs only in how it is written, too: on a record the two would
            be one.
    """
    _demand_pin(pin)
    if not _NAME.fullmatch(name) or not name.isprintable() or len(_scripts(name)) > 1:
        raise Refusal("name_form")
    person, folded = PersonRow(uuid4(), name, role, _hashed(pin), True), _folded(name)
    workshop.registers.add_person(person, lambda known: _folded(known) == folded)
    return person.id


def _hashed(pin: str) -> str:
    with HASHING.passed():
        return _hasher.hash(pin)


def _demand_pin(pin: str) -> None:
    if not _PIN.fullmatch(pin):
        raise Refusal("pin_form")
    steps = {int(b) - int(a) for a, b in pairwise(pin)}
    repeats = any(pin == pin[:length] * (len(pin) // length) for length in (1, 2, 3))
    if repeats or steps in ({1}, {-1}) or pin == pin[::-1]:
        raise Refusal("pin_trivial")


_ONE_SCRIPT: Final = ({"CJK", "HIRAGANA", "KATAKANA"}, {"CJK", "HANGUL"}, {"CJK", "BOPOMOFO"})
"""Scripts that one language writes side by side."""


def _scripts(name: str) -> set[str]:
    """Return the scripts of a name's letters; those that belong together count as one."""
    found = {unicodedata.name(letter, "?").split()[0].split("-")[0] for letter in name if letter.isalpha()}
    found.discard("MODIFIER")
    together = next((group for group in _ONE_SCRIPT if found <= group), None)
    return found if together is None else {"CJK"}


_LOOKS_LIKE: Final = str.maketrans(
    # Cyrillic, then Greek letters that nobody tells from Latin ones at a metre.
    "авекмнорстухіјѕԛԝҽӏ" "αβεζηικμνορτυχω" "01",
    "abekmhopctyxijsqwel" "abeznikmvoptuxw" "ol",
)  # fmt: skip


def _folded(name: str) -> str:
    """Return a name as it looks: capitals, blanks and letters that look alike do not tell people apart."""
    plain = "".join(unicodedata.normalize("NFKC", name).casefold().split())
    return plain.translate(_LOOKS_LIKE)


calling_from: ContextVar[str] = ContextVar("calling_from", default="here")
"""Address from which somebody asks; the command line asks from here."""
_ANYBODY: Final = "*"
"""Tries from one address at anybody's PIN."""


def check_pin(workshop: Workshop, person_id: UUID, pin: str) -> PersonRow:
    """Return the person if the PIN is right.

    After five wrong ones from one address each further one doubles a delay there, up to a quarter of an hour; after
    twenty at whomever's PIN, too. From any other address the person signs in as ever: nobody is locked out for what
    others do. A try is counted before the PIN is looked at, so that nobody tries for nothing by going away; tries from
    one address are looked at one after the other, so that a right one is never in the way of another. A right one
    that could not be forgotten, because the database went away, is forgotten once it is there again.

    Raises:
        Refusal: ``pin_wrong``; ``pin_delay`` with the seconds left; ``no_such_person``; ``busy`` when too many PINs are
            looked at already: that try is counted like any other.
    """
    now, address = workshop.clock(), calling_from.get()[:60]
    person = workshop.registers.person(person_id)
    if not person.active:
        raise Refusal("no_such_person")
    with SIGNING_IN.turn(address):
        _forget_what_is_owed(workshop)
        counted = {
            (str(person_id), address): partial(_after_try, now=now, borne=_TRIES_BEFORE_DELAY),
            (_ANYBODY, address): partial(_after_try, now=now, borne=_TRIES_FROM_ONE_ADDRESS),
        }
        workshop.registers.count_try(counted, now)
        if not _right(person.pin_hash, pin):
            raise Refusal("pin_wrong")
        try:
            workshop.registers.forget_tries(str(person_id), address, _ANYBODY)
        except DatabaseAwayError:
            _OWED.append((str(person_id), address, _ANYBODY))
            raise
    return person


_OWED: Final[deque[tuple[str, str, str]]] = deque(maxlen=1000)
"""Right tries that could not be forgotten when they were made: whose, from where."""


def _forget_what_is_owed(workshop: Workshop) -> None:
    """Forget the right tries that could not be forgotten when they were made; each is taken by one request alone."""
    with suppress(IndexError):
        while True:
            owed = _OWED.popleft()
            try:
                workshop.registers.forget_tries(*owed)
            except DatabaseAwayError:
                _OWED.append(owed)
                raise


def _after_try(tries: Tries, *, now: datetime, borne: int) -> Tries:
    """Return how many tries stand after one more, and until when the next has to wait."""
    if tries.locked_until is not None and tries.locked_until > now:
        raise Refusal("pin_delay", seconds=int((tries.locked_until - now).total_seconds()) + 1)
    stand = tries.failures if now - tries.at < _FORGOTTEN_AFTER else 0
    over = stand + 1 - borne
    delay_s = min(_LONGEST_DELAY_S, _FIRST_DELAY_S * 2 ** min(over, 10)) if over >= 0 else 0
    return Tries(stand + 1, now + timedelta(seconds=delay_s) if delay_s else None, now)


def _right(pin_hash: str, pin: str) -> bool:
    with HASHING.passed():
        try:
            return _hasher.verify(pin_hash, pin)
        except VerificationError:
            return False


def sign_in(workshop: Workshop, person_id: UUID, pin: str, before: str | None = None) -> tuple[str, PersonRow]:
    """Open a session and return its token; the one that the tablet had before ends.

    Raises:
        Refusal: as ``check_pin``.
    """
    person = check_pin(workshop, person_id, pin)
    if before is not None:
        sign_out(workshop, before)
    token = secrets.token_urlsafe(32)
    now = workshop.clock()
    workshop.registers.open_session(token_hash(token), person.id, now, now + SESSION_LIFE)
    return token, person


def who(workshop: Workshop, token: str | None) -> PersonRow | None:
    """Return whose session a token is, or None."""
    return workshop.registers.session_person(token_hash(token), workshop.clock()) if token else None


def sign_out(workshop: Workshop, token: str) -> None:
    """End a session."""
    workshop.registers.end_session(token_hash(token))


def change_pin(workshop: Workshop, actor: Person, person_id: UUID, pin: str, old: str | None = None) -> None:
    """Change a PIN: one's own by the old one, another's by whoever keeps the register.

    Raises:
        Refusal: ``pin_form``, ``pin_trivial``; ``pin_wrong`` and ``pin_delay`` for the old one; those of ``_change``.
    """
    _demand_pin(pin)
    if actor.id == person_id:
        check_pin(workshop, person_id, old or "")
        workshop.registers.change_person(person_id, {"pin_hash": _hashed(pin)}, lambda _: None)
    else:
        _change(workshop, actor, person_id, {"pin_hash": _hashed(pin)})


def change_role(workshop: Workshop, actor: Person, person_id: UUID, role: Role) -> None:
    """Give a person another role; what they have done so far keeps the one they had.

    Raises:
        Refusal: those of ``_change``.
    """
    _change(workshop, actor, person_id, {"role": role.value})


def set_active(workshop: Workshop, actor: Person, person_id: UUID, *, active: bool) -> None:
    """Let a person leave, or come back; what they have done stays in their name.

    Raises:
        Refusal: those of ``_change``.
    """
    _change(workshop, actor, person_id, {"active": active})


def end_sessions(workshop: Workshop, actor: Person, person_id: UUID) -> int:
    """End all sessions of a person, wherever they are, and return how many there were.

    Raises:
        Refusal: ``not_your_right`` for another's; ``no_such_person``.
    """
    if actor.id != person_id:
        demand(actor.role, Act.KEEP_REGISTER)
    workshop.registers.person(person_id)
    return workshop.registers.end_sessions(person_id)


def _change(workshop: Workshop, actor: Person, person_id: UUID, values: dict[str, object]) -> None:
    """Change what others rely on of a person.

    Raises:
        Refusal: ``not_your_right``; ``no_such_person``; ``not_oneself`` for one's own role or leaving;
            ``chief_by_chief`` where a chief is made, or changed, by somebody else; ``last_chief``.
    """
    demand(actor.role, Act.KEEP_REGISTER)
    if actor.id == person_id:
        raise Refusal("not_oneself")

    def may(everybody: list[PersonRow]) -> None:
        person = next((one for one in everybody if one.id == person_id), None)
        if person is None:
            raise Refusal("no_such_person")
        if Role.CHIEF in (person.role, values.get("role")) and actor.role is not Role.CHIEF:
            raise Refusal("chief_by_chief")
        stays = values.get("active", person.active) and values.get("role", person.role) == Role.CHIEF
        others = any(one.active and one.role is Role.CHIEF and one.id != person_id for one in everybody)
        if person.role is Role.CHIEF and person.active and not stays and not others:
            raise Refusal("last_chief")

    workshop.registers.change_person(person_id, values, may)


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


def choose_language(workshop: Workshop, person_id: UUID, language: str) -> PersonRow:
    """Remember the language that a person likes to read.

    Raises:
        Refusal: ``no_such_choice`` for one that has no catalogue.
    """
    if language not in LANGUAGES:
        raise Refusal("no_such_choice", got=language, allowed=", ".join(LANGUAGES))
    workshop.registers.set_language(person_id, language)
    return workshop.registers.person(person_id)


def as_actor(person: PersonRow) -> Person:
    """Return a person as events name them."""
    return Person(id=person.id, name=person.name, role=person.role)


def person_by_name(workshop: Workshop, name: str) -> PersonRow:
    """Return the person of that name.

    Raises:
        Refusal: ``no_such_person``.
    """
    found = next((p for p in workshop.registers.everybody() if p.name == name), None)
    if found is None:
        raise Refusal("no_such_person")
    return found


def token_hash(token: str) -> str:
    """Return what is stored of a session's token."""
    return hashlib.sha256(token.encode()).hexdigest()
