"""What is wrong with a screen at a size, as hands and eyes would meet it: measured in the page itself."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page


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

_FAULTS = (Path(__file__).parent / "faults.js").read_text(encoding="utf-8").strip().removesuffix(";")


def faults(page: Page, least: int = TOUCH_PX) -> list[str]:
    """Return what is wrong with the page as it stands; ``least`` is the smallest target, in px."""
    found = page.evaluate(_FAULTS, least)
    assert isinstance(found, list)
    return [str(one) for one in found]


def settled(page: Page) -> None:
    """Wait until the page has drawn what it fetched and its faces are there."""
    page.locator("#content").first.wait_for()
    page.wait_for_load_state("networkidle") if page.url.endswith("/sign-in") else None
    page.evaluate("() => document.fonts.ready.then(() => new Promise(requestAnimationFrame))")
