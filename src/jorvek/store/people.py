"""People, their sessions and the wrong PINs that stand against them."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

import sqlalchemy as sa
from sqlalchemy.dialects import mysql

from jorvek.core.refusal import Refusal
from jorvek.core.rights import Role
from jorvek.core.units import Quantity
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.recorded import insert_recorded, note_changed
from jorvek.store.row_locks import PEOPLE, take


@dataclass(frozen=True)
class PersonRow:
    """A person with what is needed to let them in."""

    id: UUID
    name: str
    role: Role
    pin_hash: str
    active: bool
    units: dict[Quantity, str] = field(default_factory=dict)
    language: str | None = None


@dataclass(frozen=True)
class Tries:
    """Wrong PINs that stand.

    Attributes:
        failures: how many.
        locked_until: until when the next has to wait; None where it does not.
        at: when the last was.
    """

    failures: int
    locked_until: datetime | None
    at: datetime


CountTry = Callable[[Tries], Tries]


_SESSION_PERSON = (
    sa.select(t.person)
    .select_from(t.session.join(t.person, t.session.c.person_id == t.person.c.id))
    .where(
        t.session.c.token_hash == sa.bindparam("token_hash"),
        t.session.c.expires_at > sa.bindparam("now", type_=t.UtcDateTime()),
        t.person.c.active,
    )
)


class PeopleRegister:
    """Everybody who works here or has, and who is signed in."""

    def __init__(self, database: Database) -> None:
        self.db = database

    def add_person(self, person: PersonRow, same: Callable[[str], bool]) -> None:
        """Write a person, unless the name of somebody on the register is the same.

        Raises:
            Refusal: ``name_taken``.
        """
        values = {
            "id": str(person.id),
            "name": person.name,
            "role": person.role.value,
            "pin_hash": person.pin_hash,
            "active": person.active,
        }

        def work(connection: sa.Connection) -> None:
            take(connection, {PEOPLE})
            if any(same(name) for name in connection.execute(sa.select(t.person.c.name)).scalars()):
                raise Refusal("name_taken", name=person.name)
            insert_recorded(self.db, connection, t.person, values)

        self.db.transact(work)

    def people(self) -> list[PersonRow]:
        """Return all active people by name."""
        with self.db.reading() as connection:
            query = sa.select(t.person).where(t.person.c.active).order_by(t.person.c.name, t.person.c.id)
            return [_person(row) for row in connection.execute(query)]

    def person(self, person_id: UUID) -> PersonRow:
        """Return one person.

        Raises:
            Refusal: ``no_such_person``.
        """
        with self.db.reading() as connection:
            row = connection.execute(sa.select(t.person).where(t.person.c.id == str(person_id))).first()
        if row is None:
            raise Refusal("no_such_person")
        return _person(row)

    def count_try(self, counted: Mapping[tuple[str, str], CountTry], now: datetime) -> None:
        """Count a try at a PIN before it is looked at; tries at the same moment count one after the other.

        Args:
            counted: by whose PIN and from where, what says how many tries stand after one more; it may refuse, and then
                nothing is counted.
            now: server time.

        Raises:
            Refusal: from ``counted``.
        """
        table = t.pin_try.c

        def work(connection: sa.Connection) -> None:
            for (person, address), count in sorted(counted.items()):
                mine = sa.and_(table.person_id == person, table.address == address)
                fresh = {"person_id": person, "address": address, "failures": 0, "at": now}
                # This row is written first, so that simultaneous requests queue here and cannot deadlock later.
                connection.execute(mysql.insert(t.pin_try).values(fresh).on_duplicate_key_update(person_id=person))
                row = connection.execute(sa.select(t.pin_try).where(mine).with_for_update()).one()
                after = count(Tries(row.failures, row.locked_until, row.at))
                values = {"failures": after.failures, "locked_until": after.locked_until, "at": after.at}
                connection.execute(t.pin_try.update().where(mine).values(values))

        self.db.transact(work)

    def forget_tries(self, person: str, address: str, shared: str) -> None:
        """Forget the tries at a person's PIN from one address: it was right, and that one was no wrong one.

        Args:
            person: whose PIN.
            address: where it was given.
            shared: what all tries from the address are counted under, whoever's PIN: this one is taken back there, and
                whatever wait it has brought about. Whoever waited for an earlier one had done so before.
        """
        table = t.pin_try.c
        fewer = {"failures": sa.func.greatest(table.failures - 1, 0), "locked_until": None}

        def work(connection: sa.Connection) -> None:
            connection.execute(t.pin_try.delete().where(table.person_id == person, table.address == address))
            all_from_there = t.pin_try.update().where(table.person_id == shared, table.address == address)
            connection.execute(all_from_there.values(fewer))

        self.db.transact(work)

    def change_person(
        self, person_id: UUID, values: dict[str, object], demand: Callable[[list[PersonRow]], None]
    ) -> None:
        """Change a person, and end all their sessions: who they are now has to be shown anew.

        Args:
            person_id: who.
            values: columns that change.
            demand: refuses by all people on the register, active or not; asked under the lock.

        Raises:
            Refusal: from ``demand``.
        """

        def work(connection: sa.Connection) -> None:
            take(connection, {PEOPLE})
            demand([_person(row) for row in connection.execute(sa.select(t.person).order_by(t.person.c.name))])
            connection.execute(t.person.update().where(t.person.c.id == str(person_id)).values(values))
            connection.execute(t.session.delete().where(t.session.c.person_id == str(person_id)))
            note_changed(self.db, connection, t.person, str(person_id))

        self.db.transact(work)

    def end_sessions(self, person_id: UUID) -> int:
        """End all sessions of a person, and return how many there were."""
        mine = t.session.delete().where(t.session.c.person_id == str(person_id))
        return self.db.transact(lambda connection: connection.execute(mine).rowcount)

    def everybody(self) -> list[PersonRow]:
        """Return all people by name, those who have left, too."""
        with self.db.reading() as connection:
            return [_person(row) for row in connection.execute(sa.select(t.person).order_by(t.person.c.name))]

    def set_units(self, person_id: UUID, units: dict[Quantity, str]) -> None:
        """Remember the units that a person likes to work in."""
        text = json.dumps({quantity.value: unit for quantity, unit in units.items()}, sort_keys=True)
        self._write(t.person.update().where(t.person.c.id == str(person_id)).values(units=text))

    def set_language(self, person_id: UUID, language: str) -> None:
        """Remember the language that a person likes to read."""
        self._write(t.person.update().where(t.person.c.id == str(person_id)).values(language=language))

    def open_session(self, token_hash: str, person_id: UUID, now: datetime, expires_at: datetime) -> None:
        """Write a session."""
        values = {"token_hash": token_hash, "person_id": str(person_id), "opened_at": now, "expires_at": expires_at}
        self._write(t.session.insert().values(values))

    def session_person(self, token_hash: str, now: datetime) -> PersonRow | None:
        """Return who a session belongs to, or None when it has ended."""
        with self.db.reading() as connection:
            row = connection.execute(_SESSION_PERSON, {"token_hash": token_hash, "now": now}).first()
        return _person(row) if row else None

    def standing(self, token_hashes: Collection[str], now: datetime) -> set[str]:
        """Return which of some sessions stand: not ended, not past their time, of somebody who is still here."""
        if not token_hashes:
            return set()
        query = (
            sa.select(t.session.c.token_hash)
            .join(t.person, t.person.c.id == t.session.c.person_id)
            .where(t.session.c.token_hash.in_(token_hashes), t.session.c.expires_at > now, t.person.c.active)
        )
        with self.db.reading() as connection:
            return {row.token_hash for row in connection.execute(query)}

    def end_session(self, token_hash: str) -> None:
        """End a session."""
        self._write(t.session.delete().where(t.session.c.token_hash == token_hash))

    def _write(self, statement: sa.Executable) -> None:
        self.db.transact(lambda connection: connection.execute(statement))


def _person(row: sa.Row[tuple[object, ...]]) -> PersonRow:
    return PersonRow(
        UUID(row.id),
        row.name,
        Role(row.role),
        row.pin_hash,
        bool(row.active),
        {Quantity(name): unit for name, unit in json.loads(row.units or "{}").items()},
        row.language,
    )
