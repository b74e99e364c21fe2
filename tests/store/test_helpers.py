"""What is done beside the server: by processes that one and the same process forks, and that end with the server."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from jorvek.settings import ROOT
from jorvek.work.helpers import helper

ASKING = """
import signal, sys, time
from jorvek.work.helpers import helper
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
