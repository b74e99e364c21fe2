"""A reading beside everything that may be asked of a server at once, and what that takes of memory.

Run with ``./jorvek bench under_pressure``, or with the names of some loads: ``plans``, ``searches``, ``dossiers``,
``pictures``, ``streams``, ``sheets``. Readings of a head of thirty are posted in turns: some while nothing else is
done, some beside the load, so that a slow disk or a busy machine slows both. Aim: p95 beside each load at most
250 ms on a quiet machine with two cores, and the server with all its helpers at most 600 MB above what it takes
when it is idle; afterwards that is given back.
"""

from __future__ import annotations

import io
import statistics
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import islice
from pathlib import Path
from threading import Event, Thread
from uuid import uuid4

import httpx2 as httpx
from bench.history import work
from bench.readings import HEAD_OF_THIRTY, answers, line, serve
from PIL import Image

from jorvek.core.overhaul.log.commands import DeclareConditions
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.engine import overhauls
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop

READINGS = 40
PAUSE_S = 0.5
LONGEST_S = 90.0
MOST_MS = 250.0
MOST_MB = 600.0
Ask = Callable[[httpx.Client, Counter[str], Event], None]


def taken_mb(pid: int) -> float:
    """Return what a process and those that it has started take, the share of each in what they have in common."""
    total, asked = 0.0, [pid]
    while asked:
        one = asked.pop()
        try:
            rollup = Path(f"/proc/{one}/smaps_rollup").read_text()
            asked += map(int, Path(f"/proc/{one}/task/{one}/children").read_text().split())
        except OSError:
            continue
        total += next(float(text.split()[1]) for text in rollup.splitlines() if text.startswith("Pss:")) / 1024.0
    return total


def readings_of(workshop: Workshop, client: httpx.Client, joint: str) -> Iterator[float]:
    """Post reading after reading of a head of thirty, and yield how many ms each took."""
    engine, name = HEAD_OF_THIRTY[:2]
    by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
    player = Player(workshop, SetClock(datetime.now(UTC)), actor(workshop, "Bram Okafor"), 1)
    player.start(engine, joint, by_id[name], {"tool": "bar"})
    player.play(lambda cell: cell.key == "snug/pull/9")
    make, path = answers(player, workshop), f"/api/runs/{player.run_id}/commands"
    while (command := make()) is not None:
        started = time.perf_counter()
        answer = client.post(path, json={"command": command.model_dump(mode="json")})
        yield (time.perf_counter() - started) * 1000
        assert answer.status_code == 200, answer.text


def apart(workshop: Workshop, engine: str) -> str:
    """Return the overhaul of an engine, everything apart."""
    bram = actor(workshop, "Bram Okafor")
    open_now = overhauls.open_on(workshop, engine)
    here = uuid4() if open_now is None else open_now.overhaul_id
    if open_now is None:
        opening = overhauls.OpenOverhaul(id=uuid4(), overhaul_id=here, engine_id=engine, title="Outage", as_it_ran=True)
        overhauls.open_overhaul(workshop, bram, opening)
    found = dict.fromkeys([f"{kind}-{n}" for kind in ("head", "liner", "rod") for n in range(1, 8)], "open")
    said = {"kind": "declare_conditions", "id": uuid4(), "found": found, "words": "Found so"}
    with suppress(Exception):  # where work is under way on one of them already, it is planned as it stands
        overhauls.act(workshop, bram, here, DeclareConditions.model_validate(said))
    return str(here)


def loads(workshop: Workshop, outages: list[str]) -> dict[str, list[Ask]]:
    """Return what is asked by how many at once, by its name."""
    closed = next(row for row in workshop.registers.runs() if not row.open)
    hands = Player(workshop, SetClock(datetime.now(UTC)), actor(workshop, "Lio Sandvik"), 2)
    by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
    hands.start("unit-4", "head-2", by_id["tarnholt-7l34-head-loosen"])
    cell = next_call(hands.state())
    assert cell is not None
    large = io.BytesIO()
    Image.effect_noise((730, 550), 60).resize((7300, 5500)).convert("RGB").save(large, "JPEG", quality=60)

    def plan(k: int) -> Ask:
        path = f"/api/overhauls/{outages[k % len(outages)]}/plan"

        def ask(client: httpx.Client, said: Counter[str], ended: Event) -> None:
            said[f"plan {client.post(path, json={'seconds': 60}).status_code}"] += 1
            ended.wait(20.0)

        return ask

    def search(client: httpx.Client, said: Counter[str], ended: Event) -> None:
        answer = client.get("/api/search", params={"words": "unit 2 head 4"})
        said[f"search {answer.status_code}"] += 1
        if answer.status_code == 429:
            # Whoever is told that it is busy asks again when they were told to.
            ended.wait(float(answer.headers.get("Retry-After", "1")))

    def dossier(k: int) -> Ask:
        path = f"/api/overhauls/{outages[k % len(outages)]}/dossier"

        def ask(client: httpx.Client, said: Counter[str], ended: Event) -> None:
            said[f"dossier {client.post(path).status_code}"] += 1
            ended.wait(5.0)

        return ask

    def picture(client: httpx.Client, said: Counter[str], ended: Event) -> None:
        asked = {"id": str(uuid4()), "cell": cell.key}
        path, kind = f"/api/runs/{hands.run_id}/photos", {"Content-Type": "image/jpeg"}
        answer = client.post(path, params=asked, content=large.getvalue(), headers=kind)
        said[f"picture {answer.status_code}"] += 1
        if answer.status_code != 200:
            ended.wait(1.0)

    def listen(client: httpx.Client, said: Counter[str], ended: Event) -> None:
        with client.stream("GET", "/api/live") as stream:
            said[f"stream {stream.status_code}"] += 1
            for _ in stream.iter_lines():
                if ended.is_set():
                    return

    def sheet(client: httpx.Client, said: Counter[str], ended: Event) -> None:
        answer = client.get(f"/api/runs/{closed.id}/record.pdf")
        said[f"sheet {answer.status_code}"] += 1
        if answer.status_code == 429:
            ended.wait(1.0)

    return {
        "plans": [plan(k) for k in range(16)],
        "searches": [search] * 40,
        "dossiers": [dossier(k) for k in range(24)],
        "pictures": [picture] * 8,
        "streams": [listen] * 150,
        "sheets": [sheet] * 10,
    }


def beside(
    asks: list[Ask], make: Callable[[], httpx.Client], times: Iterator[float], pid: int
) -> tuple[list[float], float, Counter[str]]:
    """Return the times of readings beside a load, the most memory meanwhile, and what its askers were told."""
    ended, said, most = Event(), Counter[str](), [taken_mb(pid)]

    def again(ask: Ask) -> None:
        with make() as client:
            while not ended.is_set():
                with suppress(httpx.TransportError):
                    ask(client, said, ended)

    def watch() -> None:
        while not ended.wait(0.1):
            most.append(taken_mb(pid))

    threads = [Thread(target=again, args=(ask,), daemon=True) for ask in asks] + [Thread(target=watch, daemon=True)]
    for thread in threads:
        thread.start()
    time.sleep(3.0)
    found, until = list[float](), time.monotonic() + LONGEST_S
    for one in islice(times, READINGS):
        found.append(one)
        # What is asked for takes its time; readings come as hands give them.
        time.sleep(PAUSE_S)
        if time.monotonic() > until:
            break
    ended.set()
    for thread in threads:
        thread.join(30.0)
    return found, max(most), said


def measure(workshop: Workshop, address: str, pid: int, names: list[str]) -> None:
    """Print, for each load, the times of readings alone and beside it, what was answered, and the memory."""
    person = person_by_name(workshop, "Bram Okafor")
    cookies = httpx.post(
        f"{address}/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN}, headers={"Origin": address}
    ).cookies

    def make() -> httpx.Client:
        return httpx.Client(base_url=address, headers={"Origin": address}, cookies=cookies, timeout=120)

    outages = [apart(workshop, engine) for engine in ("unit-2", "unit-4", "grey-plover")]
    all_of_them = loads(workshop, outages)
    client, idle = make(), taken_mb(pid)
    # A head of thirty has readings enough, up to where somebody else has to sign, for three loads.
    runs = [readings_of(workshop, client, joint) for joint in HEAD_OF_THIRTY[2:]]
    print(f"server idle: {idle:.0f} MB")
    for k, name in enumerate(names or list(all_of_them)):
        times = runs[k // 3]
        alone = list(islice(times, READINGS))
        found, most, said = beside(all_of_them[name], make, times, pid)
        line("reading posted, nothing else", alone)
        line(f"reading posted beside {len(all_of_them[name])} {name}", found)
        p95 = statistics.quantiles(found, n=20)[18]
        for overhaul in outages:
            client.delete(f"/api/overhauls/{overhaul}/plan")
        time.sleep(5.0)
        print(
            f"  p95 {'within' if p95 <= MOST_MS else 'ABOVE'} {MOST_MS:g} ms; at most {most:.0f} MB, "
            f"{most - idle:.0f} above idle, {'within' if most - idle <= MOST_MB else 'ABOVE'} {MOST_MB:g}; "
            f"five seconds after {taken_mb(pid):.0f} MB; answered {dict(sorted(said.items()))}",
            flush=True,
        )


def main() -> None:
    """Measure on a private server with one closed run in it."""
    with tempfile.TemporaryDirectory() as place, running_server(Path(place)) as server:
        database = Database(server.url)
        database.migrate()
        with tempfile.TemporaryDirectory() as photos:
            workshop = Workshop(database, photo_dir=Path(photos))
            load_world(workshop, ROOT)
            yesterday = SetClock(datetime.now(UTC) - timedelta(days=1))
            work(replace(workshop, clock=yesterday), yesterday, 1)
            process, address = serve(server.url)
            try:
                measure(workshop, address, process.pid, sys.argv[1:])
            finally:
                process.terminate()
                process.wait()


if __name__ == "__main__":
    main()
