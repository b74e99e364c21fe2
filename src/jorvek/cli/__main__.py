"""The commands of ``./jorvek``."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from getpass import getpass
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from jorvek.casebook.check import BadCaseFile, check_file
from jorvek.core.refusal import Refusal
from jorvek.core.rights import Act, Role, demand
from jorvek.core.run.log.events import Person
from jorvek.core.site_log.entries import seal_from
from jorvek.documents.yaml_reader import DocumentRefused
from jorvek.local.backup import back_up, photos_missing
from jorvek.local.backup import restore as bring_back
from jorvek.local.mariadb import ServerFailedError
from jorvek.local.opening import open_workshop, visit_workshop
from jorvek.messages import say
from jorvek.settings import Settings
from jorvek.store.database import DatabaseAwayError, DatabaseFullError, DatabaseUnfitError
from jorvek.store.verify import Verification
from jorvek.store.verify import verify as verify_database
from jorvek.work.library import engine_sheets, revisions
from jorvek.work.library.checking import as_yaml, checked_lines, readable
from jorvek.work.paper import dossiers
from jorvek.work.people import accounts
from jorvek.work.runs import exports
from jorvek.work.runs.judged_again import Judged, judged_otherwise
from jorvek.work.runs.offline_verification import faults_of_record
from jorvek.work.sealing import begin_new_key
from jorvek.work.workshop import Workshop

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Tightening work on heavy engines.")
person_app = typer.Typer(no_args_is_help=True, help="People.")
engine_app = typer.Typer(no_args_is_help=True, help="Engines.")
tool_app = typer.Typer(no_args_is_help=True, help="Tools.")
procedure_app = typer.Typer(no_args_is_help=True, help="Procedures.")
sheet_app = typer.Typer(no_args_is_help=True, help="Engine sheets.")
overhaul_app = typer.Typer(no_args_is_help=True, help="Overhauls.")
run_app = typer.Typer(no_args_is_help=True, help="Runs.")
for name, group in {
    "person": person_app,
    "engine": engine_app,
    "tool": tool_app,
    "procedure": procedure_app,
    "sheet": sheet_app,
    "overhaul": overhaul_app,
    "run": run_app,
}.items():
    app.add_typer(group, name=name)

File = Annotated[Path, typer.Argument(exists=True, dir_okay=False, readable=True)]
As = Annotated[str, typer.Option("--as", help="In whose name; the PIN is asked for.")]


@contextmanager
def _workshop(*, alone: bool = False) -> Iterator[Workshop]:
    """Open the workshop, for oneself if asked; whatever goes wrong inside ends in one clear line."""
    try:
        with (open_workshop if alone else visit_workshop)(Settings()) as workshop:
            yield workshop
    except DocumentRefused as refused:
        for finding in refused.findings:
            typer.echo(f"line {finding.line}: {finding.where}: {finding.message}", err=True)
        _stop(say("problem.document_refused"))
    except Refusal as refusal:
        _stop(f"{say(f'refusal.{refusal.code}', refusal.params)} {say('kept.nothing')}")
    except DatabaseAwayError as error:
        _stop(_away(error))
    except (ServerFailedError, DatabaseUnfitError) as error:
        _stop(str(error))


def _away(error: DatabaseAwayError) -> str:
    what = "problem.disk_full" if isinstance(error, DatabaseFullError) else "problem.database_away"
    return f"{say(what)} ({error})"


def _stop(message: str) -> NoReturn:
    typer.echo(message, err=True)
    raise typer.Exit(1)


def _actor(workshop: Workshop, name: str) -> Person:
    """Return who acts, once they have shown by their PIN that it is them."""
    person = accounts.person_by_name(workshop, name)
    return accounts.as_actor(accounts.check_pin(workshop, person.id, _pin(f"PIN of {name}: ")))


def _pin(prompt: str) -> str:
    """Ask for a PIN; from a pipe it is the next line."""
    return getpass(prompt) if sys.stdin.isatty() else sys.stdin.readline().strip()


_SECONDS_A_PROBLEM = 120.0
"""A problem of the published size takes a few; this ends one that is far larger."""


@app.command("check")
def check_procedures(files: list[File]) -> None:
    """Check procedure documents against physics and good practice; several also against one another."""
    failed = False
    revisions = readable([file.read_bytes() for file in files])
    for file in files:
        found, stops = checked_lines(file.read_bytes(), revisions)
        failed = failed or stops
        for finding in found:
            typer.echo(f"{file}:{finding.line}: {finding.where}: {finding.message}")
        if not found:
            typer.echo(f"{file}: nothing found")
    if failed:
        raise typer.Exit(1)


@app.command("check-vectors")
def check_vectors(file: File) -> None:
    """Run a file of cases with known answers against the core."""
    try:
        cases, failures = check_file(file)
    except BadCaseFile as error:
        _stop(str(error))
    for failure in failures:
        typer.echo(f"{failure.case} ({failure.op})\n  expected {failure.expected}\n  got      {failure.got}")
    typer.echo(f"{cases - len(failures)} passed, {len(failures)} failed")
    if failures:
        raise typer.Exit(1)


Host = Annotated[str | None, typer.Option(help="Address to serve on; 0.0.0.0 for the whole network.")]
CertificateFile = Annotated[Path | None, typer.Option(exists=True, dir_okay=False, help="Certificate file for TLS.")]
KeyFile = Annotated[Path | None, typer.Option(exists=True, dir_okay=False, help="Key of the certificate.")]
SelfMade = Annotated[bool, typer.Option(help="Serve over TLS with a certificate made here, for trials.")]


def _served(host: str | None, certificate: Path | None, key: Path | None, *, self_made: bool) -> Settings:
    """Return the settings with what was said on the command line on top."""
    said = {"host": host, "certificate": certificate, "certificate_key": key, "self_made": self_made or None}
    # Names and values come from the settings class itself.
    return Settings(**{name: value for name, value in said.items() if value is not None})  # type: ignore[arg-type]  # pydantic checks what was said


@app.command("plan")
def plan_one(file: File, seconds: float = 20.0) -> None:
    """Read a plan problem as JSON and print a plan for it as JSON."""
    # Loaded here because the solver takes seconds to load.
    from jorvek.casebook.plans import BadPlanFileError, planned_text  # noqa: PLC0415 — see above

    try:
        typer.echo(planned_text(file, seconds))
    except (BadPlanFileError, Refusal) as error:
        _stop(say(f"refusal.{error.code}", dict(error.params)) if isinstance(error, Refusal) else str(error))


@app.command("plan-problems")
def plan_problems(file: File) -> None:
    """Solve plan problems with known answers with the solver that plans overhauls."""
    # Loaded here because the solver takes seconds to load.
    from jorvek.casebook.plans import BadPlanFileError, plan_cases, solve_cases  # noqa: PLC0415 — see above

    failed = passed = 0
    try:
        for one in solve_cases(plan_cases(file), _SECONDS_A_PROBLEM):
            if one.wrong is None:
                passed += 1
                continue
            failed += 1
            typer.echo(f"{one.name}\n  expected {one.expected:g}\n  got      {one.got}\n  {one.wrong}")
    except BadPlanFileError as error:
        _stop(str(error))
    typer.echo(f"{passed} passed, {failed} failed")
    if failed:
        raise typer.Exit(1)


@app.command()
def demo(
    *,
    reset: Annotated[bool, typer.Option(help="Forget everything and start over.")] = False,
    host: Host = None,
    certificate: CertificateFile = None,
    key: KeyFile = None,
    self_made: SelfMade = False,
) -> None:
    """Run the demo world on this machine."""
    # Loaded here because the web part takes seconds to load, and no other command needs it.
    from jorvek.local import serve as serving  # noqa: PLC0415 — the web part takes seconds to load

    try:
        serving.demo(_served(host, certificate, key, self_made=self_made), reset=reset)
    except DatabaseAwayError as error:
        _stop(_away(error))
    except (ServerFailedError, DatabaseUnfitError) as error:
        _stop(str(error))


@app.command()
def serve(
    *,
    host: Host = None,
    certificate: CertificateFile = None,
    key: KeyFile = None,
    self_made: SelfMade = False,
) -> None:
    """Serve the application on its own data, or on JORVEK_DATABASE_URL."""
    from jorvek.local import serve as serving  # noqa: PLC0415 — the web part takes seconds to load

    try:
        serving.serve_own(_served(host, certificate, key, self_made=self_made))
    except Refusal as refusal:
        _stop(say(f"refusal.{refusal.code}", refusal.params))
    except DatabaseAwayError as error:
        _stop(_away(error))
    except (ServerFailedError, DatabaseUnfitError) as error:
        _stop(str(error))


Against = Annotated[str | None, typer.Option(help="An earlier seal, as it is printed on a record.")]


@app.command()
def verify(against: Against = None) -> None:
    """Recompute every hash, hold everything against the site log, and name what is not as it was written."""
    with _workshop() as workshop:
        earlier = None if against is None else seal_from(against)
        result = verify_database(workshop.database, workshop.site_key, earlier)
        missing = [] if result.unfit else list(photos_missing(workshop))
        judged = [] if result.unfit else list(judged_otherwise(workshop))
    _say_verified(result, missing, judged)


def _say_verified(
    result: Verification, missing: Sequence[str], judged: Sequence[Judged] = (), *, unsealed: bool = False
) -> None:
    if result.unfit is not None:
        _stop(f"NOT LOOKED AT: {result.unfit}.")
    looked = f"{result.runs} runs, {result.overhauls} overhauls, {result.events} events"
    typer.echo(f"{looked}, {result.procedures} procedures, {result.sheets} engine sheets looked at")
    for found in result.alterations:
        place = f", event {found.seq}" if found.seq is not None else ""
        typer.echo(f"ALTERED: {found.what}{place}: {found.why}")
    for photo in missing:
        typer.echo(f"MISSING OR ALTERED: photograph {photo}")
    for other in judged:
        word = "VERDICT NOT BY THIS CORE" if other.alarm else "judged otherwise now"
        reading = other.reading
        typer.echo(
            f"{word}: {other.joint}, run {other.run_id}, event {reading.seq}, {reading.cell}: "
            f"{reading.then} by core {reading.core_version}, now {reading.now}"
        )
    if result.waiting:
        typer.echo(f"{result.waiting} rows and heads are not in the site log yet.")
    typer.echo("Nothing is sealed yet." if result.seal is None else f"Seal of the site: {result.seal.printed()}")
    if result.alterations or missing or any(other.alarm for other in judged):
        raise typer.Exit(1)
    if unsealed:
        _stop(
            "NOT VOUCHED FOR: the backup had no site log. It is another site's, or somebody took the log out. Its "
            "hashes agree with each other; whether it is what was written nobody can tell. It was taken in."
        )
    typer.echo("Everything stands as it was written.")


@app.command("verify-record")
def verify_record(
    file: File, public_key: Annotated[str, typer.Option(help="The site's public key: 64 digits, or the file with it.")]
) -> None:
    """Look an exported run through, far from its site: no database is needed."""
    key = Path(public_key).read_text().strip() if Path(public_key).is_file() else public_key.strip()
    try:
        faults = list(faults_of_record(file.read_text(encoding="utf-8"), key))
    except Refusal as refusal:
        _stop(say(f"refusal.{refusal.code}", refusal.params))
    for fault in faults:
        typer.echo(f"NOT PROVEN: {fault}.")
    if faults:
        raise typer.Exit(1)
    typer.echo("The site that holds this key vouches for every event of this run.")


@app.command("new-key")
def new_key(words: Annotated[str, typer.Option(help="Why the site goes on with another key.")]) -> None:
    """Go on with this machine's key where another has signed the site log before; the log names the last seal."""
    with _workshop() as workshop:
        root = begin_new_key(workshop, words)
    typer.echo(f"The site log goes on with the key {root.key}: {root.seal().printed()}")


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The archive to write; it must not be there yet.")]) -> None:
    """Write everything into one archive, while people work."""
    with _workshop() as workshop:
        kept = back_up(workshop, file)
    typer.echo(f"{kept.rows} rows and {kept.photos} photographs are in {file}.")


@app.command()
def restore(file: File, over: Annotated[bool, typer.Option(help="Throw away what is there now.")] = False) -> None:
    """Bring an archive back into an empty place, and look every hash through."""
    with _workshop(alone=True) as workshop:
        kept, result = bring_back(workshop, file, Settings().data / "dumps", over=over)
    if kept.was_there is not None:
        typer.echo(f"What was there before is in {kept.was_there}.")
    typer.echo(f"{kept.rows} rows and {kept.photos} photographs are back.")
    _say_verified(result, kept.photos_missing, unsealed=kept.unsealed)


@person_app.command("add")
def add_person(
    name: str, role: Role, actor: Annotated[str, typer.Option("--as", help="In whose name; the PIN is asked for.")] = ""
) -> None:
    """Put a person on the register; the PIN is asked for. The first one needs nobody's name."""
    with _workshop() as workshop:
        if workshop.registers.everybody():
            demand(_actor(workshop, actor).role, Act.KEEP_REGISTER)
        accounts.add_person(workshop, name, role, _pin(f"PIN for {name} (six digits): "))
    typer.echo(f"{name} is on the register.")


@person_app.command("pin")
def change_pin(name: str, actor: As) -> None:
    """Change a PIN: one's own by the old one, another's by whoever keeps the register. Sessions of it end."""
    with _workshop() as workshop:
        person = accounts.person_by_name(workshop, name)
        if name == actor:
            old = _pin("PIN as it is: ")
            accounts.change_pin(workshop, accounts.as_actor(person), person.id, _pin("New PIN: "), old)
        else:
            accounts.change_pin(workshop, _actor(workshop, actor), person.id, _pin(f"New PIN of {name}: "))
    typer.echo(f"{name} has another PIN.")


@person_app.command("role")
def change_role(name: str, role: Role, actor: As) -> None:
    """Give a person another role. Their sessions end."""
    with _workshop() as workshop:
        acts = _actor(workshop, actor)
        accounts.change_role(workshop, acts, accounts.person_by_name(workshop, name).id, role)
    typer.echo(f"{name}: {say(f'role.{role.value}')}.")


@person_app.command("leave")
def leave(name: str, actor: As) -> None:
    """Let a person leave: they sign in no more, and what they have done stays in their name."""
    _set_active(name, actor, active=False)


@person_app.command("return")
def come_back(name: str, actor: As) -> None:
    """Let a person come back."""
    _set_active(name, actor, active=True)


def _set_active(name: str, actor: str, *, active: bool) -> None:
    with _workshop() as workshop:
        acts = _actor(workshop, actor)
        accounts.set_active(workshop, acts, accounts.person_by_name(workshop, name).id, active=active)
    typer.echo(f"{name} {'is on the register again' if active else 'has left'}.")


@person_app.command("sign-out")
def sign_out(name: str, actor: As) -> None:
    """End all sessions of a person, wherever they are."""
    with _workshop() as workshop:
        acts = _actor(workshop, actor)
        ended = accounts.end_sessions(workshop, acts, accounts.person_by_name(workshop, name).id)
    typer.echo(f"{ended} sessions of {name} are ended.")


@engine_app.command("add")
def add_engine(file: File, actor: As) -> None:
    """Put an engine on the register."""
    with _workshop() as workshop:
        engine = revisions.add_engine(workshop, _actor(workshop, actor), file.read_bytes())
        typer.echo(f"{engine.name} is on the register.")


@tool_app.command("add")
def add_tool(file: File, actor: As) -> None:
    """Put a tool on the register."""
    with _workshop() as workshop:
        tool = revisions.add_tool(workshop, _actor(workshop, actor), file.read_bytes())
        typer.echo(f"{tool.id} is on the register.")


@procedure_app.command("import")
def import_procedure(file: File, actor: As) -> None:
    """Take in a procedure revision as a draft."""
    with _workshop() as workshop:
        digest = revisions.import_procedure(workshop, _actor(workshop, actor), file.read_bytes())
        typer.echo(digest)


@procedure_app.command("approve")
def approve_procedure(digest: str, actor: As) -> None:
    """Approve a draft."""
    with _workshop() as workshop:
        revisions.approve(workshop, _actor(workshop, actor), digest)
        typer.echo("approved")


@procedure_app.command("upgrade")
def upgrade_procedure(file: File) -> None:
    """Print a document of an older format in the present one."""
    try:
        typer.echo(as_yaml(revisions.read_procedure(file.read_bytes())).decode("utf-8"), nl=False)
    except DocumentRefused as refused:
        _stop("\n".join(f"{file}:{f.line}: {f.where}: {f.message}" for f in refused.findings))


@procedure_app.command("list")
def list_procedures() -> None:
    """List the library."""
    with _workshop() as workshop:
        for row in workshop.registers.revisions():
            typer.echo(f"{row.hash}  {row.status:9}  {row.title}  rev {row.revision}")


@overhaul_app.command("import")
def import_overhaul(file: File, actor: As) -> None:
    """Read the archive of an overhaul back, hash for hash."""
    with _workshop() as workshop:
        typer.echo(dossiers.import_overhaul(workshop, _actor(workshop, actor), file.read_bytes()))


@sheet_app.command("import")
def import_sheet(file: File, actor: As) -> None:
    """Take in an engine sheet as a draft."""
    with _workshop() as workshop:
        digest = engine_sheets.import_sheet(workshop, _actor(workshop, actor), file.read_bytes())
        typer.echo(digest)


@sheet_app.command("approve")
def approve_sheet(digest: str, actor: As) -> None:
    """Approve an engine sheet."""
    with _workshop() as workshop:
        engine_sheets.approve_sheet(workshop, _actor(workshop, actor), digest)
        typer.echo("approved")


@sheet_app.command("default")
def print_default_sheet(engine: str) -> None:
    """Print the default by layout of an engine, to begin a sheet from."""
    with _workshop() as workshop:
        typer.echo(engine_sheets.default_as_yaml(workshop, engine))


@run_app.command("import")
def import_run(file: File, actor: As) -> None:
    """Rebuild an exported run, hash for hash."""
    with _workshop() as workshop:
        snapshot = exports.import_run(workshop, _actor(workshop, actor), file.read_text(encoding="utf-8"))
        typer.echo(f"{snapshot.state.started.joint_label}: {snapshot.state.seq} events, {snapshot.head_hash}")
    typer.echo("Its record says that it comes from elsewhere: nothing in it was signed here.")


if __name__ == "__main__":
    app()
