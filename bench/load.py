"""Fifty tablets, each with a reading every two seconds, beside one tablet alone.

Run with ``./jorvek bench load`` or ``./jorvek bench load MINUTES TABLETS``. One server process, full
durability. A tablet fills a call, strikes it with a reason, and fills it again. Printed are the times
of both runs, errors, and the server's memory at the beginning and the end.
"""

from __future__ import annotations

import asyncio
import statistics
import sys
import time
from dataclasses import dataclass, field
from uuid import UUID, uuid4

import httpx2 as httpx
import sqlalchemy as sa
from bench.replay import house, resident_kb

from jorvek.core.engine.layout import Engine, joints_of
from jorvek.core.refusal import Refusal
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player, SetClock
from jorvek.store.registers import RevisionHead
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop

EVERY_S = 2.0
ALONE_S = 60.0
MOST_MS = 150.0


@dataclass
class Post:
    """One tablet's run, the call it fills and strikes, and how long each answer took."""

    run_id: UUID
    cell: str
    attempt: int = 0
    filled: bool = False
    at: list[float] = field(default_factory=list)
    times_ms: list[float] = field(default_factory=list)
    errors: int = 0

    def command(self) -> dict[str, object]:
        """Return what the tablet sends next."""
        self.filled = not self.filled
        base = {"id": str(uuid4()), "cell": self.cell}
        if not self.filled:
            return base | {"kind": "strike", "attempt": self.attempt, "reason": "Pressed too early"}
        self.attempt += 1
        return base | {"kind": "record", "attempt": self.attempt, "answer": {"type": "tick"}}


def posts(workshop: Workshop, wanted: int) -> list[Post]:
    """Start as many runs as there are tablets, each on an engine of its own, up to a call that is a tick.

    On one engine, what one strikes is undone for the others, too.
    """
    clock, engines = SetClock(workshop.clock()), workshop.registers.engines()
    approved = [r for r in workshop.registers.revisions() if r.status == "approved"]
    return [_post(workshop, clock, engines[k % len(engines)], approved, k) for k in range(wanted)]


def _post(workshop: Workshop, clock: SetClock, like: Engine, approved: list[RevisionHead], k: int) -> Post:
    sister = like.model_copy(update={"id": f"sister-{k}", "name": f"Sister {k}", "serial": f"S-{k}"})
    workshop.registers.add_engine(sister, workshop.clock())
    for joint in joints_of(sister):
        for revision in approved:
            if (revision.engine_type, revision.joint) != (sister.type, joint.kind):
                continue
            player = Player(workshop, clock, actor(workshop, "Bram Okafor"), k)
            try:
                player.start(sister.id, joint.key, revision.hash)
            except Refusal:
                continue
            cell = next_call(player.state())
            if cell is not None and cell.ask == "tick":
                return Post(player.run_id, cell.key)
    raise SystemExit(f"no procedure for {like.name} begins with a tick")


async def tablet(address: str, cookies: httpx.Cookies, post: Post, until: float, offset_s: float) -> None:
    """Post a reading every two seconds until the time is over."""
    # Without TLS; making ready for it takes each client as long as several readings.
    async with httpx.AsyncClient(
        base_url=address, headers={"Origin": address}, cookies=cookies, timeout=30, verify=False
    ) as client:
        await asyncio.sleep(offset_s)
        while (started := time.monotonic()) < until:
            answer = await client.post(f"/api/runs/{post.run_id}/commands", json={"command": post.command()})
            post.at.append(started)
            post.times_ms.append((time.monotonic() - started) * 1000.0)
            post.errors += answer.status_code != 200
            await asyncio.sleep(max(0.0, EVERY_S - (time.monotonic() - started)))


def bare_commits(workshop: Workshop, until: float) -> list[float]:
    """Time one bare INSERT and COMMIT after the other on the same server: what its disk takes by itself."""
    engine = sa.create_engine(workshop.database.engine.url)
    times_ms: list[float] = []
    with engine.connect() as connection:
        connection.execute(sa.text("CREATE TABLE IF NOT EXISTS bare (at DOUBLE NOT NULL)"))
        while (started := time.monotonic()) < until:
            connection.execute(sa.text("INSERT INTO bare VALUES (:at)"), {"at": started})
            connection.commit()
            times_ms.append((time.monotonic() - started) * 1000.0)
            time.sleep(0.25)
    engine.dispose()
    return times_ms


async def together(
    workshop: Workshop, address: str, cookies: httpx.Cookies, group: list[Post], seconds: float
) -> list[float]:
    """Let a group of tablets work for a while; return the times of bare commits meanwhile."""
    until = time.monotonic() + seconds
    spread = EVERY_S / len(group)
    bare = asyncio.to_thread(bare_commits, workshop, until)
    _, found = await asyncio.gather(
        asyncio.gather(*(tablet(address, cookies, one, until, k * spread) for k, one in enumerate(group))), bare
    )
    return found


def say(name: str, group: list[Post], bare: list[float]) -> float:
    """Print the times of a group, with those of bare commits beside them."""
    times = [t for post in group for t in post.times_ms]
    p95 = statistics.quantiles(times, n=20)[18]
    errors = sum(post.errors for post in group)
    print(f"{name:12} {_spread(times)}  n={len(times)}  errors {errors};  a bare commit meanwhile {_spread(bare)}")
    begun = min(at for post in group for at in post.at)
    for minute in range(round((max(at for post in group for at in post.at) - begun) / 60.0)):
        within = [
            ms
            for post in group
            for at, ms in zip(post.at, post.times_ms, strict=True)
            if 60 * minute <= at - begun < 60 * (minute + 1)
        ]
        print(f"  minute {minute + 1}: {_spread(within)}")
    return p95


def _spread(times_ms: list[float]) -> str:
    p95 = statistics.quantiles(times_ms, n=20)[18]
    return f"p50 {statistics.median(times_ms):6.1f} ms  p95 {p95:6.1f} ms"


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 5.0
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 50
    with house() as (workshop, server, address):
        person = person_by_name(workshop, "Bram Okafor")
        signed_in = httpx.post(f"{address}/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN})
        group = posts(workshop, number + 1)
        alone, many = group[:1], group[1:]
        bare_alone = asyncio.run(together(workshop, address, signed_in.cookies, alone, ALONE_S))
        first = resident_kb(server.pid)
        bare = asyncio.run(together(workshop, address, signed_in.cookies, many, minutes * 60.0))
        say("one tablet", alone, bare_alone)
        p95 = say(f"{len(many)} tablets", many, bare)
        grown = (resident_kb(server.pid) - first) / 1024.0
        word = "within" if p95 <= MOST_MS else "ABOVE"
        print(f"p95 {word} {MOST_MS:g} ms; the server's memory grew by {grown:.1f} MB in {minutes:g} min")


if __name__ == "__main__":
    main()
