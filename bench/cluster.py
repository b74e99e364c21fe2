"""Fifty tablets on three servers, each server on its own node of a cluster, and a node that is killed in the middle.

Run with ``./jorvek bench cluster`` or ``./jorvek bench cluster MINUTES TABLETS``. Each tablet has a reading every two
seconds; what has no answer it sends again under the same id, as the application does. Printed are the readings that
were lost and doubled, the times of the answers, and the longest that anybody waited.
"""

from __future__ import annotations

import asyncio
import statistics
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx2 as httpx
from bench.load import EVERY_S, Post, posts
from bench.readings import serve
from bench.replay import resident_kb

from jorvek.local.cluster import Cluster, running_cluster
from jorvek.local.demo import DEMO_PIN, load_world
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.store.site_key import kept_key
from jorvek.store.verify import verify
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop, system_clock

AGAIN_S = 0.25
KILLED = 2


class Tablet:
    """One tablet: its readings, and how long each took until it was known to be stored."""

    def __init__(self, post: Post) -> None:
        self.post = post
        self.stored: list[str] = []
        self.waits_ms: list[float] = []
        self.sent_again = 0

    async def work(self, address: str, cookies: httpx.Cookies, until: float, offset_s: float) -> None:
        """Post until the time is over; what was begun is brought to its end."""
        async with httpx.AsyncClient(
            base_url=address, headers={"Origin": address}, cookies=cookies, timeout=30, verify=False
        ) as client:
            await asyncio.sleep(offset_s)
            while (started := time.monotonic()) < until:
                command = self.post.command()
                while not await self._taken(client, command):
                    self.sent_again += 1
                    await asyncio.sleep(AGAIN_S)
                self.stored.append(str(command["id"]))
                self.waits_ms.append((time.monotonic() - started) * 1000.0)
                await asyncio.sleep(max(0.0, EVERY_S - (time.monotonic() - started)))

    async def _taken(self, client: httpx.AsyncClient, command: dict[str, object]) -> bool:
        try:
            answer = await client.post(f"/api/runs/{self.post.run_id}/commands", json={"command": command})
        except httpx.TransportError:
            return False
        if answer.status_code not in (200, 503):
            raise SystemExit(f"a reading was refused: {answer.status_code} {answer.text[:300]}")
        return answer.status_code == 200


@contextmanager
def site() -> Iterator[tuple[Cluster, Workshop, list[tuple[subprocess.Popen[bytes], str]]]]:
    with tempfile.TemporaryDirectory() as place, running_cluster(Path(place)) as cluster:
        key = Path(place) / "site.key"
        workshop = Workshop(Database(cluster.url), system_clock, site_key=kept_key(key))
        workshop.database.migrate()
        load_world(workshop, ROOT)
        servers = [serve(cluster.url_from(n), key) for n in range(len(cluster.nodes))]
        try:
            yield cluster, workshop, servers
        finally:
            for process, _ in servers:
                process.terminate()
                process.wait()


async def play(cluster: Cluster, tablets: list[Tablet], ways: list[tuple[str, httpx.Cookies]], seconds: float) -> None:
    """Let all tablets work, kill a node in the middle, and bring it back."""
    until, spread = time.monotonic() + seconds, EVERY_S / len(tablets)

    async def kill() -> None:
        await asyncio.sleep(seconds / 2)
        at = time.monotonic()
        await asyncio.to_thread(cluster.kill, KILLED)
        await asyncio.sleep(seconds / 6)
        await asyncio.to_thread(cluster.start_again, KILLED)
        print(f"node {KILLED} was brought back {time.monotonic() - at:.0f} s after it was killed", flush=True)

    await asyncio.gather(
        kill(), *(tablet.work(*ways[k % len(ways)], until, k * spread) for k, tablet in enumerate(tablets))
    )


def ids_of(workshop: Workshop, tablet: Tablet) -> Counter[str]:
    """Count the ids of a run's commands as they stand in the table."""
    return Counter(str(stored.event.id) for stored in workshop.log.stored(tablet.post.run_id))


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 5.0
    number = int(sys.argv[2]) if len(sys.argv) > 2 else 50
    with site() as (cluster, workshop, servers):
        tablets = [Tablet(post) for post in posts(workshop, number)]
        person = person_by_name(workshop, "Bram Okafor")
        signing = {"person_id": str(person.id), "pin": DEMO_PIN}
        ways = [(address, httpx.post(f"{address}/api/session", json=signing).cookies) for _, address in servers]
        first = [resident_kb(process.pid) for process, _ in servers]
        asyncio.run(play(cluster, tablets, ways, minutes * 60.0))
        lost = doubled = sent = 0
        for tablet in tablets:
            found = ids_of(workshop, tablet)
            sent += len(tablet.stored)
            lost += sum(found[one] == 0 for one in tablet.stored)
            doubled += sum(count > 1 for count in found.values())
        waits = sorted(wait for tablet in tablets for wait in tablet.waits_ms)
        p50, p95 = statistics.median(waits), statistics.quantiles(waits, n=20)[18]
        grown = max((resident_kb(p.pid) - kb) / 1024.0 for (p, _), kb in zip(servers, first, strict=True))
        print(f"{len(tablets)} tablets on {len(servers)} servers, {minutes:g} min, node {KILLED} killed in the middle")
        print(f"readings answered as stored {sent}: lost {lost}, doubled {doubled}")
        print(f"sent again under the same id: {sum(t.sent_again for t in tablets)}")
        print(f"p50 {p50:.1f} ms  p95 {p95:.1f} ms  worst wait {waits[-1] / 1000.0:.1f} s")
        print(
            f"largest growth of a server's memory {grown:.1f} MB; altered: {len(verify(workshop.database).alterations)}"
        )


if __name__ == "__main__":
    main()
