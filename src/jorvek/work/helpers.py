"""Processes beside the server, for what takes so long that no reading may wait for it.

Reading the program, its solver and its printer takes seconds. It is done once, by a process that waits to be asked and
then forks: it has no thread and no connection that could be in the middle of something.
"""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from multiprocessing.context import ForkServerProcess
from typing import Final, ParamSpec

Given = ParamSpec("Given")
_ASKED: Final = multiprocessing.get_context("forkserver")
_ASKED.set_forkserver_preload(
    ["jorvek.work.plan.search", "jorvek.planning.solve", "jorvek.work.paper.dossiers", "weasyprint"]
)
"""What the helpers do, and the heavy libraries that they alone need: the server reads none of them."""


def helper(work: Callable[Given, None], *args: Given.args, **kwargs: Given.kwargs) -> ForkServerProcess:
    """Return a process that does some work once it is started, and is ended when the server is stopped in order.

    Args:
        work: a function of a module; it gets nothing of the server but what it is given.
        args: what it is given; numbers and texts.
        kwargs: as ``args``.
    """
    return _ASKED.Process(target=work, args=args, kwargs=kwargs, daemon=True)
