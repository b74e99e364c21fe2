"""Whatever people can type is text, and nothing but text: on every screen, on paper, and in a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from functools import partial
from typing import get_args
from uuid import uuid4

from pydantic import BaseModel
from pypdf import PdfReader

from jorvek.core.rights import Role
from jorvek.core.run.log import events as ev
from jorvek.core.run.log.commands import Note
from jorvek.core.run.log.state import RunState
from jorvek.core.run.views.record import record_of
from jorvek.local.demo import DEMO_PIN, actor
from jorvek.local.player import Player
from jorvek.reports.record_sheet import record_html
from jorvek.store.eventlog import Stamp
from jorvek.work.library.revisions import revision_of
from jorvek.work.people.accounts import add_person
from jorvek.work.runs import acts
from tests.browser.conftest import OpenTablet, Site
from tests.browser.test_turned_and_freed import digest_of

HOSTILE = '=HYPERLINK("http://x";"y")<img src=x onerror="window.hit=1"><script>window.hit=2</script>{{7*7}}'
NAME = "<img src=x onerror=window.hit=3>"
WORDS_LENGTH = 1000
NOTED = ev.Judgement(verdict=ev.Verdict.NOTED)


def fields_of_words() -> set[str]:
    """Every field of an event in which people's own words may stand, by the name of its kind."""
    found: set[str] = set()

    def look(model: type[BaseModel]) -> None:
        for name, field in model.model_fields.items():
            lengths = [getattr(one, "max_length", None) for one in (field.metadata, *field.metadata)]
            if WORDS_LENGTH in lengths or "max_length=1000" in repr(field.annotation):
                found.add(f"{model.__name__}.{name}")

    for union in (ev.EventData, ev.Answer, ev.Work):
        for member in get_args(get_args(union)[0]):
            look(member)
    look(ev.Observed)
    return found


def hostile_events(state: RunState) -> Iterator[ev.EventData]:
    """One event for each of those fields, on a run that has been worked for a while."""
    live = list(state.counting)
    todo = [c for c in state.definition.cells if state.live(c.key) is None and c.step == "snug"]
    yield ev.Struck(cell=live[0], attempt=1, reason=HOSTILE)
    yield ev.Struck(cell=live[1], attempt=1)
    yield ev.ReasonGiven(cell=live[1], attempt=1, reason=HOSTILE)
    yield ev.Accepted(cell=live[2], attempt=1, reason=HOSTILE)
    yield ev.Reopened(cell=live[3], cells=(live[3],), reason=HOSTILE)
    yield ev.Noted(text=HOSTILE, cell=live[4])
    yield ev.TroubleRaised(what=ev.TroubleKind.DIRT, cell=live[4])
    yield ev.TroubleEnded(trouble=state.seq + 7, how="fixed", words=HOSTILE)
    yield ev.AgeAnswered(step=state.definition.by_key[live[4]].step, words=HOSTILE)
    yield ev.OutOfTurn(cell=live[4], reason=HOSTILE)
    yield ev.CauseNamed(cell=live[4], cause=HOSTILE)
    yield ev.SisterAsked(origin=uuid4(), joint=NAME, cell=live[5], cause=HOSTILE)
    yield ev.SisterAnswered(asked=state.seq + 12, found_too=True, words=HOSTILE)
    for work in (
        ev.NoteWork(kind="note", text=HOSTILE),
        ev.StrikeWork(kind="strike", cell=live[6], attempt=1, reason=HOSTILE),
        ev.PhotoWork(
            kind="add_photo", cell=live[6], photo=state.photos[0].photo, width_px=8, height_px=6, words=HOSTILE
        ),
    ):
        why = ev.Reason(code="cell_taken", params={"by": HOSTILE, "present": HOSTILE})
        yield ev.Claimed(work=work, batch=uuid4(), saw=1, kept_s=None, why=why)
    yield ev.ClaimSettled(claim=state.seq + 14, words=HOSTILE)
    answers: tuple[ev.Answer, ...] = (
        ev.ChoiceAnswer(choice=NAME, note=HOSTILE, piece=NAME),
        ev.WordsAnswer(text=HOSTILE),
        ev.ToolAnswer(tool_id="PG-07", override_reason=HOSTILE),
        ev.LeftOutAnswer(reason=HOSTILE),
    )
    for cell, answer in zip(todo, answers, strict=False):
        yield ev.Recorded(cell=cell.key, attempt=1, answer=answer, judgement=NOTED)
    yield ev.FastenerRejected(cell=live[7], attempt=1, piece=NAME, reason=HOSTILE)
    yield ev.StuckDecided(stuck=1, words=HOSTILE)
    yield ev.GearTold(commander=HOSTILE)


def _as_it_is(data: ev.EventData, _: RunState) -> ev.EventData:
    return data


def worked_by_somebody_hostile(site: Site) -> Player:
    shop = site.world.workshop
    site.world.found("unit-5", head_a="open")
    add_person(shop, NAME, Role.LEAD_HAND, DEMO_PIN)
    player = Player(shop, site.world.clock, actor(shop, NAME), 4)
    digest = digest_of(site, "corvane-v10-head-tighten")
    procedure = revision_of(shop, digest).procedure
    command = acts.StartRun(
        id=uuid4(),
        run_id=player.run_id,
        engine_id="unit-5",
        joint_key="head-a",
        procedure_hash=digest,
        selection={"tool": "bar"},
        observed=tuple(ev.Observed(key=k.id, value=k.values[0], evidence=HOSTILE) for k in procedure.variants),
    )
    acts.start_run(shop, player.hands, command)
    player.play(lambda cell: cell.step == "snug")
    player.photograph(next(iter(player.state().counting)), HOSTILE)
    for data in hostile_events(player.state()):
        carrier = Note(kind="note", id=uuid4(), text="carrier")
        shop.log.append(player.run_id, carrier, Stamp(player.hands, shop.clock()), partial(_as_it_is, data))
    return player


def test_words_stay_words_on_screen_on_paper_and_in_a_spreadsheet(site: Site, tablet: OpenTablet) -> None:
    player = worked_by_somebody_hostile(site)
    said = {
        f"{type(part).__name__}.{name}"
        for stored in site.world.workshop.log.stored(player.run_id)
        for part in parts(stored.event.data)
        for name in type(part).model_fields
        if getattr(part, name) == HOSTILE
    }
    assert said == fields_of_words()

    page = tablet(NAME)
    for where in (
        "/",
        f"/bench/{player.run_id}",
        "/bench",
        "/records",
        f"/records/{player.run_id}",
        "/strips",
        "/gates",
    ):
        page.goto(f"{site.address}{where}")
        page.locator("main").wait_for()
        page.wait_for_timeout(400)
        assert page.evaluate("[window.hit, document.querySelectorAll('img[src=x]').length]") == [None, 0], where
    page.goto(f"{site.address}/bench/{player.run_id}")
    page.locator(".call, .rest, .note").first.wait_for()
    page.keyboard.press("h")
    page.get_by_role("dialog").wait_for()
    assert page.evaluate("[window.hit, document.querySelectorAll('img[src=x]').length]") == [None, 0]

    state = player.state()
    html = record_html(record_of(player.run_id, state, "0" * 64), "http://127.0.0.1", "UTC")
    assert "<img src=x" not in html
    assert "<script" not in html
    for paper in ("record.pdf", "hand-over.pdf", "sheet.pdf"):
        got = page.request.get(f"{site.address}/api/runs/{player.run_id}/{paper}")
        assert got.ok, paper
        PdfReader(io.BytesIO(got.body()))
    table = page.request.get(f"{site.address}/api/runs/{player.run_id}/record.csv").text()
    cells = [cell for row in csv.reader(io.StringIO(table)) for cell in row]
    assert any("HYPERLINK" in cell for cell in cells)
    assert not [cell for cell in cells if cell.startswith(("=", "+", "-", "@", "\t", "\r"))]


def parts(data: BaseModel) -> Iterator[BaseModel]:
    """An event's contents, and whatever lies inside them."""
    yield data
    for name in type(data).model_fields:
        inside = getattr(data, name)
        for one in inside if isinstance(inside, tuple) else (inside,):
            if isinstance(one, BaseModel):
                yield from parts(one)
