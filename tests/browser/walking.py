"""What is wrong with a screen at a size, as hands and eyes would meet it: measured in the page itself."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page
from playwright.sync_api import TimeoutError as PlaywrightTimeout


@dataclass(frozen=True)
class Size:
    """A tablet, a phone or a zoomed page: CSS pixels and what a CSS pixel is made of."""

    name: str
    width: int
    height: int
    scale: float = 1.0


SIZES = (
    Size("tablet", 1280, 800),
    Size("small-tablet", 1024, 768),
    Size("portrait", 800, 1280),
    Size("phone", 390, 844),
    Size("zoomed-200", 640, 400, 2.0),
)
TOUCH_PX = 44
GLOVES_PX = 64

LARGER = "document.documentElement.style.fontSize = '140%'"
"""Letters two fifths larger, as somebody sets them who left his glasses at home."""
LONGER = """() => {
  document.documentElement.style.fontSize = '';
  const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (words.nextNode())
    if (!words.currentNode.parentElement.closest('script, style, math, .mdi'))
      words.currentNode.data = words.currentNode.data.replace(
        /\\p{L}{4,}/gu, (word) => word + word.slice(-Math.round(word.length * 0.6)).toLowerCase());
}"""
"""Every word three fifths longer, as another language may need it; figures and units stay."""

BAR_FITS = """() => {
  const bar = document.querySelector('header.bar');
  return bar === null || bar.scrollWidth <= bar.clientWidth + 1;
}"""

_FAULTS = (Path(__file__).parent / "faults.js").read_text(encoding="utf-8").strip().removesuffix(";")


def faults(page: Page, least: int = TOUCH_PX) -> list[str]:
    """Return what is wrong with the page as it stands; ``least`` is the smallest target, in px."""
    found = page.evaluate(_FAULTS, least)
    assert isinstance(found, list)
    return [str(one) for one in found]


def faults_in_other_words(page: Page, least: int = TOUCH_PX) -> list[str]:
    """Return what is wrong with letters two fifths larger and with words three fifths longer; the page is spoilt."""
    found = []
    for name, change in (("larger letters", LARGER), ("longer words", LONGER)):
        page.evaluate(change)
        page.evaluate("() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
        # The bar folds when it has been measured; one that never fits is found below.
        with suppress(PlaywrightTimeout):
            page.wait_for_function(BAR_FITS, timeout=10_000)
        found += [f"{name}, {fault}" for fault in faults(page, least)]
    return found


def seen_by_axe(page: Page) -> list[str]:
    """Return what axe finds on the page as it stands, with none of its rules off."""
    found = Axe().run(page).response["violations"]
    return [f"{rule['id']}: {' '.join(map(str, node['target']))}" for rule in found for node in rule["nodes"]]


def looks_accessible(page: Page) -> None:
    """Fail if axe finds anything."""
    found = seen_by_axe(page)
    assert found == [], "\n".join(found)


def settled(page: Page) -> None:
    """Wait until the page has drawn what it fetched and its faces are there."""
    page.locator("#content").first.wait_for()
    page.locator("h1").first.wait_for(state="attached")
    page.wait_for_load_state("networkidle") if page.url.endswith("/sign-in") else None
    page.evaluate("() => document.fonts.ready.then(() => new Promise(requestAnimationFrame))")
