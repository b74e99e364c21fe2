"""An afternoon on which everything breaks: servers, the database and browsers are killed, links cut, disks filled.

Two tablets, each on an application process of its own, press what three runs ask for while faults come
and go. Afterwards every press that was kept anywhere has to be in the log once, as a reading or as a
claim, and the runs go on.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.request import urlopen
from uuid import UUID

from playwright.sync_api import BrowserContext, Page, Playwright, Request, Response
from playwright.sync_api import Error as BrowserError

from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import Server, free_port, start_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop
from tests.browser.conftest import FLAGS
from tests.browser.links import Link

Act = Callable[[random.Random], None]
PRESS_S = 0.36
V10 = "corvane-v10-head-tighten"
L34 = "tarnholt-7l34-head-tighten"
CLOCK = """(() => {
  const Real = Date;
  const jump = () => Number(sessionStorage.getItem('jump') ?? 0);
  window.Date = class extends Real {
    constructor(...given) { if (given.length) super(...given); else super(Real.now() + jump()); }
    static now() { return Real.now() + jump(); }
  };
})()"""
WAITING = """async () => {
  const opened = await new Promise((done) => {
    const asked = indexedDB.open('jorvek');
    asked.onsuccess = () => done(asked.result);
    asked.onerror = () => done(null);
  });
  if (!opened?.objectStoreNames.contains('parcels')) return [];
  const all = await new Promise((done) => {
    const asked = opened.transaction('parcels').objectStore('parcels').getAll();
    asked.onsuccess = () => done(asked.result);
  });
  opened.close();
  return all.map((one) => one.command.id);
}"""
STANDS = """() => {
  if (document.querySelector('.person')) return 'people';
  if (document.querySelector('.pad') && !document.querySelector('header.bar')) return 'pin';
  const call = document.querySelector('.call');
  if (!call) return document.querySelector('.bench') ? 'nothing' : 'elsewhere';
  const ask = [...call.classList].find((name) => ['pull', 'turn', 'tick', 'value', 'feeler'].includes(name));
  const reads = { mm: 'length', '°C': 'value' };
  if (ask === 'value') return reads[call.querySelector('.unit')?.textContent.trim()] ?? 'nothing';
  if (ask === undefined) return 'nothing';
  return call.querySelector('.foot .main .key') === null ? 'deliberate' : ask;
}"""


@dataclass
class Tally:
    """What happened, by the ids of the presses."""

    sent: set[str] = field(default_factory=set)
    acknowledged: set[str] = field(default_factory=set)
    refused: set[str] = field(default_factory=set)
    kept: set[str] = field(default_factory=set)
    faults: Counter[str] = field(default_factory=Counter)
    statuses: Counter[int] = field(default_factory=Counter)
    most_waiting: int = 0

    def asked(self, request: Request) -> None:
        """Note a press that leaves a tablet."""
        if command := _command(request):
            self.sent.add(command)

    def answered(self, response: Response) -> None:
        """Note what a tablet is told of a press."""
        if command := _command(response.request):
            self.statuses[response.status] += 1
            if response.status == 200:
                self.acknowledged.add(command)
            elif 400 <= response.status < 500 and response.status not in (401, 429):
                self.refused.add(command)


def _command(request: Request) -> str | None:
    if request.method != "POST" or not request.url.endswith("/commands"):
        return None
    body: Any = request.post_data_json
    return str(body["command"]["id"])


class Process:
    """An application process on a port of its own, which can be killed and started again."""

    def __init__(self, database_url: str, data: Path) -> None:
        self.port = free_port()
        self.environment = os.environ | {
            "JORVEK_DATABASE_URL": database_url,
            "JORVEK_DATA": str(data),
            # The servers of a site share its key.
            "JORVEK_SITE_KEY": str(data.parent / "site.key"),
            "JORVEK_PORT": str(self.port),
            "PYTHONPATH": str(ROOT / "src"),
        }
        self._running: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it, and wait until it answers."""
        command = [sys.executable, "-m", "jorvek.cli", "serve"]
        self._running = subprocess.Popen(command, cwd=ROOT, env=self.environment, stdout=subprocess.DEVNULL)
        _until(self.answers, 30)

    def answers(self) -> bool:
        """Tell whether it is there."""
        with suppress(OSError), urlopen(f"http://127.0.0.1:{self.port}/api/people", timeout=1) as answer:
            return bool(answer.status == 200)
        return False

    def kill(self) -> None:
        """Kill it as a power cut would."""
        if self._running is not None:
            self._running.kill()
            self._running.wait()


class Tablet:
    """A browser of its own, with a disk of its own, on a cable of its own."""

    def __init__(self, playwright: Playwright, place: Path, link: Link, who: str, runs_here: list[UUID]) -> None:
        self._playwright, self._place, self.link, self.who, self._runs = playwright, place, link, who, runs_here
        self._chosen = 0
        self._context: BrowserContext | None = None
        self.page: Page
        self.tally: Tally

    def switch_on(self, tally: Tally) -> None:
        """Start the browser and go to the Bench, with or without a server."""
        self.tally = tally
        self._context = self._playwright.chromium.launch_persistent_context(
            self._place,
            executable_path="/usr/bin/chromium",
            args=FLAGS,
            viewport={"width": 1280, "height": 800},
            reduced_motion="reduce",
            timezone_id="UTC",
            locale="en-GB",
        )
        self._context.add_init_script(CLOCK)
        self.page = self._context.pages[0]
        self.page.set_default_timeout(4000)
        self.page.on("request", tally.asked)
        self.page.on("response", tally.answered)
        self._go()

    def _go(self) -> None:
        with suppress(BrowserError):
            self.page.goto(f"{self.link.address}/bench/{self._runs[self._chosen]}")

    def press(self, chance: random.Random) -> None:
        """Do the next thing that the screen asks for; go to another run when it asks for nothing."""
        with suppress(BrowserError):
            match self.page.evaluate(STANDS):
                case "people":
                    self.page.get_by_role("button", name=self.who).click()
                case "pin":
                    for digit in DEMO_PIN:
                        self.page.keyboard.press(digit)
                    self.page.locator("header.bar").wait_for(timeout=2000)
                    self._go()
                case "value" | "length" as what:
                    reading = chance.uniform(612.0, 612.05) if what == "length" else chance.uniform(18.5, 19.5)
                    self.page.keyboard.type(f"{reading:.3f}")
                    self.page.keyboard.press("Enter")
                case "deliberate":
                    self.page.locator(".foot .main").click(timeout=1000)
                case "nothing":
                    self._chosen = (self._chosen + 1) % len(self._runs)
                    self._go()
                case "elsewhere":
                    self._go()
                case _:
                    self.page.keyboard.press("Space")

    def look_into_box(self) -> int:
        """Note what waits on the tablet's disk now."""
        with suppress(BrowserError):
            waiting = self.page.evaluate(WAITING)
            self.tally.kept.update(waiting)
            self.tally.most_waiting = max(self.tally.most_waiting, len(waiting))
            return len(waiting)
        return -1

    def kill(self) -> None:
        """Kill every process of the browser, as a tablet that falls into the bilge."""
        self.look_into_box()
        for process in _processes_with(str(self._place)):
            with suppress(ProcessLookupError):
                os.kill(process, signal.SIGKILL)
        _until(lambda: not _processes_with(str(self._place)), 10)
        with suppress(BrowserError):
            assert self._context is not None
            self._context.close()
        for leftover in self._place.glob("Singleton*"):
            leftover.unlink(missing_ok=True)

    def jump(self, hours: float) -> None:
        """Set the tablet's clock wrong."""
        with suppress(BrowserError):
            self.page.evaluate(f"sessionStorage.setItem('jump', '{round(hours * 3_600_000)}')")

    def bring_home(self) -> bool:
        """With everything mended, wait until nothing waits on the tablet any more."""
        until = time.monotonic() + 60
        while time.monotonic() < until:
            if self.page.evaluate(STANDS) in ("people", "pin", "elsewhere"):
                self.press(random.Random(0))
            if self.look_into_box() == 0:
                return True
            self.page.wait_for_timeout(300)
        return False


def _processes_with(word: str) -> list[int]:
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            with suppress(OSError):
                if word in (entry / "cmdline").read_bytes().decode(errors="replace"):
                    found.append(int(entry.name))
    return found


def _until(true: Callable[[], bool], seconds: float) -> None:
    until = time.monotonic() + seconds
    while not true():
        if time.monotonic() > until:
            raise TimeoutError
        time.sleep(0.05)


@contextmanager
def small_disk(place: Path, megabytes: int) -> Iterator[bool]:
    """Put a disk of a given size on a directory; False where only the machine's keeper may do that."""
    place.mkdir(parents=True, exist_ok=True)
    command = ["mount", "-t", "tmpfs", "-o", f"size={megabytes}m", "tmpfs", str(place)]
    mounted = subprocess.run(command, capture_output=True, check=False).returncode == 0
    try:
        yield mounted
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(place)], check=False)


@dataclass
class House:
    """The database, two application processes on it, two tablets, three runs, and a disk that can be filled."""

    database: Server
    place: Path
    has_disk: bool
    tally: Tally = field(default_factory=Tally)
    processes: list[Process] = field(default_factory=list)
    tablets: list[Tablet] = field(default_factory=list)
    players: list[Player] = field(default_factory=list)

    def open(self, playwright: Playwright) -> None:
        """Begin the runs, start everything, and sign in on both tablets."""
        clock = SetClock(datetime.now(UTC) - timedelta(minutes=20))
        self.workshop = Workshop(Database(self.database.url), clock, photo_dir=self.place / "photos")
        self.workshop.database.migrate()
        load_world(self.workshop, ROOT)
        self.players += _begun(self.workshop, clock)
        a, b, c = (player.run_id for player in self.players)
        for k, (who, here) in enumerate({"Bram Okafor": [a, b], "Lio Sandvik": [c, a]}.items()):
            process = Process(self.database.url, self.place / f"process-{k}")
            self.processes.append(process)
            process.start()
            tablet = Tablet(playwright, self.place / f"tablet-{k}", Link(process.port), who, here)
            self.tablets.append(tablet)
            tablet.switch_on(self.tally)
        self.work(2.5, random.Random(1))

    def faults(self) -> dict[str, tuple[Act, Act]]:
        """Return what may break, and how each is mended."""

        def a_link(act: Callable[[Link], None]) -> Act:
            return lambda chance: act(chance.choice(self.tablets).link)

        def mend(_: random.Random) -> None:
            for tablet in self.tablets:
                tablet.link.mend()

        def nothing(_: random.Random) -> None:
            pass

        found: dict[str, tuple[Act, Act]] = {
            "link cut": (a_link(Link.cut), mend),
            "requests held back": (a_link(lambda link: link.hold("asked")), mend),
            "answers held back": (a_link(lambda link: link.hold("answered")), mend),
            "server killed": (lambda chance: chance.choice(self.processes).kill(), self._start_again),
            "database killed": (lambda _: self.database.kill(), self._database_again),
            "browser killed": (self._kill_browser, nothing),
            "clock jumped": (lambda chance: chance.choice(self.tablets).jump(chance.uniform(-30, 30)), nothing),
        }
        if self.has_disk:
            found["disk full"] = (self._fill, self._make_room)
        return found

    def _start_again(self, _: random.Random) -> None:
        for process in self.processes:
            if not process.answers():
                process.kill()
                process.start()

    def _database_again(self, _: random.Random) -> None:
        self.database = start_server(self.database.directory, self.database.port)

    def _kill_browser(self, chance: random.Random) -> None:
        tablet = chance.choice(self.tablets)
        tablet.kill()
        tablet.switch_on(self.tally)

    def _fill(self, _: random.Random) -> None:
        with suppress(OSError), (self.place / "disk" / "ballast").open("wb", buffering=0) as ballast:
            while True:
                ballast.write(b"\0" * 65536)

    def _make_room(self, chance: random.Random) -> None:
        (self.place / "disk" / "ballast").unlink(missing_ok=True)
        # A database that gave up on a full disk is started again, as its keeper would.
        if self.database.process.poll() is not None:
            self._database_again(chance)

    def work(self, seconds: float, chance: random.Random) -> None:
        """Press on both tablets for a while."""
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            for tablet in self.tablets:
                tablet.press(chance)
                time.sleep(PRESS_S)

    def go_wrong(self, name: str, chance: random.Random) -> None:
        """Let one thing break while both press on, and mend it."""
        breaks, mends = self.faults()[name]
        self.tally.faults[name] += 1
        breaks(chance)
        self.work(chance.uniform(1.5, 3.0), chance)
        for tablet in self.tablets:
            tablet.look_into_box()
        mends(chance)
        self.work(chance.uniform(0.6, 1.2), chance)

    def reckon(self) -> Reckoning:
        """Bring everything home and count every press."""
        home = [tablet.bring_home() for tablet in self.tablets]
        self.workshop.database.engine.dispose()
        known = Counter(
            str(stored.event.id) for player in self.players for stored in self.workshop.log.stored(player.run_id)
        )
        states = [player.state() for player in self.players]
        pressed = self.tally.sent | self.tally.kept
        return Reckoning(
            home=all(home),
            pressed=len(pressed),
            readings=sum(len(tries) for state in states for tries in state.attempts.values()),
            claims=sum(len(state.claims) for state in states),
            lost=sorted(pressed - known.keys() - self.tally.refused),
            forgotten=sorted(self.tally.acknowledged - known.keys()),
            doubled=sorted(one for one, times in known.items() if times > 1),
        )

    def stop(self) -> None:
        """Leave nothing behind."""
        for tablet in self.tablets:
            tablet.kill()
        for process in self.processes:
            process.kill()
        self.database.stop()


@dataclass(frozen=True)
class Reckoning:
    """What is in the log after all of it.

    Attributes:
        home: whether nothing waits on a tablet any more.
        pressed: presses that left a tablet or lay on its disk.
        readings: attempts in the log, those before the afternoon too.
        claims: what waited and did not fit any more.
        lost: presses that are nowhere, and that nobody was told of.
        forgotten: presses that were acknowledged and are nowhere.
        doubled: presses that are there twice.
    """

    home: bool
    pressed: int
    readings: int
    claims: int
    lost: list[str]
    forgotten: list[str]
    doubled: list[str]


@contextmanager
def house(playwright: Playwright, place: Path) -> Iterator[House]:
    """Give the house, with three runs begun: two heads of many bolts, and one on another engine."""
    with ExitStack() as stack:
        own_disk = stack.enter_context(small_disk(place / "disk", 160))
        database = start_server(place / "disk" / "db")
        whole = House(database, place, own_disk)
        stack.callback(whole.stop)
        whole.open(playwright)
        yield whole


def _begun(workshop: Workshop, clock: SetClock) -> list[Player]:
    summaries = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
    wanted = [
        ("unit-5", "head-a", V10, {"tool": "bar"}, "snug/pull/9"),
        ("unit-5", "head-b", V10, {"tool": "bar"}, "run-down/contact/9"),
        ("unit-2", "head-4", L34, {}, "length-before/temperature/1"),
    ]
    players = []
    for engine, joint, name, options, until in wanted:
        player = Player(workshop, clock, actor(workshop, "Bram Okafor"), 5)
        player.start(engine, joint, summaries[name], options or None)
        # The default binds the key of this round.
        player.play(lambda cell, until=until: cell.key == until)  # type: ignore[misc]  # bound now
        players.append(player)
    return players
