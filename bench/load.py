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
from bench.replay import house, resident_kb

from jorvek.core.engine.layout import joints_of
from jorvek.core.refusal import Refusal
from jorvek.core.run.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player, SetClock
from jorvek.work.people import person_by_name
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
    """Start as many runs as there are tablets, each on its own joint, up to a call that is a tick."""
    clock, found = SetClock(workshop.clock()), list[Post]()
    approved = [r for r in workshop.registers.revisions() if r.status == "approved"]
    for engine in workshop.registers.engines():
        for joint in joints_of(engine):
            for revision in approved:
                if (revision.engine_type, revision.joint) != (engine.type, joint.kind) or len(found) == wanted:
                    continue
                player = Player(workshop, clock, actor(workshop, "Bram Okafor"), len(found))
                try:
                    player.start(engine.id, joint.key, revision.hash)
                except Refusal:
                    continue
                cell = next_call(player.state())
                if cell is not None and cell.ask == "tick":
                    found.append(Post(player.run_id, cell.key))
    return found


async def tablet(address: str, cookies: httpx.Cookies, post: Post, until: float, offset_s: float) -> None:
    """Post a reading every two seconds until the time is over."""
    async with httpx.AsyncClient(base_url=address, cookies=cookies, timeout=30) as client:
        await asyncio.sleep(offset_s)
        while (started := time.monotonic()) < until:
            answer = await client.post(f"/api/runs/{post.run_id}/commands", json={"command": post.command()})
            post.times_ms.append((time.monotonic() - started) * 1000.0)
            post.errors += answer.status_code != 200
            await asyncio.sleep(max(0.0, EVERY_S - (time.monotonic() - started)))


async def together(address: str, cookies: httpx.Cookies, group: list[Post], seconds: float) -> None:
    until = time.monotonic() + seconds
    spread = EVERY_S / len(group)
    await asyncio.gather(*(tablet(address, cookies, one, until, k * spread) for k, one in enumerate(group)))


def say(name: str, group: list[Post]) -> float:
    times = [t for post in group for t in post.times_ms]
    p95 = statistics.quantiles(times, n=20)[18]
    errors = sum(post.errors for post in group)
    print(f"{name:18} p50 {statistics.median(times):6.1f} ms  p95 {p95:6.1f} ms  n={len(times)}  errors {errors}")
    return p95


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 5.0
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 50
    with house() as (workshop, server, address):
        person = person_by_name(workshop, "Bram Okafor")
        signed_in = httpx.post(f"{address}/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN})
        group = posts(workshop, number + 1)
        alone, many = group[:1], group[1:]
        asyncio.run(together(address, signed_in.cookies, alone, ALONE_S))
        first = resident_kb(server.pid)
        asyncio.run(together(address, signed_in.cookies, many, minutes * 60.0))
        say("one tablet", alone)
        p95 = say(f"{len(many)} tablets", many)
        grown = (resident_kb(server.pid) - first) / 1024.0
        word = "within" if p95 <= MOST_MS else "ABOVE"
        print(f"p95 {word} {MOST_MS:g} ms; the server's memory grew by {grown:.1f} MB in {minutes:g} min")


if __name__ == "__main__":
    main()
