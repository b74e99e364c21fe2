"""A sheet of paper that was written where there was no tablet, keyed in as one act: all its lines, or none."""

from __future__ import annotations

from uuid import UUID

from jorvek.core.overhaul.log import commands as oc
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, demand
from jorvek.core.run.log.events import Person
from jorvek.store.overhaullog import OverhaulSnapshot
from jorvek.work.engine import overhauls
from jorvek.work.runs.photos import size_of, take_in
from jorvek.work.workshop import Workshop


def keep_photo(workshop: Workshop, actor: Person, overhaul_id: UUID, content: bytes) -> str:
    """Keep the photograph of a sheet, and return its name; the lines that are read from it name it.

    Raises:
        Refusal: ``not_your_right``, ``no_such_overhaul``, ``no_photo``, ``photo_too_large``, ``busy``.
    """
    demand(actor.role, Act.RECORD)
    workshop.overhauls.snapshot(overhaul_id)
    return take_in(workshop, content)


def key_in(
    workshop: Workshop, actor: Person, overhaul_id: UUID, lines: tuple[oc.OverhaulCommand, ...]
) -> OverhaulSnapshot:
    """Key in the lines of a sheet one after the other, under one lock and in one transaction.

    Args:
        workshop: where the overhaul is kept.
        actor: who keys in.
        overhaul_id: the overhaul.
        lines: what stands on the sheet, in the order in which it is keyed in; sent again, the same sheet changes
            nothing.

    Raises:
        Refusal: ``not_of_a_sheet``, ``no_such_photo``; what ``overhauls.act`` refuses of a line, with its number as
            ``line``. Nothing of the sheet is stored then.
    """
    for number, line in enumerate(lines, start=1):
        if not isinstance(line, oc.ListedCommand) or line.paper is None:
            raise Refusal("not_of_a_sheet", line=number)
        if line.paper.photo is not None and size_of(workshop, line.paper.photo) is None:
            raise Refusal("no_such_photo", photo=line.paper.photo[:12], line=number)

    def append() -> OverhaulSnapshot:
        for number, line in enumerate(lines, start=1):
            try:
                snapshot = overhauls.act(workshop, actor, overhaul_id, line)
            except Refusal as refusal:
                refusal.params["line"] = number
                raise
        return snapshot

    return overhauls.under_engine(workshop, overhaul_id, append)
