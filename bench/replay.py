"""A head of thirty fasteners, and an afternoon of ten runs on two tablets, worked by real pointer and key events.

Run with ``./jorvek bench replay``; ``head``, ``afternoon`` or ``memory`` after it does that part alone. Printed are
touches per reading, the time from a touch until its outcome is painted, the server's time per event,
and what 5,000 events cost in memory, in the server and in the browser.
"""

from __future__ import annotations

import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx2 as httpx
from bench.readings import serve
from playwright.sync_api import Browser, Page, sync_playwright
from tests.browser.conftest import FLAGS
from tests.browser.hands import Hands

from jorvek.core.run.log.cells import InputType
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.people.accounts import person_by_name
from jorvek.work.workshop import Workshop, system_clock

EVENTS = 5000
MOST_KB_PER_EVENT = 8.0
"""What one event may cost the server: the event itself and its place in the state of a run that is open."""
BETWEEN_PRESSES_S = 0.72
HEAD = ("unit-5", "head-a", "corvane-v10-head-tighten", {"tool": "bar"})
AFTERNOON = [
    HEAD,
    ("unit-5", "head-b", "corvane-v10-head-tighten", {"tool": "bar"}),
    *(("unit-5", f"rod-{bank}{n}", "corvane-v10-rod-tighten", {}) for bank in "ab" for n in range(1, 5)),
]

WATCH = """
window.painted = []; window.served = [];
let touched = null;
for (const kind of ["keydown", "pointerdown"]) addEventListener(kind, () => { touched = performance.now(); }, true);
new MutationObserver((changes) => {
  if (touched === null || !changes.some((c) => c.attributeName === "data-seq")) return;
  const since = touched; touched = null;
  requestAnimationFrame(() => requestAnimationFrame(() => window.painted.push(performance.now() - since)));
}).observe(document, { attributes: true, subtree: true, attributeFilter: ["data-seq"] });
new PerformanceObserver((list) => {
  for (const one of list.getEntries())
    if (one.name.endsWith("/commands")) window.served.push(one.responseStart - one.requestStart);
}).observe({ type: "resource", buffered: true });
"""


@dataclass
class Tablet:
    """One tablet that works, one that signs, and what was measured on the first."""

    page: Page
    signer: Page
    address: str
    painted: list[float] = field(default_factory=list)
    served: list[float] = field(default_factory=list)

    def sit_down(self, player: Player) -> Hands:
        bench = f"{self.address}/bench/{player.run_id}"
        self.page.goto(bench)
        self.page.locator(".call h1").wait_for()
        return Hands(player, self.page, self.signer, bench, lambda s: time.sleep(BETWEEN_PRESSES_S + s))

    def collect(self) -> None:
        self.painted += self.page.evaluate("window.painted.splice(0)")
        self.served += self.page.evaluate("window.served.splice(0)")


def sign_in(page: Page, address: str, name: str) -> None:
    page.goto(address)
    page.get_by_role("button", name=name).click()
    for digit in DEMO_PIN:
        page.keyboard.press(digit)
    page.locator("header.bar").wait_for()


def open_tablet(browser: Browser, address: str, name: str) -> Tablet:
    pages: list[Page] = []
    for who in (name, "Ines Halloran"):
        context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        context.add_init_script(WATCH)
        pages.append(context.new_page())
        sign_in(pages[-1], address, who)
    return Tablet(pages[0], pages[1], address)


def started(workshop: Workshop, who: str, what: tuple[str, str, str, dict[str, str]], seed: int) -> Player:
    engine, joint, name, way = what
    digest = next(r.hash for r in workshop.registers.revisions() if r.id == name)
    # The player only reckons what to type; the clock of the run is the server's own.
    player = Player(workshop, SetClock(datetime.now(UTC)), actor(workshop, who), seed)
    player.start(engine, joint, digest, way)
    return player


def p(times: list[float]) -> str:
    return (
        f"p50 {statistics.median(times):6.1f} ms  p95 {statistics.quantiles(times, n=20)[18]:6.1f} ms  n={len(times)}"
    )


def say(name: str, hands: list[Hands], tablets: list[Tablet]) -> None:
    readings = sum(len(tries) for h in hands for tries in h.state().attempts.values())
    touches = sum(h.touches for h in hands)
    painted = [t for tablet in tablets for t in tablet.painted]
    served = [t for tablet in tablets for t in tablet.served]
    print(f"{name}: {len(hands)} runs, {readings} readings, {touches / readings:.2f} touches a reading")
    print(f"  touch until painted   {p(painted)}")
    print(f"  server, one event     {p(served)}", flush=True)


def pulls(hands: Hands) -> str:
    asks = {c.key: c.ask for c in hands.state().definition.cells}
    number = sum(asks[key] in (InputType.PULL, InputType.TURN) for key in hands.state().attempts)
    touches = sum(hands.touches_on.get(ask, 0) for ask in (InputType.PULL, InputType.TURN))
    return f"{number} pulls and turns, {touches / max(1, number):.2f} touches each"


def head(workshop: Workshop, tablet: Tablet) -> None:
    hands = tablet.sit_down(started(workshop, "Bram Okafor", HEAD, 1))
    hands.work()
    tablet.collect()
    say("A head of 30, three stages, two cycles", [hands], [tablet])
    print(f"  {pulls(hands)}", flush=True)


def afternoon(workshop: Workshop, tablets: list[Tablet]) -> None:
    waiting = [started(workshop, "Bram Okafor", what, k) for k, what in enumerate(AFTERNOON[1:], 2)]
    done: list[Hands] = []
    at: list[Hands | None] = [None, None]
    while waiting or any(at):
        for k, tablet in enumerate(tablets):
            if at[k] is None and waiting:
                at[k] = tablet.sit_down(waiting.pop(0))
            hands = at[k]
            if hands is not None and not hands.one_call():
                hands.close()
                tablet.collect()
                done.append(hands)
                at[k] = None
    say("An afternoon on two tablets", done, tablets)


def resident_kb(pid: int) -> float:
    text = Path(f"/proc/{pid}/status").read_text()
    found = re.search(r"VmRSS:\s+(\d+)", text)
    assert found is not None
    return float(found.group(1))


def heap_kb(page: Page) -> float:
    session = page.context.new_cdp_session(page)
    session.send("HeapProfiler.collectGarbage")
    session.send("Performance.enable")
    metrics = {m["name"]: m["value"] for m in session.send("Performance.getMetrics")["metrics"]}
    return float(metrics["JSHeapUsedSize"]) / 1024.0


def leave(page: Page) -> float:
    """Go home, let the page come to rest, and return what it holds in kB."""
    page.locator("nav").get_by_role("link", name="Berth").click()
    page.locator(".engine").first.wait_for()
    page.wait_for_timeout(1500)
    return heap_kb(page)


def memory(workshop: Workshop, server: subprocess.Popen[bytes], tablet: Tablet) -> None:
    player = started(workshop, "Bram Okafor", ("unit-2", "head-1", "tarnholt-7l34-head-tighten", {}), 9)
    client = httpx.Client(base_url=tablet.address, headers={"Origin": tablet.address})
    person = person_by_name(workshop, "Bram Okafor")
    client.post("/api/session", json={"person_id": str(person.id), "pin": DEMO_PIN}).raise_for_status()
    page = tablet.page
    page.goto(f"{tablet.address}/bench/{player.run_id}")
    page.locator(".call h1").wait_for()
    base_heap = leave(page)
    page.go_back()
    page.locator(".call h1").wait_for()

    def note(k: int) -> None:
        command = {"kind": "note", "id": str(uuid4()), "text": f"Remark {k}"}
        client.post(f"/api/runs/{player.run_id}/commands", json={"command": command}).raise_for_status()

    for k in range(200):
        note(k)
    first_rss, first_heap = resident_kb(server.pid), heap_kb(page)
    for k in range(EVENTS):
        note(k)
    per_event = (resident_kb(server.pid) - first_rss) / EVENTS
    per_event_page = (heap_kb(page) - first_heap) / EVENTS
    left = leave(page) - base_heap
    verdict = "within" if per_event <= MOST_KB_PER_EVENT else "ABOVE"
    print(f"Memory over {EVENTS} events on one run, a tablet looking on")
    print(f"  server   {per_event:6.2f} kB an event, {verdict} the {MOST_KB_PER_EVENT:g} kB stated")
    print(f"  browser  {per_event_page:6.2f} kB an event; after leaving the run {left:+.0f} kB against before it")


@contextmanager
def house() -> Iterator[tuple[Workshop, subprocess.Popen[bytes], str]]:
    with tempfile.TemporaryDirectory() as place, running_server(Path(place) / "db") as database:
        workshop = Workshop(Database(database.url), system_clock, photo_dir=Path(place) / "photos")
        workshop.database.migrate()
        load_world(workshop, ROOT)
        process, address = serve(database.url)
        try:
            yield workshop, process, address
        finally:
            process.terminate()
            process.wait()


def main() -> None:
    with house() as (workshop, process, address), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        tablets = [open_tablet(browser, address, "Bram Okafor") for _ in range(2)]
        wanted = sys.argv[1:] or ["head", "afternoon", "memory"]
        if "head" in wanted:
            head(workshop, tablets[0])
            tablets[0].painted.clear()
            tablets[0].served.clear()
        if "afternoon" in wanted:
            afternoon(workshop, tablets)
        if "memory" in wanted:
            memory(workshop, process, tablets[0])
        browser.close()


if __name__ == "__main__":
    main()
