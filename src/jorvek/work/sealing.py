"""Taking into the site log: by itself every few seconds, and at once where people rely on it."""

from __future__ import annotations

from typing import Final

import structlog

from jorvek import measures
from jorvek.core.refusal import Refusal
from jorvek.core.run.views.labels import View
from jorvek.core.site_log.entries import Root, Seal
from jorvek.work.steady_clock import SteadyClock
from jorvek.work.workshop import Workshop

_log = structlog.get_logger()
EVERY_S: Final = 3.0
"""What is written stands in the site log after so long, and a moment more."""


def sealed(workshop: Workshop) -> Root | None:
    """Take in what has been written, at once, and return the newest root.

    What was done is done: that it could not be taken in now stops nothing, it is taken in later.

    Returns:
        The root; None where there is no site log, or nothing could be taken into it now, whatever the reason: a log
            that was tampered with is told by ``verify``, and by every line here.
    """
    log = workshop.site_log
    if log is None:
        return None
    try:
        clock, now = workshop.clock, workshop.clock()
        jumps = clock.jumps if isinstance(clock, SteadyClock) else ()
        root = log.take_in(now, jumps)
        if isinstance(clock, SteadyClock):
            clock.written_down(jumps)
    except Exception as error:
        _log.warning("site_log", what=f"{type(error).__name__}: {error}")
        return None
    measures.SEALED_AT.set_to_current_time()
    return root


def site_seal(workshop: Workshop) -> str:
    """Return the seal that is printed on paper, over everything up to now; empty where there is none."""
    root = sealed(workshop)
    return "" if root is None else root.seal().printed()


class SeenSeal(View):
    """What a tablet has seen last of the site log, held against what is there now.

    Attributes:
        now: the newest seal; None where there is no site log.
        lost: what the tablet has seen is not part of what is there: something was taken back, or changed.
        clock_behind_s: the server's clock was set back by so many seconds, and stands still; None in order.
        clock_forward_s: it was set forward by so many seconds during the last day; None where it was not.
    """

    now: Seal | None
    lost: bool
    clock_behind_s: float | None
    clock_forward_s: float | None


def seen(workshop: Workshop, seal: Seal | None) -> SeenSeal:
    """Hold the last seal that a tablet has seen against the site log, and return the newest."""
    clock = workshop.clock if isinstance(workshop.clock, SteadyClock) else None
    behind_s, forward_s = (None, None) if clock is None else (clock.behind_s, clock.forward_s)
    log = workshop.site_log
    newest = None if log is None else log.newest()
    if log is None or newest is None:
        return SeenSeal(now=None, lost=seal is not None, clock_behind_s=behind_s, clock_forward_s=forward_s)
    lost = seal is not None and not log.goes_on_from(seal)
    return SeenSeal(now=newest.seal(), lost=lost, clock_behind_s=behind_s, clock_forward_s=forward_s)


def begin_new_key(workshop: Workshop, words: str) -> Root:
    """Go on with the key of this installation where another has signed before.

    Raises:
        Refusal: ``no_site_log``.
    """
    if workshop.site_log is None:
        raise Refusal("no_site_log")
    return workshop.site_log.begin_key(workshop.clock(), words)
