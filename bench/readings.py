"""How long a reading takes: in the store, over HTTP, and until the verdict is painted.

Run with ``./jorvek bench``. Everything is measured in one run on one private server, the bare
``INSERT`` + ``COMMIT`` taken in turn with what it is compared to, so that a slow disk or a
busy machine slows both.
"""

from __future__ import annotations

import gzip
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cache, partial
from pathlib import Path
from uuid import uuid4

import httpx2 as httpx
from playwright.sync_api import Page, sync_playwright

from jorvek.core.run.log.cells import Cell
from jorvek.core.run.log.commands import RecordReading
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import free_port, running_server
from jorvek.local.player import Player, SetClock, usual_answer
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop

PAYLOAD = "x" * 900  # about the length of a reading's event


class BareInsert:
    """The least that a durable write can cost: one INSERT and one COMMIT through the same driver."""

    def __init__(self, database: Database) -> None:
        self._connection = database.engine.raw_connection()
        self._cursor = self._connection.cursor()
        self._cursor.execute("CREATE TABLE bare (id INT PRIMARY KEY AUTO_INCREMENT, body TEXT) ENGINE=InnoDB")

    def __call__(self) -> None:
        self._cursor.execute("INSERT INTO bare (body) VALUES (%s)", (PAYLOAD,))
        self._connection.commit()


def timed(act: Callable[[], object]) -> float:
    started = time.perf_counter()
    act()
    return (time.perf_counter() - started) * 1000


def line(name: str, times: list[float], bare: list[float] | None = None) -> None:
    median, p95 = statistics.median(times), statistics.quantiles(times, n=20)[18]
    text = f"{name:44} n={len(times):4}  median {median:7.2f} ms  p95 {p95:7.2f} ms"
    if bare:
        ratio = median / statistics.median(bare)
        text += f"  = {ratio:4.1f} x bare, p95 {p95 - statistics.quantiles(bare, n=20)[18]:+6.1f} ms"
    print(text, flush=True)


def until_hold(cell: Cell) -> bool:
    return cell.key == "first/hold"


def answers(player: Player, workshop: Workshop) -> Callable[[], RecordReading | None]:
    """Return a function that makes the next sensible reading of a run, or None at the first hold."""
    tools, today = workshop.registers.tools(), workshop.today()

    def make() -> RecordReading | None:
        state = player.state()
        cell = next_call(state)
        if cell is None or until_hold(cell):
            return None
        answer = usual_answer(state, cell, player.chance, tools, today)
        attempt = len(state.tries(cell.key)) + 1
        return RecordReading(kind="record", id=uuid4(), cell=cell.key, attempt=attempt, answer=answer)

    return make


def player_of(workshop: Workshop, days_ago: int) -> Player:
    clock = SetClock(datetime.now(UTC) - timedelta(days=days_ago))
    return Player(replace(workshop, clock=clock), clock, actor(workshop, "Bram Okafor"), 1)


def measure_store(workshop: Workshop, digest: str, bare: BareInsert) -> None:
    store, base = [], []
    for joint in ("head-1", "head-2", "head-3"):
        player = player_of(workshop, days_ago=1)
        player.start("unit-2", joint, digest)
        make = answers(player, workshop)
        while (command := make()) is not None:
            base.append(timed(bare))
            store.append(timed(partial(player.send, command)))
        player.play()  # its tools are off the studs before the next head takes them
    line("bare INSERT + COMMIT", base)
    line("store: decide, append, commit", store, base)


@cache
def _key_of(url: str) -> Path:
    """Return the key for a database: each is a site of its own."""
    return Path(tempfile.mkdtemp(prefix="jorvek-bench-")) / "site.key"


def serve(url: str, key: Path | None = None) -> tuple[subprocess.Popen[bytes], str]:
    port = free_port()
    own = str(key or _key_of(url))
    environment = {**os.environ, "JORVEK_DATABASE_URL": url, "JORVEK_PORT": str(port), "JORVEK_SITE_KEY": own}
    process = subprocess.Popen(
        [sys.executable, "-m", "jorvek.cli", "serve"], env=environment, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    for _ in range(600):
        try:
            if httpx.get(f"{address}/api/health").status_code == 200:
                return process, address
        except httpx.TransportError:
            time.sleep(0.05)
    raise SystemExit("the server did not start")


HEAD_OF_THIRTY = ("unit-5", "corvane-v10-head-tighten", "head-a", "head-b")
"""Two heads with thirty bolts, two cycles: 290 readings each, the largest Bench there is."""


@contextmanager
def peer(content: bytes) -> Iterator[httpx.Client]:
    """Start the empty route in a process of its own."""
    with tempfile.NamedTemporaryFile() as file:
        file.write(gzip.compress(content, 3))
        file.flush()
        port = free_port()
        process = subprocess.Popen([sys.executable, "-m", "bench.peer", str(port), file.name], cwd=ROOT)
        client = httpx.Client(base_url=f"http://127.0.0.1:{port}", headers={"Origin": f"http://127.0.0.1:{port}"})
        try:
            for _ in range(600):
                with suppress(httpx.TransportError):
                    client.get("/")
                    break
                time.sleep(0.05)
            yield client
        finally:
            process.terminate()
            process.wait()


def measure_http(workshop: Workshop, bare: BareInsert, address: str) -> None:
    """A reading posted, stored and answered, beside the empty route and a bare INSERT and COMMIT, in turn."""
    client = httpx.Client(base_url=address, headers={"Origin": address})
    bram = person_by_name(workshop, "Bram Okafor")
    client.post("/api/session", json={"person_id": str(bram.id), "pin": DEMO_PIN})
    engine, name, *joints = HEAD_OF_THIRTY
    by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
    posted, base, empty = [], [], []
    for joint in joints:
        player = player_of(workshop, days_ago=0)
        player.start(engine, joint, by_id[name], {"tool": "bar"})
        player.play(lambda cell: cell.key == "snug/pull/9")
        make, path = answers(player, workshop), f"/api/runs/{player.run_id}/commands"
        shown = client.get(f"/api/runs/{player.run_id}")
        knows = shown.json()["version"]
        with peer(shown.content) as other:
            for _ in range(60):
                command = make()
                if command is None:
                    break
                # As a tablet does: it says which view it shows, and is answered with what has changed.
                body = {"command": command.model_dump(mode="json"), "knows": knows}
                base.append(timed(bare))
                empty.append(timed(lambda body=body, path=path: other.post(path, json=body)))  # type: ignore[misc]  # bound now
                started = time.perf_counter()
                answer = client.post(path, json=body)
                posted.append((time.perf_counter() - started) * 1000)
                assert answer.status_code == 200, answer.text
                knows = answer.json()["version"]
    line("HTTP: empty route, same body, ready bytes", empty)
    line("HTTP: reading posted, stored, answered", posted)
    ratio = statistics.median(posted) / (statistics.median(empty) + statistics.median(base))
    print(f"{'':44} = {ratio:4.2f} x (empty route + bare INSERT + COMMIT), aim 3", flush=True)


def measure_following(workshop: Workshop, first: str, second: str) -> None:
    """How long until a screen on another process hears of a reading."""
    lio = person_by_name(workshop, "Lio Sandvik")
    clients = [httpx.Client(base_url=address, headers={"Origin": address}, timeout=30) for address in (first, second)]
    for client in clients:
        client.post("/api/session", json={"person_id": str(lio.id), "pin": DEMO_PIN})
    run_id = clients[0].get("/api/runs").json()["runs"][0]["run_id"]
    times: list[float] = []
    with clients[1].stream("GET", "/api/live") as stream:
        lines = stream.iter_lines()
        next(lines)
        time.sleep(0.6)
        for number in range(20):
            note = {"kind": "note", "id": str(uuid4()), "text": f"note {number}"}
            started = time.perf_counter()
            clients[0].post(f"/api/runs/{run_id}/commands", json={"command": note})
            next(line for line in lines if line.startswith("data:"))
            times.append((time.perf_counter() - started) * 1000)
            time.sleep(0.05 * (number % 5))
    line("second process: reading posted to heard", times)


PRESS = """() => new Promise((done) => {
  const before = document.querySelector('.row.current .count')?.textContent;
  const started = performance.now();
  const look = () => {
    if (document.querySelector('.row.current .count')?.textContent !== before) {
      requestAnimationFrame(() => done(performance.now() - started));
    } else requestAnimationFrame(look);
  };
  document.querySelector('.foot .v-btn.main').click();
  look();
})"""


EMPTY = """() => new Promise((done) => {
  const key = document.createElement("button");
  document.body.append(key);
  key.addEventListener("click", () => {
    key.textContent = String(Math.random());
    requestAnimationFrame(() => requestAnimationFrame(() => { key.remove(); done(performance.now() - started); }));
  });
  const started = performance.now();
  key.click();
})"""
"""A touch that only changes a word: what the browser itself takes to paint here."""


def measure_paint(workshop: Workshop, address: str) -> None:
    """Touch to painted on a head of thirty in its second cycle, beside the same touch that changes one word."""
    engine = HEAD_OF_THIRTY[0]
    times, empty = list[float](), list[float]()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce").new_page()
        wire = list[int]()
        session = page.context.new_cdp_session(page)
        session.send("Network.enable")
        session.on("Network.loadingFinished", lambda told: wire.append(int(told["encodedDataLength"])))
        page.goto(address)
        page.get_by_role("button", name="Bram Okafor").wait_for()
        first = sum(wire)
        page.get_by_role("button", name="Bram Okafor").click()
        for digit in DEMO_PIN:
            page.keyboard.press(digit)
        page.locator(".engine").first.wait_for()
        print(
            f"first load: {first / 1000:.0f} kB on the wire until somebody may sign in, "
            f"{sum(wire) / 1000:.0f} kB until the Berth is there (aim 250)",
            flush=True,
        )
        run = workshop.registers.runs(engine)[0]
        player = player_of(workshop, days_ago=0)
        player.run_id = run.id
        player.play(lambda cell: cell.key == "full-snug#2/pull/9")
        page.goto(f"{address}/bench/{run.id}")
        page.locator(".call").wait_for()
        for _ in range(20):
            empty.append(float(page.evaluate(EMPTY)))
            times += press_ticks(page, 1)
        browser.close()
    line("browser: a touch that changes one word", empty)
    line("browser: touch to verdict painted, 30 bolts", times)


def press_ticks(page: Page, count: int) -> list[float]:
    times = []
    for _ in range(count):
        page.wait_for_timeout(750)
        times.append(float(page.evaluate(PRESS)))
    return times


def main() -> None:
    with tempfile.TemporaryDirectory() as directory, running_server(Path(directory)) as server:
        database = Database(server.url)
        database.migrate()
        workshop = Workshop(database)
        digest = load_world(workshop, ROOT)
        bare = BareInsert(database)
        measure_store(workshop, digest, bare)
        process, address = serve(server.url)
        try:
            measure_http(workshop, bare, address)
            measure_paint(workshop, address)
            other, second = serve(server.url)
            try:
                measure_following(workshop, address, second)
            finally:
                other.terminate()
                other.wait()
        finally:
            process.terminate()
            process.wait()


if __name__ == "__main__":
    main()
