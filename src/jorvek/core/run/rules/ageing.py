"""What has grown too old since it was done, and must be looked at before it is relied on."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jorvek.core.refusal import Refusal
from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.perishable import Perishable
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.progress import open_cells


@dataclass(frozen=True)
class Aged:
    """Something past its time.

    Attributes:
        what: the step.
        since: when it was done, or last found good.
        age_s: how long ago that is.
    """

    what: Perishable
    since: datetime
    age_s: float


def aged(state: RunState, now: datetime) -> tuple[Aged, ...]:
    """Return what is past its time while something still relies on it, in working order.

    Args:
        state: the run as it stands.
        now: server time.
    """
    ages = ((what, since, (now - since).total_seconds()) for what, since in ages_of(state))
    return tuple(Aged(what, since, age_s) for what, since, age_s in ages if age_s > what.limit_s)


def ages_of(state: RunState) -> tuple[tuple[Perishable, datetime], ...]:
    """Return what is relied on and grows older, each with since when."""
    found: list[tuple[Perishable, datetime]] = []
    for what in state.definition.perishables:
        since = _since(state, what)
        if since is not None and any(state.live(key) is None for key in what.uses):
            found.append((what, since))
    return tuple(found)


def _since(state: RunState, what: Perishable) -> datetime | None:
    """Return when a step was finished or last found good; None while it is not whole."""
    live = [state.live(key) for key in what.cells]
    done = [a.done_at for a in live if a is not None]
    if len(done) < len(live):
        return None
    renewal = state.renewals.get(what.step)
    return max([*done, renewal.at] if renewal else done)


def asked_now(state: RunState, now: datetime) -> tuple[Aged, ...]:
    """Return what must be answered before the next call: it is old, and an open call relies on it."""
    open_now = {cell.key for cell in open_cells(state)}
    return tuple(one for one in aged(state, now) if open_now & set(one.what.uses))


def demand_fresh(state: RunState, cell: Cell, now: datetime) -> None:
    """Refuse a call that relies on something past its time.

    Raises:
        Refusal: ``aged`` naming the step and its age in minutes.
    """
    for one in aged(state, now):
        if cell.key in one.what.uses:
            title = state.definition.steps_by_id[one.what.step.partition("#")[0]].title
            raise Refusal("aged", title=title, minutes=round(one.age_s / 60), limit=round(one.what.limit_s / 60))
