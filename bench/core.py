"""What the core costs, each as a ratio to the least that it could cost, taken in one run.

Run with ``./jorvek bench core``.
"""

from __future__ import annotations

import math
import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import numpy as np

from jorvek.core.bolting.interaction import compliance_geom, pull, simulate_tensioning
from jorvek.core.bolting.order import circle_positions
from jorvek.core.bolting.thread import iso_thread
from jorvek.core.measuring.uncertainty import SEED, monte_carlo_preload_torque
from jorvek.core.run.log.commands import Note
from jorvek.core.run.log.fold import advance, begin
from jorvek.local.demo import actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop

STUDS, STEPS, DRAWS = 64, 200, 100_000
LONG, SHORT = 5000, 50


def rounds(count: int, *acts: Callable[[], object]) -> list[float]:
    """Return the median time in ms of each act, the acts taken in turn."""
    times: list[list[float]] = [[] for _ in acts]
    for _ in range(count):
        for act, kept in zip(acts, times, strict=True):
            started = time.perf_counter()
            act()
            kept.append((time.perf_counter() - started) * 1000)
    return [statistics.median(kept) for kept in times]


def say(name: str, ours: float, bare: float, aim: float) -> None:
    ratio = ours / bare
    word = "met" if ratio <= aim else "NOT MET"
    print(f"{name:58} {ours:9.2f} ms / {bare:8.2f} ms = {ratio:5.2f} x   aim {aim} x  {word}", flush=True)


def interaction() -> None:
    """A ring of 64 studs pulled in 200 steps, against as many bare solves of its size."""
    C = compliance_geom(circle_positions(STUDS, 2000), 3e-7, 150)
    matrix = np.array(C) + np.eye(STUDS) * 1e-6
    right = np.ones(STUDS)
    steps = [pull([k % STUDS, (k + STUDS // 2) % STUDS], 3e5, STUDS) for k in range(STEPS)]

    def bare() -> None:
        for _ in range(STEPS):
            np.linalg.solve(matrix, right)

    ours, least = rounds(15, lambda: simulate_tensioning(1e-6, C, steps), bare)
    say(f"interaction, {STUDS} studs, {STEPS} steps / bare solves", ours, least, 5)


def drawing() -> None:
    """A Monte Carlo of torque to clamp, against the same written out by hand."""
    thread = iso_thread(52, 3)
    arguments = (2500.0, thread, 0.12, 0.12, 66.0, 0.02, 0.02, 0.02)

    def bare() -> None:
        z = np.random.default_rng(SEED).standard_normal((3, DRAWS))
        s = math.sqrt(math.log1p((0.02 / 0.12) ** 2))
        m = math.log(0.12) - s * s / 2
        arm = np.exp(m + s * z[1]) * (thread.d2_mm / math.sqrt(3.0)) + np.exp(m + s * z[2]) * 33.0
        F = 2.5e6 * (1 + 0.02 * z[0]) / (arm + thread.P_mm / (2 * math.pi))
        np.quantile(F, (0.025, 0.5, 0.975))

    ours, least = rounds(15, lambda: monte_carlo_preload_torque(*arguments, draws=DRAWS), bare)
    say(f"Monte Carlo, {DRAWS} draws / by hand", ours, least, 3)


def _run_of(workshop: Workshop, digest: str, joint: str, events: int) -> Player:
    player = Player(workshop, SetClock(datetime.now(UTC)), actor(workshop, "Bram Okafor"), 1)
    player.start("unit-2", joint, digest)
    while player.state().seq < events:
        player.send(Note(kind="note", id=uuid4(), text="Rain comes through the roof light over the pump."))
    return player


def appending(workshop: Workshop, digest: str) -> None:
    """One more event on a long run, against one more on a short run."""
    players = [_run_of(workshop, digest, joint, n) for joint, n in (("head-1", LONG), ("head-2", SHORT))]

    def one_more(player: Player) -> Callable[[], object]:
        return lambda: player.send(Note(kind="note", id=uuid4(), text="And again."))

    long, short = rounds(30, *(one_more(player) for player in players))
    say(f"append to {LONG} events / to {SHORT} events", long, short, 1.5)
    log, run_id = workshop.log, players[0].run_id
    stored = log.stored(run_id)
    loading, parsing = rounds(
        3, lambda: log.stored(run_id), lambda: [type(s.event).model_validate_json(s.body) for s in stored]
    )
    events = [s.event for s in stored]

    def fold() -> None:
        state = begin(players[0].state().definition, events[0])
        for event in events[1:]:
            state = advance(state, event)

    (folding,) = rounds(3, fold)
    print(f"a cold run of {LONG}: load and parse {loading:.0f} ms, of it parse {parsing:.0f} ms; fold {folding:.0f} ms")


def main() -> None:
    interaction()
    drawing()
    with tempfile.TemporaryDirectory() as directory, running_server(Path(directory)) as server:
        database = Database(server.url)
        database.migrate()
        workshop = Workshop(database)
        appending(workshop, load_world(workshop, ROOT))


if __name__ == "__main__":
    main()
