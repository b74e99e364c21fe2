"""Install what is missing, then run the program. Standard library only: nothing is there yet.

Every step looks first and does nothing when it finds its work done, so running it again is
cheap. Nothing outside this directory is touched except Debian packages that are missing.
"""

from __future__ import annotations

import ctypes.util
import hashlib
import importlib.util
import os
import pwd
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
VENV = ROOT / ".venv"
WEB = ROOT / "web"
UV = "uv==0.13.9"
NODE_MAJOR = 20
DATABASE_USER = "jorvek-db"
BENCH_ALONE = {"mutants": "Mutation library", "readers": "Fuzzing library"}
"""Measures that want packages of their own, and what those are."""
LOG = ROOT / ".jorvek" / "setup.log"

HELP = """Usage: ./jorvek COMMAND

  demo [--reset]   install what is missing and run the demo world
  test [GROUP …]   install what is missing and run all tests, or the groups named
  generate         write the API description, the schema and the typed client anew
  audit            hold the locked packages against published advisories
  bill DIRECTORY   write bills of materials of what is shipped there (CycloneDX)
  bench [NAME]     print the measures of bench/: readings, replay, hands, keyed, bad_days, load, cluster,
                   growth, history, plans, outages, under_pressure, core, library, fuzz,
                   readers, schema, shown, mutants, twin, walk, movement,
                   faults, pictures
  anything else    goes to the program; ./jorvek --help lists it
"""


class CannotError(Exception):
    """Something that a person has to put right; the message says what."""


def say(text: str) -> None:
    """Print one line of progress."""
    print(f"· {text}", flush=True)


def quietly(command: list[str], what: str, where: Path = ROOT, environment: dict[str, str] | None = None) -> None:
    """Run a command with its output in the log; show the end of it when it fails."""
    LOG.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    started = time.monotonic()
    with LOG.open("a") as log:
        log.write(f"\n$ {' '.join(command)}\n")
        log.flush()
        done = subprocess.run(
            command,
            stdout=log,
            stderr=subprocess.STDOUT,
            stdin=subprocess.DEVNULL,
            cwd=where,
            env=environment,
            check=False,
        )
    if done.returncode != 0:
        tail = "\n".join(LOG.read_text(errors="replace").splitlines()[-15:])
        raise CannotError(f"{what} failed. The end of {LOG}:\n{tail}\nIs the network there? Are the rights?")
    say(f"{what}: {time.monotonic() - started:.0f} s")


def has_program(name: str) -> bool:
    """Tell whether a program is installed."""
    return shutil.which(name, path=os.environ.get("PATH", "") + ":/usr/sbin:/sbin") is not None


def has_library(name: str) -> bool:
    """Tell whether a shared library is installed."""
    return ctypes.util.find_library(name) is not None


def has_venv() -> bool:
    """Tell whether this Python can make a virtual environment with an installer in it."""
    return importlib.util.find_spec("ensurepip") is not None


DEBIAN: dict[str, Callable[[], bool]] = {
    "python3-venv": has_venv,
    "mariadb-server-core": lambda: has_program("mariadbd") and has_program("mariadb-install-db"),
    # The program that makes a database directory needs one that only the client's package holds.
    "mariadb-client-core": lambda: has_program("my_print_defaults"),
    "libpango-1.0-0": lambda: has_library("pango-1.0"),
    "libpangoft2-1.0-0": lambda: has_library("pangoft2-1.0"),
    "libharfbuzz-subset0": lambda: has_library("harfbuzz-subset"),
    "fonts-dejavu-core": lambda: Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf").exists(),
}
FOR_TESTS: dict[str, Callable[[], bool]] = {
    "chromium": lambda: Path("/usr/bin/chromium").exists(),
    # The driver of the browser brings its own Node, which is linked against it.
    "libatomic1": lambda: has_library("atomic"),
    "galera-4": lambda: Path("/usr/lib/galera/libgalera_smm.so").exists(),
}


def may_sudo() -> bool:
    """Tell whether root's rights can be had without a password."""
    if not has_program("sudo"):
        return False
    return subprocess.run(["sudo", "-n", "true"], capture_output=True, check=False).returncode == 0


def debian_packages(*, tests: bool) -> None:
    """Install missing Debian packages."""
    wanted = {**DEBIAN, **(FOR_TESTS if tests else {})}
    missing = [name for name, there in wanted.items() if not there()]
    if not missing:
        return
    by_hand = f"apt-get install --no-install-recommends {' '.join(missing)}"
    if not has_program("apt-get"):
        raise CannotError(f"This is not Debian, and these are missing: {', '.join(missing)}")
    prefix: list[str] = []
    if os.geteuid() != 0:
        if not may_sudo():
            raise CannotError(
                f"Debian packages are missing, and installing them needs root. Run once as root:\n  {by_hand}"
            )
        prefix = ["sudo", "-n"]
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    quietly([*prefix, "apt-get", "update", "-q"], "Debian package lists", environment=environment)
    command = [*prefix, "apt-get", "install", "-y", "-q", "--no-install-recommends", *missing]
    quietly(command, f"Debian packages ({', '.join(missing)})", environment=environment)


def system_user() -> None:
    """Make the user as whom the database server runs when root starts it."""
    if os.geteuid() != 0 or not has_program("useradd"):
        return
    try:
        pwd.getpwnam(DATABASE_USER)
    except KeyError:
        nobody = ["--system", "--no-create-home", "--home-dir", "/nonexistent", "--shell", "/usr/sbin/nologin"]
        try:
            quietly(["useradd", *nobody, "--user-group", DATABASE_USER], f"System user {DATABASE_USER}")
        except CannotError:
            say(f"There is no system user {DATABASE_USER} and none could be made: the database server runs as root")


def fingerprint(files: Iterable[Path]) -> str:
    """Return a fingerprint of the contents of files."""
    digest = hashlib.sha256()
    for file in sorted(files):
        digest.update(str(file.relative_to(ROOT)).encode())
        digest.update(file.read_bytes())
    return digest.hexdigest()


def stamped(stamp: Path, mark: str) -> bool:
    """Tell whether a step was done for just these contents."""
    return stamp.exists() and stamp.read_text() == mark


def python_packages(*, tests: bool) -> None:
    """Make the virtual environment and install the locked packages into it."""
    lock = ROOT / "requirements" / ("dev.txt" if tests else "run.txt")
    mark, stamp = fingerprint([lock]), VENV / f"jorvek-{lock.stem}.stamp"
    complete = VENV / "jorvek-dev.stamp"
    dev = ROOT / "requirements" / "dev.txt"
    if stamped(stamp, mark) or (not tests and stamped(complete, fingerprint([dev]))):
        return
    importlib.invalidate_caches()
    if not has_venv():
        raise CannotError(
            f"{sys.executable} cannot make a virtual environment, and Debian's python3-venv is not for it."
        )
    if not (VENV / "bin" / "python").exists():
        quietly([sys.executable, "-m", "venv", str(VENV)], "Python environment")
    if not (VENV / "bin" / "uv").exists():
        install = [str(VENV / "bin" / "python"), "-m", "pip", "install", "-q", "--disable-pip-version-check", UV]
        quietly(install, "Python installer")
    installed_by_lock(lock.stem, "Python packages")


def installed_by_lock(name: str, what: str) -> None:
    """Install a locked list of packages into the virtual environment, each by its hash."""
    lock = ROOT / "requirements" / f"{name}.txt"
    mark, stamp = fingerprint([lock]), VENV / f"jorvek-{name}.stamp"
    if stamped(stamp, mark):
        return
    command = [str(VENV / "bin" / "uv"), "pip", "install", "--python", str(VENV / "bin" / "python")]
    quietly([*command, "--require-hashes", "--compile-bytecode", "-r", str(lock)], what)
    stamp.write_text(mark)


def node_of_its_own() -> None:
    """Bring Node where the machine has none, or one too old, as the wheel that ships it: Debian 12 has 18."""
    own = VENV / "bin" / "node"
    if not own.exists() and has_program("npm") and _node_major("node") >= NODE_MAJOR:
        return
    installed_by_lock("node", "Node")
    if _node_major(str(own)) < NODE_MAJOR:
        raise CannotError(f"Node {NODE_MAJOR} or newer is needed, and the one that was brought does not run here.")


def _node_major(program: str) -> int:
    try:
        said = subprocess.run([program, "--version"], capture_output=True, text=True, check=False).stdout.strip()
    except OSError:
        return 0
    number = said.removeprefix("v").partition(".")[0]
    return int(number) if number.isdigit() else 0


def front_end() -> None:
    """Install the locked npm packages and build the front end."""
    lock = fingerprint([WEB / "package.json", WEB / "package-lock.json"])
    modules = WEB / "node_modules" / ".jorvek.stamp"
    sources = [f for d in ("src", "public") for f in (WEB / d).rglob("*") if f.is_file()]
    sources += [WEB / "index.html", WEB / "vite.config.ts", WEB / "tsconfig.json"]
    sources += list((ROOT / "src" / "jorvek" / "messages").glob("*.json"))
    built, mark = WEB / "dist" / ".jorvek.stamp", fingerprint(sources) + lock
    if stamped(built, mark) and stamped(modules, lock):
        return
    node_of_its_own()
    npm = environment()
    if not stamped(modules, lock):
        quietly(["npm", "ci", "--no-progress"], "Front-end packages", where=WEB, environment=npm)
        modules.write_text(lock)
    quietly(["npm", "run", "build"], "Front end", where=WEB, environment=npm)
    built.write_text(mark)


def environment() -> dict[str, str]:
    """Return the environment in which the program runs."""
    path = os.pathsep.join(filter(None, [str(ROOT / "src"), os.environ.get("PYTHONPATH")]))
    kept = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    return {**kept, "PYTHONPATH": path, "PATH": f"{VENV / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}"}


def main(arguments: list[str]) -> None:
    """Prepare for a command and run it."""
    if not arguments or arguments[0] in ("help", "-h"):
        print(HELP)
        return
    tests = arguments[0] in ("test", "generate", "bench")
    debian_packages(tests=tests)
    system_user()
    python_packages(tests=tests)
    if tests or arguments[0] in ("demo", "serve", "bill"):
        front_end()
    python = str(VENV / "bin" / "python")
    if arguments[0] == "test":
        os.execve(python, [python, str(ROOT / "setup" / "run_tests.py"), *arguments[1:]], environment())
    if arguments[0] == "bench":
        which = arguments[1] if len(arguments) > 1 else "readings"
        if which in BENCH_ALONE:
            installed_by_lock(which, BENCH_ALONE[which])
        os.chdir(ROOT)
        os.execve(python, [python, "-m", f"bench.{which}", *arguments[2:]], environment())
    if arguments[0] == "bill":
        installed_by_lock("audit", "Audit tool")
        os.execve(python, [python, str(ROOT / "setup" / "bill.py"), *arguments[1:]], environment())
    if arguments[0] == "audit":
        installed_by_lock("audit", "Audit tool")
        os.execve(python, [python, str(ROOT / "setup" / "audit.py")], environment())
    if arguments[0] == "generate":
        subprocess.run([python, str(ROOT / "setup" / "check_generated.py"), "--write"], env=environment(), check=True)
        os.execve(python, [python, str(ROOT / "setup" / "licences.py"), "--write"], environment())
    os.execve(python, [python, "-m", "jorvek.cli", *arguments], environment())


if __name__ == "__main__":
    try:
        main(sys.argv[1:])
    except CannotError as problem:
        print(f"Jorvek cannot go on: {problem}", file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
