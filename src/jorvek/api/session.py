"""Who is at the tablet."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Cookie, Depends, Request, Response
from pydantic import BaseModel, Field

from jorvek.api.problems import NotSignedInError, documented
from jorvek.core import rights
from jorvek.core.rights import Act, Role
from jorvek.core.run.log.events import Person
from jorvek.core.site_log.entries import Seal
from jorvek.core.units import Quantity, symbols
from jorvek.work.engine import overhauls, silent_tablets
from jorvek.work.people import accounts
from jorvek.work.sealing import SeenSeal, seen
from jorvek.work.workshop import Workshop

COOKIE = "jorvek_session"
router = APIRouter(prefix="/api", tags=["people"])


async def workshop_of(request: Request) -> Workshop:
    """Return the workshop that the application was made with (async: no thread is needed for it)."""
    workshop = request.app.state.workshop
    assert isinstance(workshop, Workshop)
    return workshop


Shop = Annotated[Workshop, Depends(workshop_of)]


Token = Annotated[str | None, Cookie(max_length=100)]


def member_of(shop: Shop, jorvek_session: Token = None) -> accounts.Member:
    """Return who is signed in, with what that person likes."""
    person = accounts.who(shop, jorvek_session)
    if person is None:
        raise NotSignedInError
    return person


Member = Annotated[accounts.Member, Depends(member_of)]


def actor_of(member: Member) -> Person:
    """Return who is signed in; the author of an event always comes from here."""
    return accounts.as_actor(member)


Actor = Annotated[Person, Depends(actor_of)]


class PersonListed(BaseModel):
    """A person to pick from."""

    id: UUID
    name: str
    role: Role


class Me(BaseModel):
    """Who is signed in, what that person may do, who does the rest, and how units are printed."""

    id: UUID
    name: str
    role: Role
    rights: list[Act]
    others: dict[Act, Role]
    language: str | None
    units: dict[Quantity, str]
    units_offered: dict[Quantity, tuple[str, ...]]
    unit_symbols: dict[str, str]


class SignIn(BaseModel):
    """A name and its PIN."""

    person_id: UUID
    pin: Annotated[str, Field(max_length=20)]


class ChosenUnits(BaseModel):
    """Units that a person likes to work in, by quantity."""

    units: Annotated[dict[Quantity, Annotated[str, Field(max_length=12)]], Field(max_length=20)]


class ChosenLanguage(BaseModel):
    """The language that a person likes to read."""

    language: Annotated[str, Field(max_length=8)]


def _me(person: accounts.Member) -> Me:
    return Me(
        id=person.id,
        name=person.name,
        role=person.role,
        rights=[act for act in Act if rights.may(person.role, act)],
        language=person.language,
        others={act: rights.lowest(act) for act in Act if not rights.may(person.role, act)},
        units=person.units,
        units_offered=accounts.OWN_UNITS,
        unit_symbols=symbols(),
    )


@router.get("/people", responses=documented(503))
def list_people(shop: Shop, may: Act | None = None) -> list[PersonListed]:
    """Return the people to pick from: all of them, or those who have a right."""
    listed = [p for p in shop.registers.people() if may is None or rights.may(p.role, may)]
    return [PersonListed(id=p.id, name=p.name, role=p.role) for p in listed]


@router.post("/session", responses=documented(400, 403, 404, 413, 422, 429, 503))
def sign_in(shop: Shop, body: SignIn, request: Request, response: Response, jorvek_session: Token = None) -> Me:
    """Sign in; the session that the tablet had before ends."""
    token, person = accounts.sign_in(shop, body.person_id, body.pin, before=jorvek_session)
    if jorvek_session is not None:
        overhauls.leave_engine(shop, jorvek_session)
    response.set_cookie(
        COOKIE,
        token,
        max_age=int(accounts.SESSION_LIFE.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return _me(person)


@router.get("/session", responses=documented(422, 503))
def session(shop: Shop, jorvek_session: Token = None) -> Me | None:
    """Return who is signed in, or null."""
    person = accounts.who(shop, jorvek_session)
    return _me(person) if person else None


@router.put("/session/language", responses=documented(400, 401, 403, 413, 422, 503))
def choose_language(shop: Shop, actor: Actor, body: ChosenLanguage) -> Me:
    """Remember the language that one likes to read."""
    return _me(accounts.choose_language(shop, actor.id, body.language))


@router.put("/session/units", responses=documented(400, 401, 403, 413, 422, 503))
def choose_units(shop: Shop, actor: Actor, body: ChosenUnits) -> Me:
    """Remember the units that one likes to work in."""
    return _me(accounts.choose_units(shop, actor.id, body.units))


class Here(BaseModel):
    """The engine at which somebody works with a tablet, and the run that it shows; null at the board."""

    engine_id: Annotated[str, Field(max_length=60)]
    run_id: UUID | None = None


@router.post("/here", status_code=204, responses=documented(400, 401, 403, 404, 413, 422, 503))
def here(shop: Shop, actor: Actor, body: Here, jorvek_session: Token = None) -> None:
    """Say that somebody works at an engine with this tablet, and that it has a link."""
    if jorvek_session is not None:
        silent_tablets.here(shop, actor, jorvek_session, body.engine_id, body.run_id)


@router.delete("/here", status_code=204, responses=documented(401, 403, 422, 503))
def leave(shop: Shop, _: Actor, jorvek_session: Token = None) -> None:
    """Say that this tablet leaves its engine, with nothing on it that nobody knows of."""
    if jorvek_session is not None:
        overhauls.leave_engine(shop, jorvek_session)


class Remembered(BaseModel):
    """The last seal of the site log that a tablet has seen; null before the first."""

    seal: Seal | None


@router.post("/seal", responses=documented(400, 401, 403, 413, 422, 503))
def held_against(shop: Shop, actor: Actor, body: Remembered) -> SeenSeal:
    """Hold the last seal that a tablet has seen against the site log, and return the newest."""
    return seen(shop, body.seal)


@router.delete("/session", status_code=204, responses=documented(403, 422, 503))
def sign_out(shop: Shop, response: Response, jorvek_session: Token = None) -> None:
    """Sign out."""
    if jorvek_session is not None:
        accounts.sign_out(shop, jorvek_session)
        overhauls.leave_engine(shop, jorvek_session)
    response.delete_cookie(COOKIE, httponly=True, samesite="strict")
