"""Takes the pictures of ``docs/screenshots`` anew, from the demo's world on a private server.

``./jorvek bench pictures [DIRECTORY]``; the record on paper wants Debian's poppler-utils. Every picture is 1280×800
unless its view is shown as on a phone or upright.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import timedelta
from pathlib import Path

from bench.readings import serve
from playwright.sync_api import Browser, Page, sync_playwright

from jorvek.core.run.log.cells import Cell
from jorvek.local.demo import DEMO_PIN, actor, load_history, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store.database import Database
from jorvek.work.workshop import Workshop

PLACE = ROOT / "docs" / "screenshots"
LEAD, MECHANIC, CHIEF = "Bram Okafor", "Lio Sandvik", "Ines Halloran"


@dataclass
class Taken:
    """One picture: what is opened by whom, what is done there, and how large the screen is."""

    name: str
    path: str
    act: Callable[[Page], None] = field(default=lambda _: None)
    who: str = LEAD
    size: tuple[int, int] = (1280, 800)


def pressed(*keys: str) -> Callable[[Page], None]:
    """Press keys one after the other."""

    def act(page: Page) -> None:
        for key in keys:
            page.keyboard.press(key)

    return act


def link_lost(page: Page) -> None:
    """Three readings without a link."""
    page.context.set_offline(True)
    for reading in ("19.2", "612.018", "19.2"):
        pressed(*reading, "Enter")(page)
        # A touch that follows at once is taken for the same one.
        page.wait_for_timeout(1000)


def typed(page: Page) -> None:
    """A sum in the Reckoner whose fields are filled."""
    page.locator("main svg").first.wait_for()


def planned(page: Page) -> None:
    """A plan is asked for, and there."""
    page.get_by_role("button", name="Make a plan").click()
    page.get_by_role("button", name="Take this plan").click(timeout=120_000)
    page.get_by_text("taken by").wait_for()
    page.locator(".lane .bar").first.wait_for()


class Yard:
    """The demo's world with a few runs more, each standing at a view worth a picture."""

    def __init__(self, workshop: Workshop, digest: str) -> None:
        self.workshop = workshop
        load_history(workshop, digest)
        self.by_id = {r.id: r.hash for r in workshop.registers.revisions() if r.status == "approved"}
        self.all = {r.id: r.hash for r in workshop.registers.revisions()}

    def work_on(self) -> None:
        """Begin a few runs more, each to stand at a view worth a picture."""
        head = "tarnholt-7l34-head-tighten"
        self.pressure = self.begun(LEAD, 1.5, "unit-2", "head-4", head, lambda c: c.key == "second/lowest")
        loosen = "tarnholt-7l34-rod-loosen"
        self.ladder = self.begun(MECHANIC, 1.5, "unit-4", "rod-5", loosen, lambda c: c.key == "free/free/2")
        off = "corvane-v10-main-loosen"
        self.open = self.begun(LEAD, 0.3, "unit-5", "main-2", off, lambda c: c.key.startswith("pairs/"))
        bolts, first = "corvane-v10-head-tighten", "run-down/contact/9"
        self.aged = self.begun(MECHANIC, 12, "unit-5", "head-b", bolts, lambda c: c.key == first, tool="bar")

    def begun(
        self, who: str, hours: float, engine: str, joint: str, name: str, until: Callable[[Cell], bool], **way: str
    ) -> str:
        """Return the run that was begun some hours ago and stands at a call."""
        clock = SetClock(self.workshop.clock() - timedelta(hours=hours))
        old = self.workshop
        past = replace(old, clock=clock)
        player = Player(past, clock, actor(past, who), 5)
        player.start(engine, joint, self.by_id[name], way or None)
        player.play(until)
        return str(player.run_id)

    def run_at(self, engine: str, joint: str, *, closed: bool = False) -> str:
        """Return a run of the demo by its joint."""
        runs = self.workshop.registers.runs(engine)
        return next(str(r.id) for r in runs if r.joint_key == joint and r.open != closed)

    def pictures(self) -> Iterator[Taken]:
        """Every view once."""
        bad = next(name for name in self.all if name.endswith("bad"))
        waiting = self.run_at("unit-2", "head-3")
        yield Taken("berth", "/")
        yield Taken("engine", "/engine/unit-2")
        yield Taken("plan", "/engine/unit-2/plan", planned)
        # There are two sets of tensioners: what this run has drawn, the next one is handed.
        head = "tarnholt-7l34-head-tighten"
        length = self.begun(LEAD, 0.2, "unit-4", "head-2", head, lambda c: c.key.startswith("length-before/"))
        yield Taken("bench-length", f"/bench/{length}", size=(390, 844))
        yield Taken("sheet", f"/sheet/{length}")
        yield Taken("bench-no-link", f"/bench/{length}", link_lost)
        self.work_on()
        yield Taken("bench-pressure", f"/bench/{self.pressure}")
        yield Taken("bench-question", f"/bench/{self.run_at('unit-2', 'head-6')}", who=CHIEF)
        yield Taken("bench-angle", f"/bench/{self.run_at('unit-5', 'head-a')}", size=(800, 1280))
        yield Taken("bench-ladder", f"/bench/{self.ladder}")
        yield Taken("bench-metal", f"/bench/{self.open}")
        yield Taken("bench-hand-over", f"/bench/{self.aged}", pressed("h"))
        yield Taken("strips", "/strips")
        yield Taken("gates", "/gates")
        yield Taken("record", f"/records/{waiting}")
        yield Taken("procedure", f"/procedures/{self.by_id['tarnholt-7l34-head-tighten']}")
        yield Taken("procedure-check", f"/procedures/{self.all[bad]}")
        yield Taken("reckoner", "/reckoner/pressure", typed)


@contextmanager
def opened(browser: Browser, address: str, taken: Taken) -> Iterator[Page]:
    """Open a tablet of the size, signed in."""
    width, height = taken.size
    context = browser.new_context(
        viewport={"width": width, "height": height},
        reduced_motion="reduce",
        timezone_id="UTC",
        locale="en-GB",
        service_workers="block",
    )
    context.add_init_script("localStorage.setItem('jorvek.hints', 'off')")
    page = context.new_page()
    page.goto(address)
    page.get_by_role("button", name=taken.who).wait_for()
    yield page
    context.close()


def take(browser: Browser, address: str, taken: Taken, place: Path) -> None:
    """Take one picture, once nothing is fetched any more."""
    with opened(browser, address, taken) as page:
        page.get_by_role("button", name=taken.who).click()
        pressed(*DEMO_PIN)(page)
        page.locator(".engine").first.wait_for()
        page.goto(address + taken.path)
        page.locator("#content").wait_for()
        page.wait_for_timeout(1200)
        taken.act(page)
        page.wait_for_timeout(600)
        page.screenshot(path=place / f"{taken.name}.png")


def record_on_paper(browser: Browser, address: str, run: str, place: Path) -> None:
    """Turn the first page of the record into a picture."""
    with opened(browser, address, Taken("", "")) as page, tempfile.TemporaryDirectory() as directory:
        page.get_by_role("button", name=LEAD).click()
        pressed(*DEMO_PIN)(page)
        page.locator(".engine").first.wait_for()
        paper = Path(directory) / "record.pdf"
        paper.write_bytes(page.request.get(f"{address}/api/runs/{run}/record.pdf").body())
        command = ["pdftoppm", "-png", "-singlefile", "-r", "80", str(paper), str(place / "record-paper")]
        subprocess.run(command, check=True)


def main(directory: str = str(PLACE)) -> None:
    """Take them all."""
    place = Path(directory)
    place.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as data,
        tempfile.TemporaryDirectory() as photos,
        running_server(Path(data)) as server,
        sync_playwright() as playwright,
    ):
        database = Database(server.url)
        database.migrate()
        workshop = Workshop(database, photo_dir=Path(photos))
        yard = Yard(workshop, load_world(workshop, ROOT))
        process, address = serve(server.url)
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        try:
            for taken in yard.pictures():
                take(browser, address, taken, place)
                print(taken.name, flush=True)
            record_on_paper(browser, address, yard.run_at("unit-2", "head-3"), place)
        finally:
            browser.close()
            process.terminate()
            process.wait()


if __name__ == "__main__":
    main(*sys.argv[1:])
