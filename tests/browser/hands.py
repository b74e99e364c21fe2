"""Hands that work a whole run on the screen: they read the call and answer it by touch and key, as people do."""

from __future__ import annotations

import re
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from playwright.sync_api import Locator, Page, expect

from jorvek.core.run.log import events as ev
from jorvek.core.run.log.cells import Cell, InputType
from jorvek.core.run.log.state import RunState
from jorvek.core.run.rules.engine_effects import moves_crank, turns_crank
from jorvek.core.run.rules.judge import wait_left_s
from jorvek.core.run.rules.progress import DebtKind, debts, next_call
from jorvek.local.demo import DEMO_PIN
from jorvek.local.drawn import drawn_photo
from jorvek.local.player import Player, usual_answer
from jorvek.work.engine import overhauls
from tests.browser.conftest import PATIENCE_MS, OpenTablet, Site

BETWEEN_PRESSES_MS = 750
LOOK_MS = 25
ON_SCREEN = 2
"""So many of calls that are alike are answered on the screen: the first, and one that follows on its like."""
_BY_HAND = (InputType.SIGNATURE, InputType.WORDS, InputType.CHOICE)
"""What the second person comes to the screen for, what nobody could answer for them, or what wants a picture."""
KNOWS = """(seq) => Number(document.querySelector("main")?.dataset.seq) >= seq"""
SHOWS = """(seq) => Number(document.querySelector("main")?.dataset.seq) >= seq
  && document.querySelector("#bar-slot .stored") !== null"""


def photograph(page: Page, seed: int) -> None:
    """Put a picture to the call on the screen."""
    chosen = {"name": "seat.jpg", "mimeType": "image/jpeg", "buffer": drawn_photo(seed)}
    # The library wants its own typed dictionary.
    page.locator("input[type=file]").first.set_input_files([chosen])  # type: ignore[arg-type]  # the stub wants a TypedDict


Sort = tuple[str, str, str]


def sort_of(cell: Cell) -> Sort:
    """What calls that are alike have in common: kind of step, what of it, and how it is answered; points are points."""
    return cell.kind, "" if cell.ask is InputType.TICK else re.sub(r"\d+", "", cell.item), cell.ask


@dataclass
class Hands:
    """One person's tablet and a second one for whoever signs.

    Attributes:
        player: whose run it is; its readings are the ones to be typed.
        page: the tablet of whoever works.
        signer: the tablet of whoever signs and closes; it comes to the run only for that.
        address: the Bench of the run.
        pass_time: lets so many seconds go by, for holds and for the next press to be a new one.
        touches: presses of a finger or key so far, a typed number counted key by key.
        touches_on: the same by what was asked for.
        keys_only: goes to every button by the keyboard, and counts the ways there.
    """

    player: Player
    page: Page
    signer: Page
    address: str
    pass_time: Callable[[float], None]
    touches: int = 0
    touches_on: dict[str, int] = field(default_factory=dict)
    keys_only: bool = False

    def state(self) -> RunState:
        return self.player.state()

    def work(self, answered: Counter[Sort] | None = None) -> RunState:
        """Answer call after call until nothing is open, then close the run.

        Of calls that are alike, bolt after bolt and stage after stage, the first are answered on the screen and the
        rest beside it.

        Args:
            answered: how many of each sort were answered on the screen so far, whichever joint; None for all of them.
        """
        while (cell := next_call(self.state())) is not None:
            sort = sort_of(cell)
            if answered is None or answered[sort] < ON_SCREEN or cell.ask in _BY_HAND:
                self.one_call()
            else:
                self.player.play(until=lambda other, here=sort: sort_of(other) != here)  # type: ignore[misc]  # bound now
                self._catch_up()
            if answered is not None:
                answered[sort] += 1
        self.close()
        return self.state()

    def _catch_up(self) -> None:
        """Let the tablet hear of what was done beside it; its time goes by only when the hands let it."""
        patient_until = time.monotonic() + PATIENCE_MS / 1000
        while not self.page.evaluate(KNOWS, self.state().seq):
            assert time.monotonic() < patient_until, "the tablet never heard of it"
            self.page.clock.run_for(BETWEEN_PRESSES_MS)

    def close(self) -> None:
        """Let the second person close the run."""
        self._see_to_gear(None)
        self.signer.goto(self.address)
        self.signer.get_by_role("button", name="Close the run").click()
        expect(self.signer.get_by_role("heading", name="Closed")).to_be_visible()

    def one_call(self) -> bool:
        """Answer the next call, with the photograph that it may want; False when there is none."""
        cell = next_call(self.state())
        if cell is None:
            return False
        self.pass_time(wait_left_s(self.state(), cell, self.player.workshop.clock()))
        before = self.touches
        self._see_to_gear(cell)
        self._answer(cell)
        self._settle(cell)
        self.touches_on[cell.ask] = self.touches_on.get(cell.ask, 0) + self.touches - before
        if cell.ask is InputType.CHOICE and any(d.kind is DebtKind.PHOTO for d in debts(self.state())):
            photograph(self.page, self.state().seq)
            expect(self.page.locator(".debts")).not_to_contain_text("photograph")
        return True

    def _see_to_gear(self, cell: Cell | None) -> None:
        """Free the turning gear for a move of the crank, and lock it again before anything else, as the call offers."""
        state, note = self.state(), self.page.locator(".gear")
        if state.gear is None and cell is not None and moves_crank(state, cell) and self._gear_is_locked(state):
            self._touch(self.page, note.get_by_role("button", name="Free the turning gear for this move"))
            sheet = self.page.get_by_role("dialog", name="Free the turning gear")
            sheet.get_by_label("Who commands").fill(self.player.hands.name)
            self._touch(self.page, sheet.get_by_role("button", name="Free the turning gear for this move"))
        elif state.gear is not None and state.gear.own and (cell is None or not turns_crank(state, cell)):
            self._touch(self.page, note.get_by_role("button", name="Locked again"))
        else:
            return
        patient_until = time.monotonic() + PATIENCE_MS / 1000
        while (self.state().gear is None) == (state.gear is None):
            said = self.page.locator("main > section.right").inner_text()
            assert time.monotonic() < patient_until, f"the turning gear did not change: {said}"
            self.page.wait_for_timeout(LOOK_MS)
        self.page.wait_for_function(KNOWS, arg=self.state().seq)

    def _gear_is_locked(self, state: RunState) -> bool:
        overhaul = overhauls.open_on(self.player.workshop, state.started.engine.id)
        mine = overhaul is not None and state.started.overhaul == overhaul.overhaul_id
        return overhaul is not None and mine and overhaul.in_force("turning_gear") is not None

    def _settle(self, cell: Cell) -> None:
        """Wait until the server has taken the answer and the screen has moved on to it; until then no press is taken.

        A pressure of the ladder is stored, too: that something new is stored does not mean that this answer is.
        """
        patient_until = time.monotonic() + PATIENCE_MS / 1000
        leave = self.page.get_by_role("button", name="Leave it to whoever is last")
        while self.state().live(cell.key) is None:
            # Others on the engine still rely on it: the screen says so and offers the way on.
            if leave.is_visible():
                self._touch(self.page, leave)
                self.page.wait_for_function(SHOWS, arg=self.state().seq)
            said = self.page.locator("main > section.right").inner_text()
            assert time.monotonic() < patient_until, f"{cell.key} was not taken: {said}"
            self.page.wait_for_timeout(LOOK_MS)
        self.page.wait_for_function(SHOWS, arg=self.state().seq)

    def _answer(self, cell: Cell) -> None:
        page, shop = self.page, self.player.workshop
        answer = usual_answer(self.state(), cell, self.player.chance, shop.registers.tools(), shop.today())
        foot = page.locator(".foot")
        match answer:
            case ev.ToolAnswer():
                self._pick(foot.get_by_role("button", name=answer.tool_id))
            case ev.SignatureAnswer():
                self._sign()
            case ev.ChoiceAnswer():
                self._choose(answer)
            case ev.WordsAnswer():
                foot.get_by_role("textbox").fill(answer.text)
                self._key("Enter", len(answer.text) + 1)
            case ev.CountAnswer():
                self._type(str(answer.count))
            case ev.ValueAnswer() if cell.item == "free":
                self._ladder(cell, float(answer.text))
            case ev.ValueAnswer():
                self._read(answer.text)
            case ev.FeelerAnswer():
                self._key("+" if answer.enters else "-", 1)
            case _ if cell.deliberate:
                self._touch(page, foot.locator(".big"))
            case _:
                self._key("Space", 1)

    def _touch(self, page: Page, target: Locator) -> None:
        """Touch a button, or go there key by key from where the keyboard stands and press it."""
        if not self.keys_only:
            target.click()
            self.touches += 1
            return
        target.wait_for()
        while not target.evaluate("(wanted) => wanted === document.activeElement"):
            page.keyboard.press("Tab")
            self.touches += 1
        page.keyboard.press("Enter")
        self.touches += 1

    def _key(self, key: str, worth: int) -> None:
        self.page.keyboard.press(key)
        self.touches += worth

    def _pick(self, wanted: Locator) -> None:
        """Touch one of a list, or press its number once the list has stood for a moment."""
        wanted.wait_for()
        number = wanted.locator(".key")
        if not self.keys_only or number.count() == 0:
            self._touch(self.page, wanted)
            return
        self.pass_time(1)
        self._key(number.inner_text().strip(), 1)

    def _type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self._key("Enter", len(text) + 1)

    def _read(self, text: str) -> None:
        """Give a reading in as few presses as the screen lets one: a setting at once, a start that was there before."""
        entry = self.page.locator(".foot .entry")
        stands = entry.locator("button.start.words").filter(has_text=re.compile(rf"\b{re.escape(text)}\b"))
        start = entry.locator("button.start.figure").filter(has_text=re.compile(rf"^\s*{re.match('[^.]*', text)[0]}\."))  # type: ignore[index]  # it matches
        if stands.count():
            if self.keys_only and stands.locator(".key").count():
                self._key("=", 1)
            else:
                self._touch(self.page, stands)
            return
        if "." in text and start.count():
            text = text.partition(".")[2]
            if self.keys_only and start.locator(".key").count():
                self._key("*", 1)
            else:
                self._touch(self.page, start)
        self._type(text)

    def _choose(self, answer: ev.ChoiceAnswer) -> None:
        word = re.compile(rf"^{re.escape(answer.choice.replace('_', ' '))}", re.IGNORECASE)
        buttons = self.page.locator(".choices button")
        named = buttons.filter(has_text=word)
        self._pick((named if named.count() else buttons).first)
        if answer.note is not None:
            self.page.get_by_label("Why, where").fill(answer.note)
            self._touch(self.page, self.page.locator(".choices").get_by_role("button", name="Confirm"))

    def _ladder(self, cell: Cell, pressure_bar: float) -> None:
        """Raise the shared pressure to where this nut comes free, and tap it."""
        shown = self.page.locator(".gauge b")
        up = self.page.get_by_role("button", name=re.compile("^Up "))
        step = float(re.sub(r"[^\d]", "", up.inner_text()))
        while (now := float(re.sub(r"[^\d]", "", shown.inner_text()))) < pressure_bar - step / 2 and up.is_enabled():
            self._touch(self.page, up)
            # The pressure is the server's: it is read when it has come.
            expect(shown).not_to_have_text(re.compile(rf"^\s*{now:g}\b"))
        self._touch(self.page, self.page.locator(".nut").filter(has_text=re.compile(rf"^\s*{cell.fastener}\s*$")))

    def _sign(self) -> None:
        self.signer.goto(self.address)
        self._touch(self.signer, self.signer.locator(".foot .big"))
        sheet = self.signer.get_by_role("dialog", name="Sign the hold point")
        if self.keys_only:
            self.signer.keyboard.type(DEMO_PIN)
            self.signer.keyboard.press("Enter")
            self.touches += len(DEMO_PIN) + 1
            return
        for digit in DEMO_PIN:
            self._touch(self.signer, sheet.get_by_role("button", name=digit, exact=True))
        self._touch(self.signer, sheet.get_by_role("button", name="Sign"))


def hands_on(site: Site, tablet: OpenTablet, player: Player) -> Hands:
    """Sit down at a run with two tablets; time on the first one goes by only when the hands let it."""
    page, signer = tablet(player.hands.name), tablet("Ines Halloran")
    page.clock.install()
    bench = f"{site.address}/bench/{player.run_id}"
    page.goto(bench)
    page.locator(".call h1").wait_for()
    signer.goto(f"{site.address}/reckoner")

    def pass_time(seconds: float) -> None:
        site.world.clock.forward(5 + seconds)
        page.clock.run_for(BETWEEN_PRESSES_MS)

    return Hands(player, page, signer, bench, pass_time)
