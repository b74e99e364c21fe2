"""A Galera cluster of private servers on the loopback address, for tests and trials.

What a node has missed is handed over from the others' own memory; a node that has missed more than they keep is not
brought back here. A cluster that people work on is set up with Debian's own tools.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import pymysql
import sqlalchemy as sa

from jorvek.local.mariadb import DATABASE, Server, ServerFailedError, binary, free_port, socket_path, start_server

LIBRARY: Final = Path("/usr/lib/galera/libgalera_smm.so")
_NODES: Final = 3
_UP_S: Final = 120.0
_LOOK_S: Final = 0.05
_STATUS: Final = (
    "SHOW GLOBAL STATUS WHERE Variable_name IN ('wsrep_cluster_status', 'wsrep_ready', 'wsrep_cluster_size')"
)
_HANDED: Final = """#!/bin/sh
# All nodes begin as copies of one directory: only the place to go on from is handed over, through a file.
while [ $# -gt 0 ]; do
  case "$1" in
    --role) role="$2"; shift ;;
    --address) address="$2"; shift ;;
    --datadir) place="${2%/}.handed"; shift ;;
    --gtid) gtid="$2"; shift ;;
    --bypass) bypass=yes ;;
  esac
  shift
done
if [ "$role" = joiner ]; then
  rm -f "$place"
  echo "ready $address/$place"
  until [ -s "$place" ]; do sleep 0.05; done
  cat "$place"
else
  [ "$bypass" = yes ] || exit 1
  place="/${address#*//}"
  echo "$gtid" > "$place.part" && mv "$place.part" "$place"
  echo "done $gtid"
fi
"""
_DETECTION: Final = {
    "evs.inactive_check_period": "PT0.25S",
    "evs.keepalive_period": "PT0.25S",
    "gcache.size": "64M",
}


@dataclass
class Node:
    """One node: where it lies and what it listens on."""

    directory: Path
    port: int
    group_port: int
    process: subprocess.Popen[bytes] | None = None

    def status(self, password: str) -> dict[str, str]:
        """Return what the node says of the cluster; nothing while it does not answer."""
        try:
            # Nobody reads along on the machine itself.
            connection = pymysql.connect(
                host="127.0.0.1", port=self.port, user=DATABASE, password=password, ssl_disabled=True
            )
            with connection, connection.cursor() as cursor:
                cursor.execute(_STATUS)
                return dict(cursor.fetchall())
        except pymysql.Error:
            return {}


class Cluster:
    """Nodes that hold the same; each can be killed and started again.

    Attributes:
        nodes: all of them, running or not.
        url: the one setting that names all nodes.
    """

    def __init__(self, directory: Path, also: Iterable[str] = (), suspect_s: float = 1.0) -> None:
        """Make and start the nodes.

        Args:
            directory: everything of them lies there.
            also: further statements for the accounts, each ended by a semicolon.
            suspect_s: a node that is silent for so long is taken to be lost.

        Raises:
            ServerFailedError: when a node does not come up.
        """
        if not LIBRARY.exists():
            raise ServerFailedError(f"{LIBRARY} is missing; it comes with Debian's galera-4")
        self._place, self._suspect_s = directory.resolve(), suspect_s
        self._scripts = self._place / "scripts"
        first = self._seed(also)
        self.nodes = [Node(self._place / f"node-{n}", free_port(), free_port()) for n in range(_NODES)]
        first.rename(self.nodes[0].directory)
        try:
            self._begin()
        except BaseException:
            # Nobody else knows of the nodes that did come up.
            self.stop()
            raise

    @property
    def url(self) -> str:
        """The setting that names all nodes, the first before the others."""
        return self.url_from(0)

    def url_from(self, first: int, database: str = DATABASE) -> str:
        """Return the setting that names all nodes, with one before the others."""
        order = [self.nodes[(first + k) % _NODES].port for k in range(_NODES)]
        places = ",".join(f"127.0.0.1:{port}" for port in order)
        return f"mysql+pymysql://{DATABASE}:{self._password}@{places}/{database}"

    def kill(self, number: int) -> None:
        """Kill a node as a power cut would."""
        process = self.nodes[number].process
        if process is not None and process.poll() is None:
            process.kill()
            process.wait()

    def start_again(self, number: int) -> None:
        """Start a node that was killed: it finds out by itself how far it had come, and is given the rest."""
        node = self.nodes[number]
        command = [binary("mariadbd"), f"--defaults-file={node.directory / 'my.cnf'}", "--wsrep-recover"]
        subprocess.run(command, check=True, capture_output=True)  # noqa: S603 — our own arguments
        found = re.findall(r"Recovered position: ([0-9a-f-]+:\d+)", (node.directory / "server.log").read_text())
        self._run(node, f"--wsrep_start_position={found[-1]}")
        self.wait_until(lambda: self._is_in(node), "came back")

    def stop(self) -> None:
        """End all nodes; nothing of a trial is to be kept."""
        for number in range(_NODES):
            self.kill(number)

    def sees(self, number: int) -> dict[str, str]:
        """Return what a node says of the cluster; nothing while it does not answer."""
        return self.nodes[number].status(self._password)

    def wait_until(self, there: Callable[[], bool], what: str) -> None:
        """Wait for a state of the cluster.

        Raises:
            ServerFailedError: when it does not come.
        """
        until = time.monotonic() + _UP_S
        while not there():
            if time.monotonic() > until:
                raise ServerFailedError(f"no node {what} within {_UP_S:.0f} s; see {self._place}/*/server.log")
            time.sleep(_LOOK_S)

    def _seed(self, also: Iterable[str]) -> Path:
        """Make a directory with the accounts in it, by a server that knows of no cluster yet."""
        self._scripts.mkdir(parents=True)
        script = self._scripts / "wsrep_sst_handed"
        script.write_text(_HANDED)
        script.chmod(0o700)
        alone: Server = start_server(self._place / "seed", also=also)
        self._password = sa.make_url(alone.url).password or ""
        alone.stop()
        return alone.directory

    def _begin(self) -> None:
        first, *others = self.nodes
        plain = (first.directory / "my.cnf").read_text()
        for node in self.nodes:
            (node.directory / "tmp").mkdir(parents=True, exist_ok=True)
            self._configure(node, plain)
        self._run(first, "--wsrep-new-cluster")
        self.wait_until(lambda: self._is_in(first), "began a cluster")
        # All nodes start from a copy of this directory. The node is stopped cleanly so that its position is on disk.
        assert first.process is not None
        first.process.terminate()
        first.process.wait()
        for node in others:
            shutil.copytree(first.directory / "data", node.directory / "data")
        self._run(first, "--wsrep-new-cluster")
        self.wait_until(lambda: self._is_in(first), "began a cluster")
        for node in others:
            self._run(node)
        self.wait_until(lambda: all(self._is_in(n) and self._counts(n) == _NODES for n in self.nodes), "joined")

    def _is_in(self, node: Node) -> bool:
        said = node.status(self._password)
        return (said.get("wsrep_cluster_status"), said.get("wsrep_ready")) == ("Primary", "ON")

    def _counts(self, node: Node) -> int:
        return int(node.status(self._password).get("wsrep_cluster_size", 0))

    def _run(self, node: Node, *arguments: str) -> None:
        path = f"{self._scripts}:{os.environ.get('PATH', '')}:/usr/sbin:/usr/bin:/sbin:/bin"
        node.process = subprocess.Popen(  # noqa: S603 — our own arguments
            [binary("mariadbd"), f"--defaults-file={node.directory / 'my.cnf'}", *arguments],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
            env={**os.environ, "PATH": path},
        )

    def _configure(self, node: Node, plain: str) -> None:
        """Give a node the seed's settings, and those of a cluster."""
        kept = [
            line.replace(str(self._place / "seed"), str(node.directory))
            for line in plain.splitlines()
            if not line.startswith(("port=", "socket=", "init-file=", "user="))
        ]
        others = ",".join(f"127.0.0.1:{one.group_port}" for one in self.nodes)
        lost = {"evs.suspect_timeout": f"PT{self._suspect_s}S", "evs.inactive_timeout": f"PT{3 * self._suspect_s}S"}
        options = {**_DETECTION, **lost, "gmcast.listen_addr": f"tcp://127.0.0.1:{node.group_port}"}
        options["ist.recv_addr"] = f"127.0.0.1:{free_port()}"
        added = [
            f"port={node.port}",
            f"socket={socket_path(node.directory)}",
            "wsrep_on=ON",
            f"wsrep_provider={LIBRARY}",
            "wsrep_cluster_name=jorvek_trial",
            f"wsrep_cluster_address=gcomm://{others}",
            f"wsrep_node_name={node.directory.name}",
            f"wsrep_node_address=127.0.0.1:{node.group_port}",
            "wsrep_sst_method=handed",
            "binlog_format=ROW",
            "innodb_autoinc_lock_mode=2",
            f'wsrep_provider_options="{";".join(f"{name}={value}" for name, value in options.items())}"',
        ]
        if os.getuid() == 0:
            # For trials: the nodes' directories are copies that root has made.
            added.append("user=root")
        (node.directory / "my.cnf").write_text("\n".join([*kept, *added]) + "\n")


@contextmanager
def running_cluster(directory: Path, also: Iterable[str] = (), suspect_s: float = 1.0) -> Iterator[Cluster]:
    """Give a running cluster and end it; as ``Cluster``."""
    cluster = Cluster(directory, also, suspect_s)
    try:
        yield cluster
    finally:
        cluster.stop()
