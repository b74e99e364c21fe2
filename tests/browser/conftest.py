"""The real interface in headless Chromium, on a server in this process whose clock a test can move."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from datetime import timedelta

import pytest
import uvicorn
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, TimeoutError, expect, sync_playwright

from jorvek.api.app import create_app
from jorvek.local.demo import DEMO_PIN
from jorvek.local.logs import structured_logs
from jorvek.local.mariadb import free_port
from jorvek.settings import ROOT
from jorvek.work.engine import silent_tablets
from tests.conftest import World

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-default-apps",
    "--no-default-browser-check",
    "--disable-domain-reliability",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]


class Site:
    """The application at an address."""

    def __init__(self, world: World) -> None:
        self.world = world
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        config = uvicorn.Config(
            create_app(world.workshop, ROOT / "web" / "dist"),
            host="127.0.0.1",
            port=self.port,
            log_level="warning",
            timeout_graceful_shutdown=1,
        )
        self._server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self._server.run, daemon=True)

    def start(self) -> None:
        self._thread.start()
        while not self._server.started:
            time.sleep(0.02)

    def stop(self) -> None:
        self._server.should_exit = True
        self._thread.join(10)


@pytest.fixture
def site(world: World, monkeypatch: pytest.MonkeyPatch) -> Iterator[Site]:
    structured_logs()
    # Steady hands put the clock forward by hours while a tablet says every twenty seconds that it is here.
    monkeypatch.setattr(silent_tablets, "SILENT_AFTER", timedelta(days=3650))
    running = Site(world)
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def playwright_here() -> Iterator[Playwright]:
    with sync_playwright() as playwright:
        yield playwright


@pytest.fixture(scope="session")
def browser(playwright_here: Playwright) -> Iterator[Browser]:
    launched = playwright_here.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
    yield launched
    launched.close()


PATIENCE_MS = 120_000
"""Stories wait for states; only a state that never comes ends one, also on a machine ten times as busy."""
LIST_STEP_PX = 200
A_LOOK_MS = 2_000
"""After so long without a change a person looks again and presses again; nothing fails by it."""
expect.set_options(timeout=PATIENCE_MS)


def browser_context(
    browser: Browser, width: int = 1280, height: int = 800, scale: float = 1.0, *, worker: bool = False
) -> BrowserContext:
    """Open a tablet of a size; without its worker unless that is what is tried."""
    context = browser.new_context(
        viewport={"width": width, "height": height},
        device_scale_factor=scale,
        reduced_motion="reduce",
        timezone_id="UTC",
        locale="en-GB",
        service_workers="allow" if worker else "block",
    )
    context.set_default_timeout(PATIENCE_MS)
    # What a screen says on its first day is tried by its own story.
    context.add_init_script("localStorage.getItem('jorvek.hints') ?? localStorage.setItem('jorvek.hints', 'off')")
    return context


OpenTablet = Callable[..., Page]


@pytest.fixture
def tablet(browser: Browser, site: Site) -> Iterator[OpenTablet]:
    """Give a function that opens a tablet, signed in as somebody; nothing may go wrong on it."""
    contexts: list[BrowserContext] = []
    troubles: list[str] = []

    def open_tablet(name: str, language: str = "en", address: str = site.address, worker: bool = False) -> Page:
        context = browser_context(browser, worker=worker)
        contexts.append(context)
        context.add_init_script(f"localStorage.setItem('jorvek.language', '{language}')")
        page = context.new_page()
        page.on("pageerror", lambda error: troubles.append(f"{name}: {error}"))
        page.goto(address)
        sign_in(page, name)
        return page

    yield open_tablet
    for context in contexts:
        context.close()
    assert troubles == []


def choose(page: Page, label: str, option: str) -> None:
    """Choose from a list that opens, and look whether it was taken, as a person does.

    A list may still move under the finger while it opens, and a press on what moves away is no press: whoever
    sees that nothing was chosen chooses again.
    """
    field = page.locator(".v-select", has=page.get_by_role("combobox", name=label, exact=True))
    wanted = page.get_by_role("option", name=option, exact=True)
    patient_until = time.monotonic() + PATIENCE_MS / 1000
    while option not in field.inner_text() and time.monotonic() < patient_until:
        # The field's frame is what a finger meets; the line in it only says what was chosen.
        if field.get_by_role("combobox").first.get_attribute("aria-expanded") != "true" and not wanted.is_visible():
            field.locator(".v-field").click()
        if not wanted.count():
            # Only what is in sight of a long list is there; a person scrolls to the rest.
            with contextlib.suppress(TimeoutError):
                page.get_by_role("listbox", name=label, exact=True).hover(timeout=A_LOOK_MS)
                page.mouse.wheel(0, LIST_STEP_PX)
        with contextlib.suppress(TimeoutError):
            wanted.click(timeout=A_LOOK_MS)
            wanted.wait_for(state="hidden", timeout=A_LOOK_MS)
    expect(field).to_contain_text(option)


def sign_in(page: Page, name: str) -> None:
    page.get_by_role("button", name=name).click()
    for digit in DEMO_PIN:
        page.keyboard.press(digit)
    page.locator("header.bar").wait_for()
