"""A document is approved beside the others of its library."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from jorvek.core.procedure.document import Procedure
from jorvek.core.refusal import Refusal
from jorvek.core.run.log import events as ev
from jorvek.local.demo import actor
from jorvek.work.library import reading, revisions
from jorvek.work.library.checking import readable
from jorvek.work.workshop import Workshop
from tests.conftest import World
from tests.core.drafts import Change, change
from tests.core.test_procedure_check import HEAD, LOOSE, PATHS, PLAIN


def brought(shop: Workshop, name: str, *changes: Change) -> str:
    """Bring a shipped document in once more, under a name of its own or as another revision."""
    data: Any = copy.deepcopy(PLAIN[name])
    for one in changes:
        one(data)
    who = actor(shop, "Anneke Ruhl")
    return shop.registers.add_revision(Procedure.model_validate(data), who.id, shop.clock())


def ines(shop: Workshop) -> ev.Person:
    return actor(shop, "Ines Halloran")


def codes(shop: Workshop, digest: str) -> set[str]:
    return {f.code for f in reading.read(shop, ines(shop), digest).sheet.findings}


def refused(shop: Workshop, digest: str) -> str:
    with pytest.raises(Refusal) as no:
        revisions.approve(shop, ines(shop), digest)
    return no.value.code


OTHER = change(("id", "head-loosen-again"), ("title", "Newer book"), ("@seat.back_off", "0.75 turn"))


def test_a_document_that_contradicts_an_approved_one_waits_until_that_is_withdrawn(world: World) -> None:
    shop = world.workshop
    digest = brought(shop, LOOSE, OTHER)
    assert codes(shop, digest) == {"contradicts"}
    assert refused(shop, digest) == "check_not_clean"
    old = next(r for r in shop.registers.revisions() if r.id == LOOSE)
    revisions.withdraw(shop, ines(shop), old.hash)
    assert codes(shop, digest) == set()
    revisions.approve(shop, ines(shop), digest)


def test_a_draft_is_no_yardstick_for_another_document(world: World) -> None:
    """Two newer books contradict each other; only the one that is approved first stands in the other's way."""
    shop = world.workshop
    old = next(r for r in shop.registers.revisions() if r.id == LOOSE)
    revisions.withdraw(shop, ines(shop), old.hash)
    first = brought(shop, LOOSE, OTHER)
    second = brought(shop, LOOSE, change(("id", "head-loosen-third"), ("@seat.back_off", "0.8 turn")))
    assert codes(shop, second) == set()
    revisions.approve(shop, ines(shop), first)
    assert codes(shop, second) == {"contradicts"}
    assert refused(shop, second) == "check_not_clean"


def test_what_is_carried_on_may_go_to_a_draft_but_not_to_what_was_withdrawn(world: World) -> None:
    shop = world.workshop
    close = next(r for r in shop.registers.revisions() if r.id == "tarnholt-7l34-head-close")
    digest = brought(shop, LOOSE, change(("revision", "ZY")))
    assert codes(shop, digest) == set()
    revisions.withdraw(shop, ines(shop), close.hash)
    assert codes(shop, digest) == {"procedure_not_here"}
    assert refused(shop, digest) == "check_not_clean"
    brought(shop, "tarnholt-7l34-head-close", change(("revision", "ZY")))
    assert codes(shop, digest) == set()


def test_documents_of_another_engine_type_are_not_looked_at(world: World) -> None:
    shop = world.workshop
    procedure = next(
        p for h in shop.registers.revisions() if h.id == HEAD and (p := revisions.revision_of(shop, h.hash))
    )
    others = revisions.others_of(shop, procedure.procedure)
    assert {p.applies_to.engine_type for p in others.here} == {"Tarnholt 7L34"}
    assert HEAD not in {p.id for p in others.here}
    bad = [h.id for h in shop.registers.revisions() if h.status == "draft"]
    assert bad
    assert not {p.id for p in others.approved} & set(bad)
    assert {p.id for p in others.here} >= {p.id for p in others.approved}


def test_who_may_approve_and_withdraw_is_told_by_the_standing_of_the_revision(world: World) -> None:
    shop = world.workshop
    digest = brought(shop, HEAD, change(("revision", "ZX")))

    def may(name: str) -> tuple[bool, bool]:
        read = reading.read(shop, actor(shop, name), digest)
        return read.may_approve, read.may_withdraw

    assert may("Ines Halloran") == (True, True)
    assert may("Anneke Ruhl") == (False, False)
    revisions.approve(shop, ines(shop), digest)
    assert may("Ines Halloran") == (False, True)
    revisions.withdraw(shop, ines(shop), digest)
    assert may("Ines Halloran") == (False, False)


def test_files_checked_together_are_each_others_library_and_a_single_one_has_none() -> None:
    raw = {name: path.read_bytes() for name, path in PATHS.items()}
    assert readable([raw[HEAD]]) is None
    together = readable([raw[HEAD], raw["tarnholt-7l34-head-bad"], b"no document"])
    assert together is not None
    assert {p.id for p in together.here} == {HEAD, "tarnholt-7l34-head-bad"}
    assert {p.id for p in together.approved} == {HEAD}, "one with faults of its own is no yardstick"
