"""What is done beside the server: by processes that one and the same process forks, and that end with the server."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from functools import partial
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from threading import Event
from typing import cast
from uuid import uuid4

from jorvek.settings import ROOT
from jorvek.work.helpers import HelperQueue, helper

ASKING = """
import signal, sys, time
from jorvek.work.helpers import HelperQueue, helper
if __name__ == "__main__":
    signal.signal(signal.SIGTERM, lambda *_: sys.exit())  # as a server that is stopped ends what it began
    working = helper(time.sleep, 3600)
    working.start()
    print(working.pid, flush=True)
    time.sleep(3600)
"""


def whose_child(place: str) -> None:
    Path(place).write_text(str(os.getppid()), encoding="utf-8")


def test_the_program_is_read_once_and_each_helper_is_forked_from_there(tmp_path: Path) -> None:
    places = [tmp_path / name for name in ("first", "second")]
    for place in places:
        working = helper(whose_child, str(place))
        working.start()
        working.join()
        assert working.exitcode == 0
    first, second = (int(place.read_text(encoding="utf-8")) for place in places)
    assert first == second != os.getpid()


def test_a_helper_of_a_server_that_is_stopped_stops_too() -> None:
    asking = [sys.executable, "-c", ASKING]
    with subprocess.Popen(asking, stdout=subprocess.PIPE, text=True, cwd=ROOT) as server:
        assert server.stdout is not None
        pid = int(server.stdout.readline())
        assert Path(f"/proc/{pid}").exists()
        server.terminate()
        server.wait()
    while Path(f"/proc/{pid}").exists() and "Z" not in Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2][:3]:
        os.sched_yield()


def until_there(place: Path) -> None:
    while not place.exists():
        time.sleep(0.02)


def works_until_told(begun: str, told: str) -> None:
    Path(begun).touch()
    until_there(Path(told))


def note(ended: list[int], number: int, _: int | None) -> None:
    ended.append(number)


def test_some_work_at_once_and_the_others_wait_in_their_order_and_may_be_taken_back(tmp_path: Path) -> None:
    queue, names = HelperQueue(at_once=1), [uuid4() for _ in range(4)]
    ended: list[int] = []
    for k, name in enumerate(names):
        work = helper(works_until_told, str(tmp_path / f"begun-{k}"), str(tmp_path / f"told-{k}"))
        queue.put(name, work, ended=partial(note, ended, k))
    until_there(tmp_path / "begun-0")
    assert [queue.before(name) for name in names] == [0, 1, 2, 3]
    queue.drop(names[1])
    assert [queue.before(name) for name in (names[2], names[3])] == [1, 2]
    assert not (tmp_path / "begun-2").exists()
    (tmp_path / "told-0").touch()
    until_there(tmp_path / "begun-2")
    assert not (tmp_path / "begun-1").exists(), "taken back before its turn"
    queue.drop(names[2])
    until_there(tmp_path / "begun-3")
    (tmp_path / "told-3").touch()
    while queue.holds(names[3]) or len(ended) < 2:
        time.sleep(0.02)
    assert ended == [0, 3], "those that were taken back end without a word"


def test_one_that_is_killed_tells_so(tmp_path: Path) -> None:
    queue, name, codes = HelperQueue(at_once=1), uuid4(), list[int | None]()
    work = helper(works_until_told, str(tmp_path / "begun"), str(tmp_path / "told"))
    queue.put(name, work, ended=codes.append)
    until_there(tmp_path / "begun")
    work.kill()
    while not codes:
        time.sleep(0.02)
    assert codes[0] != 0
    assert not queue.holds(name)


class SlowToStart:
    """A helper whose program is still being read."""

    def __init__(self) -> None:
        self.pid: int | None = None
        self.may_start, self.begins, self.exitcode = Event(), Event(), 0
        self.ended = False

    def start(self) -> None:
        self.begins.set()
        self.may_start.wait()
        self.pid = 1

    def terminate(self) -> None:
        self.ended = True

    def join(self) -> None:
        while not self.ended:
            time.sleep(0.02)


def test_while_one_is_being_started_whoever_asks_is_answered() -> None:
    queue, name, slow = HelperQueue(at_once=1), uuid4(), SlowToStart()
    queue.put(name, cast(ForkServerProcess, slow))
    slow.begins.wait()
    assert queue.before(name) == 0, "answered at once, with the program still being read"
    assert queue.holds(name)
    queue.drop(name)
    assert not queue.holds(name), "taken back at once, too"
    slow.may_start.set()
    while not slow.ended:
        time.sleep(0.02)
