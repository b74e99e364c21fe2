"""A company of two hundred engines, with more and more readings behind it: how the pages of one engine grow.

Run with ``./jorvek bench growth``, or ``./jorvek bench growth 0.2,0.6,2`` (millions of readings). Heads are
loosened and tightened once as people do it; every other run is such a run told again of another engine and another
month, hashes and all. Printed are the pages' times at each size, beside their own at the first, and a line drawn on to
ten million.
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TypeAlias
from uuid import UUID, uuid4

import sqlalchemy as sa
from bench.history import settle

from jorvek.core.canonical import canonical_text
from jorvek.core.run.rules.progress import next_call
from jorvek.local.demo import DEMO_PIN, actor, load_world
from jorvek.local.mariadb import running_server
from jorvek.local.player import Player, SetClock
from jorvek.settings import ROOT
from jorvek.store import tables as t
from jorvek.store.database import Database
from jorvek.store.eventlog import GENESIS, seal
from jorvek.work.engine import berth, surveys
from jorvek.work.engine.page import engine_page
from jorvek.work.library import search
from jorvek.work.paper import records
from jorvek.work.workshop import Workshop

ENGINES = 200
LIKE = "unit-2"
AIM = 1.3
DRAWN_TO = 10.0
START = datetime(2020, 1, 6, 8, 0, tzinfo=UTC)
LOOKED_AT = "sister-7"
LOOKS: dict[str, Callable[[Workshop, str], object]] = {
    "Berth": lambda shop, _: berth.berth(shop, actor(shop, "Ines Halloran")),
    "page of an engine": lambda shop, engine: engine_page(shop, actor(shop, "Ines Halloran"), engine),
    "records of an engine": berth.runs_listed,
    "strips of an engine": surveys.strip_sheets,
    "gates of an engine": surveys.gates_along,
    "search for a joint": lambda shop, _: search.search(shop, "head 3"),
    "what waits for a chief": lambda shop, _: berth.mine(shop, actor(shop, "Ines Halloran")),
    "a record": lambda shop, engine: records.record_table(shop, shop.registers.runs(engine)[0].id),
}


def told_once(shop: Workshop, clock: SetClock) -> list[UUID]:
    """Loosen and tighten the seven heads of one engine."""
    summaries = {head.id: head.hash for head in shop.registers.revisions() if head.status == "approved"}
    chief, told = actor(shop, "Ines Halloran"), list[UUID]()
    for name in ("tarnholt-7l34-head-loosen", "tarnholt-7l34-head-tighten"):
        for joint in range(1, 8):
            player = Player(shop, clock, actor(shop, "Bram Okafor"), 1)
            player.start(LIKE, f"head-{joint}", summaries[name])
            while next_call(player.play()) is None:
                settle(player, chief)
            player.sign(chief, DEMO_PIN)
            player.play()
            player.close(chief)
            told.append(player.run_id)
    return told


Again: TypeAlias = tuple[dict[str, object], list[dict[str, object]], list[dict[str, object]]]


class Story:
    """A run that was played, to be told again of other engines."""

    def __init__(self, shop: Workshop, run_id: UUID) -> None:
        self.events = [json.loads(stored.body) for stored in shop.log.stored(run_id)]
        self.row = next(row for row in shop.registers.runs(LIKE) if row.id == run_id)
        self.readings = sum(event["data"]["kind"] == "recorded" for event in self.events)
        with shop.database.reading() as connection:
            kept = connection.execute(sa.select(t.run_digest).where(t.run_digest.c.run_id == str(run_id))).mappings()
            self.summaries = [dict(row) for row in kept]
        self.names = {key: self.events[0]["data"]["engine"][key] for key in ("id", "name", "serial")}

    def told(self, text: str, run_id: str, engine: dict[str, str]) -> str:
        """Return what lists say of it as they say it of the other."""
        text = text.replace(str(self.row.id), run_id)
        for key, name in self.names.items():
            text = text.replace(json.dumps(name), json.dumps(engine[key]))
        return text

    def again(self, engine: dict[str, str], later: timedelta) -> Again:
        """Return head, events and digests of it on another engine, some time later."""
        run_id, hash_, rows = str(uuid4()), GENESIS, list[dict[str, object]]()
        for event in self.events:
            data = event["data"]
            if "engine" in data:
                data = {**data, "engine": {**data["engine"], **engine}}
            at = (datetime.fromisoformat(event["at"]) + later).isoformat().replace("+00:00", "Z")
            event_id = str(uuid4())
            body = canonical_text({**event, "id": event_id, "run_id": run_id, "at": at, "data": data})
            hash_ = seal(hash_, body)
            rows.append({"run_id": run_id, "seq": event["seq"], "id": event_id, "body": body, "hash": hash_})
        head = {
            "id": run_id,
            "engine_id": engine["id"],
            "joint_key": self.row.joint_key,
            "procedure_hash": self.row.procedure_hash,
            "started_at": self.row.started_at + later,
            "open_joint": None,
            "head_seq": len(rows),
            "head_hash": hash_,
            "changed_at": self.row.changed_at + later,
        }
        kept = [
            {**digest, "run_id": run_id, "head_hash": hash_, "body": self.told(digest["body"], run_id, engine)}
            for digest in self.summaries
        ]
        return head, rows, kept


def company(shop: Workshop) -> list[dict[str, str]]:
    """Put two hundred engines on the register."""
    like = next(engine for engine in shop.registers.engines() if engine.id == LIKE)
    names = [{"id": f"sister-{k}", "name": f"Sister {k}", "serial": f"S-{k}"} for k in range(ENGINES)]
    for name in names:
        shop.registers.add_engine(like.model_copy(update=name), shop.clock())
    return names


Told: TypeAlias = tuple[Story, dict[str, str], timedelta]


def told_again(stories: list[Story], engines: list[dict[str, str]]) -> Iterator[Told]:
    """Yield what is told next: every engine's heads every month, without end."""
    month = 0
    while True:
        month += 1
        for engine in engines:
            for story in stories:
                yield story, engine, timedelta(days=30 * month)


def fill(shop: Workshop, telling: Iterator[Told], wanted: int, there: int) -> int:
    """Tell until there are so many readings."""
    while there < wanted:
        heads, rows, kept = list[dict[str, object]](), list[dict[str, object]](), list[dict[str, object]]()
        while len(rows) < 5000:
            story, engine, later = next(telling)
            head, events, summaries = story.again(engine, later)
            heads.append(head)
            rows += events
            kept += summaries
            there += story.readings
        with shop.database.engine.begin() as connection:
            connection.execute(t.run.insert(), heads)
            connection.execute(t.event.insert(), rows)
            connection.execute(t.run_digest.insert(), kept)
    return there


def looked(shop: Workshop) -> dict[str, float]:
    """Return how long each page takes in ms, once it was looked at."""
    found = {}
    for name, look in LOOKS.items():
        look(shop, LOOKED_AT)
        times = []
        for _ in range(7):
            started = time.perf_counter()
            look(shop, LOOKED_AT)
            times.append((time.perf_counter() - started) * 1000)
        found[name] = sorted(times)[len(times) // 2]
    return found


def main(sizes: list[float]) -> None:
    clock = SetClock(START)
    with tempfile.TemporaryDirectory() as place, running_server(Path(place) / "db") as server:
        database = Database(server.url)
        database.migrate()
        shop = Workshop(database, clock)
        load_world(shop, ROOT)
        company_of = company(shop)
        told = told_once(shop, clock)
        for look in LOOKS.values():
            look(shop, LIKE)
        stories = [Story(shop, run_id) for run_id in told]
        telling, there = told_again(stories, company_of), 0
        at: list[tuple[float, dict[str, float]]] = []
        for size in sizes:
            begun = time.monotonic()
            there = fill(shop, telling, int(size * 1_000_000), there)
            with database.reading() as connection:
                runs = connection.execute(sa.select(sa.func.count()).select_from(t.run)).scalar_one()
            anew = Workshop(database, clock)
            filled = time.monotonic()
            times = looked(anew)
            at.append((there / 1e6, times))
            print(
                f"{there / 1e6:.2f} million readings, {runs} runs: told in {filled - begun:.0f} s, "
                f"first look at everything {time.monotonic() - filled:.0f} s",
                flush=True,
            )
        print(f"\n{'ms':30}" + "".join(f"{size:9.2f}M" for size, _ in at) + f"{'last/first':>12}{'at 10M':>10}")
        for name in LOOKS:
            shown = [times[name] for _, times in at]
            (first, low), (last, high) = (at[0][0], shown[0]), (at[-1][0], shown[-1])
            slope = max(0.0, high - low) / (last - first) if last > first else 0.0
            word = "" if high <= AIM * low else f"  ABOVE {AIM:g}"
            drawn = high + slope * (DRAWN_TO - last)
            print(f"{name:30}" + "".join(f"{ms:10.1f}" for ms in shown) + f"{high / low:12.2f}{drawn:10.1f}{word}")


if __name__ == "__main__":
    main([float(one) for one in (sys.argv[1] if len(sys.argv) > 1 else "0.2,0.6,2").split(",")])
