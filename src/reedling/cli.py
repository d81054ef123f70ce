"""The `reedling` command: thin, it calls services.

The web application takes seconds to load, and the process for long work loads this module too; only what serves it
imports it.
"""

from __future__ import annotations

import gc
import json
import sys
import threading
from contextlib import closing
from dataclasses import asdict, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from reedling.core.people import ROLES, Person, Role
from reedling.errors import InvalidInput, NotFound, ReedlingError
from reedling.exchange.content import dump_value
from reedling.exchange.json_text import read_json
from reedling.exchange.library_pack import generate_pack, pack_schema, parse_pack
from reedling.exchange.pack_folder import read_pack, write_pack
from reedling.exchange.sarif import generate_sarif
from reedling.services.actions import people as people_actions
from reedling.services.actions.backups import back_up, diagnose, restore
from reedling.services.actions.library import import_library
from reedling.services.actions.sessions import add_person, end_all_sessions
from reedling.services.actions.summaries import recount
from reedling.services.views import people as people_views
from reedling.services.views.desk import get_desk_ready
from reedling.services.views.library import export_library
from reedling.services.views.pack_checks import check_library
from reedling.services.views.pack_matching import match_in_library, read_facts, ready_library
from reedling.standins.field import DEMO_PASSWORD, FULL, SHORT, play_demo
from reedling.standins.writing_beside import writer_beside
from reedling.store.folder import DataFolder
from reedling.store.sqlite import open_engine
from reedling.store.texts import mend_texts
from reedling.wiring import Settings, open_context, read_settings
from reedling.work_apart import WorkApart

if TYPE_CHECKING:
    from fastapi import FastAPI

cli = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Author, match, run, review and refine the guidance field technicians carry out.",
)

RoleOption = Annotated[str, typer.Option(help=f"One of {', '.join(ROLES)}.")]
DESK_AHEAD_AFTER = 5.0
"""Seconds after which a server that has begun works out what desks rest on: to answer at all comes first."""
DataDir = Annotated[Path, typer.Option("--data", envvar="REEDLING_DATA", help="Folder of the database.")]


@cli.command()
def serve() -> None:
    """Serve the application, with the settings of the environment."""
    from reedling.api.observing import configure_logs
    from reedling.app import create_app, make_ready

    settings = read_settings()
    configure_logs(settings.log)
    apart = WorkApart(settings.data_dir)
    context = open_context(settings.data_dir)
    context = replace(context, store=replace(context.store, apart=apart))
    folder = DataFolder(settings.data_dir)
    with folder.hold(), closing(apart):
        if folder.is_demo() and not settings.demo:
            end_all_sessions(context)
        app = create_app(context, settings)
        apart.begin()
        make_ready(app)
        gc.freeze()  # What is there for good is not gone over again and again.
        ahead = threading.Timer(DESK_AHEAD_AFTER, get_desk_ready, args=(context,))
        ahead.daemon = True
        ahead.start()
        typer.echo(f"Reedling is at {settings.address or f'http://{settings.host}:{settings.port}'}")
        listen(app, settings)


def listen(app: FastAPI, settings: Settings) -> None:
    """Answer requests until the process is told to end."""
    import uvicorn

    uvicorn.run(
        app,
        host=settings.host,
        port=settings.port,
        log_config=None,
        access_log=False,
        server_header=False,
        forwarded_allow_ips=settings.proxies,
        h11_max_incomplete_event_size=64_000,
        timeout_keep_alive=20,
    )


@cli.command()
def demo(
    data: DataDir = Path("data"),
    reset: Annotated[bool, typer.Option(help="Throw away what is there and begin again.")] = False,
    short: Annotated[bool, typer.Option(help="Play half a year instead of fourteen months.")] = False,
) -> None:
    """Load the demo, unless the data folder already holds a database."""
    folder = DataFolder(data)
    if reset:
        folder.clear()
    if folder.database.exists():
        typer.echo(f"The data in {data} is kept. Start afresh with --reset.")
        return
    extent = SHORT if short else FULL
    with typer.progressbar(length=extent.n_calls, label="Playing the field") as bar:
        n_orders = play_demo(
            open_context(data, demo=True),
            DEMO_PASSWORD,
            extent=extent,
            told=lambda: bar.update(1),
            writer=writer_beside(data),
        )
    typer.echo(f"The demo is loaded into {data}: {n_orders} orders.")


@cli.command()
def backup(
    target: Annotated[Path, typer.Argument(help="The file to write, such as reedling-2026-11-26.zip.")],
    data: DataDir = Path("data"),
) -> None:
    """Write a backup of everything, also while the server runs; it is checked before it gets its name."""
    report = back_up(DataFolder(data), target, now=datetime.now(UTC))
    typer.echo(
        f"{report.path}: the database and {report.n_pictures} pictures, "
        f"{report.n_bytes / 1e6:.1f} MB, read back and equal."
    )
    if report.missing:
        typer.echo(f"{len(report.missing)} pictures were missing; reedling doctor lists them.", err=True)
        raise typer.Exit(1)


@cli.command("restore")
def restore_backup(
    archive: Annotated[Path, typer.Argument(help="A file that reedling backup wrote.")],
    data: Annotated[Path, typer.Argument(help="An empty folder, or one that is not there yet.")],
) -> None:
    """Put a backup into an empty folder; it is checked first, and nothing is written over."""
    n_pictures = restore(archive, data)
    typer.echo(f"{data} holds the database and {n_pictures} pictures. Serve it with REEDLING_DATA={data}.")


@cli.command()
def doctor(data: DataDir = Path("data")) -> None:
    """Say what is wrong with an installation: damage, missing pictures, texts nobody can read. Exits 1."""
    found = diagnose(DataFolder(data))
    for fault in found.faults:
        typer.echo(f"Database: {fault}")
    for name in found.missing:
        typer.echo(f"Picture {name[:12]}…: the file is missing.")
    for name in found.changed:
        typer.echo(f"Picture {name[:12]}…: the file is not what it was.")
    for bad in found.bad_texts:
        typer.echo(
            f"Text in {bad.table}.{bad.column}, row {bad.row}: cannot be read. Run reedling mend-texts."
        )
    if not found.is_well:
        raise typer.Exit(1)
    typer.echo(f"Nothing is wrong: the database, and {found.n_pictures} pictures.")


@cli.command("mend-texts")
def mend_texts_command(data: DataDir = Path("data")) -> None:
    """Mend texts that cannot be read (half characters, control characters), wherever they stand."""
    open_context(data)
    folder = DataFolder(data)
    with folder.hold(alone=True):
        mended = mend_texts(open_engine(folder.database))
    for bad in mended:
        typer.echo(f"{bad.table}.{bad.column}, row {bad.row}: mended.")
    typer.echo(f"{len(mended)} texts mended.")


@cli.command("recount")
def recount_command(data: DataDir = Path("data")) -> None:
    """Work out every summary of finished jobs anew from what was recorded."""
    typer.echo(f"{recount(open_context(data))} finished jobs counted.")


@cli.command("export")
def export_pack(folder: Path, data: DataDir = Path("data")) -> None:
    """Write the library as JSON files into an empty folder, or one that an export wrote: whole or not at all."""
    files = generate_pack(export_library(open_context(data)))
    write_pack(folder, files)
    typer.echo(f"{len(files)} files written to {folder}.")


@cli.command("import")
def import_pack(folder: Path, data: DataDir = Path("data")) -> None:
    """Bring in a library from a folder of JSON files: everything or nothing."""
    report = import_library(open_context(data), parse_pack(read_pack(folder)))
    typer.echo(
        f"Revisions: {report.n_added} added, {report.n_changed} changed, {report.n_same} as they were."
    )


@cli.command()
def check(
    folder: Path,
    form: Annotated[str, typer.Option("--format", help="text, json or sarif.")] = "text",
) -> None:
    """Check a library folder: every defect with its file and place. Exits 1 when one is an error."""
    try:
        problems = check_library(parse_pack(read_pack(folder)), datetime.now(UTC).date())
    except InvalidInput as error:
        problems = error.problems
    if form == "json":
        typer.echo(json.dumps([asdict(p) for p in problems], ensure_ascii=False, indent=2))
    elif form == "sarif":
        typer.echo(generate_sarif(problems))
    elif form == "text":
        for p in problems:
            typer.echo(f"{p.path}: {p.severity}: {p.message} {p.hint}".rstrip() + f" [{p.code}]")
        n_errors = sum(p.severity == "error" for p in problems)
        n_warnings = sum(p.severity == "warning" for p in problems)
        typer.echo(f"{_counted(n_errors, 'error')}, {_counted(n_warnings, 'warning')}.")
    else:
        raise typer.BadParameter(f"must be text, json or sarif, got {form!r}", param_hint="--format")
    if any(p.severity == "error" for p in problems):
        raise typer.Exit(1)


def _counted(n: int, one: str) -> str:
    return f"{n} {one}" if n == 1 else f"{n} {one}s"


@cli.command("match")
def match_orders(
    library: Annotated[Path, typer.Option(help="Folder of the library.")],
    order: Annotated[
        Path,
        typer.Option(help="A JSON file with one order, or a .jsonl file with one on each line; - for stdin."),
    ],
) -> None:
    """Match orders against a library: what each gets, the steps, and the reason of every row.

    One order prints as JSON. JSON Lines (from a .jsonl file or stdin) print a line for each; a line
    that cannot be read prints its error, and the command exits 1 at the end.
    """
    ready = ready_library(parse_pack(read_pack(library)))
    if order != Path("-") and not order.is_file():
        raise NotFound("match.order", f"there is no file {order}.", hint="Say where the order is.")
    if order != Path("-") and order.suffix != ".jsonl":
        facts = read_facts(read_json(order.read_bytes(), where=order.name), ready, where=order.name)
        typer.echo(json.dumps(dump_value(match_in_library(ready, facts)), ensure_ascii=False, indent=2))
        return
    failed = False
    lines = sys.stdin.buffer if order == Path("-") else order.read_bytes().splitlines()
    for n, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            where = f"line {n}"
            found = match_in_library(ready, read_facts(read_json(line, where=where), ready, where=where))
            typer.echo(json.dumps(dump_value(found), ensure_ascii=False))
        except InvalidInput as error:
            failed = True
            typer.echo(json.dumps({"line": n, "error": str(error), "code": error.code}, ensure_ascii=False))
    if failed:
        raise typer.Exit(1)


@cli.command()
def schema() -> None:
    """Print the JSON Schema of the library files."""
    typer.echo(json.dumps(pack_schema(), indent=2, ensure_ascii=False))


@cli.command()
def openapi() -> None:
    """Print the OpenAPI document, stand-in devices included."""
    import tempfile

    from reedling.app import create_app

    with tempfile.TemporaryDirectory() as scratch:
        settings = read_settings({"REEDLING_DATA": scratch, "REEDLING_DEMO": "yes", "REEDLING_WEB": scratch})
        app = create_app(open_context(settings.data_dir), settings)
        typer.echo(json.dumps(app.openapi(), indent=1, ensure_ascii=False, sort_keys=True))


@cli.command("add-person")
def add_person_command(
    username: str,
    name: str,
    role: RoleOption,
    password: Annotated[str, typer.Option(prompt=True, hide_input=True, confirmation_prompt=True)],
    data: DataDir = Path("data"),
) -> None:
    """Add somebody who can sign in, with a password. The first one is an administrator."""
    person = Person(id=username, name=name, role=_role(role), username=username)
    add_person(open_context(data), person, password)
    typer.echo(f"{name} can sign in as {username}.")


people_cli = typer.Typer(no_args_is_help=True, help="People: list, invite, change, reset, remove.")
cli.add_typer(people_cli, name="people")


@people_cli.command("list")
def list_people(data: DataDir = Path("data")) -> None:
    """List everybody."""
    for line in people_views.people_page(open_context(data)):
        p = line.person
        marks = ["administrator"] * p.administrator + ["removed"] * (p.removed_at is not None)
        marks += [f"invited until {line.invited_until:%d %b %Y}"] if line.invited_until else []
        typer.echo(f"{p.username}: {p.name}, {', '.join([p.role, *marks])}")


@people_cli.command("invite")
def invite_person(
    username: str,
    name: str,
    role: RoleOption,
    district: str = "",
    administrator: Annotated[bool, typer.Option(help="May manage people.")] = False,
    data: DataDir = Path("data"),
) -> None:
    """Add somebody, and print the link with which they choose a password."""
    facts = people_actions.PersonFacts(
        name=name, role=_role(role), district=district, administrator=administrator
    )
    _tell_invitation(people_actions.invite(open_context(data), None, username, facts))


@people_cli.command("change")
def change_person_command(
    username: str,
    role: Annotated[str | None, typer.Option(help="Another role.")] = None,
    district: Annotated[str | None, typer.Option(help="Another district.")] = None,
    administrator: Annotated[bool | None, typer.Option(help="May manage people.")] = None,
    data: DataDir = Path("data"),
) -> None:
    """Change somebody's role or district, or make them an administrator."""
    context = open_context(data)
    held = next((x.person for x in people_views.people_page(context) if x.person.id == username), None)
    if held is None:
        raise NotFound("people.unknown", f"there is nobody called {username}.")
    facts = people_actions.PersonFacts(
        name=held.name,
        role=_role(role) if role else held.role,
        district=held.district if district is None else district,
        administrator=held.administrator if administrator is None else administrator,
    )
    people_actions.change_person(context, None, username, facts)
    typer.echo(f"{held.name} is changed.")


@people_cli.command("reset")
def reset_person(username: str, data: DataDir = Path("data")) -> None:
    """Take somebody's password away, end their sign-ins, and print the link to choose another."""
    _tell_invitation(people_actions.reset_password(open_context(data), None, username))


@people_cli.command("end-sessions")
def end_sessions_command(username: str, data: DataDir = Path("data")) -> None:
    """End somebody's sign-ins on every device."""
    typer.echo(f"{people_actions.end_sessions(open_context(data), None, username)} sign-ins ended.")


@people_cli.command("remove")
def remove_person_command(username: str, data: DataDir = Path("data")) -> None:
    """Let somebody in no longer; what they did keeps their name."""
    typer.echo(
        f"{people_actions.remove_person(open_context(data), None, username).name} can no longer sign in."
    )


def _tell_invitation(invitation: people_actions.Invitation) -> None:
    settings = read_settings()
    address = settings.address or f"http://{settings.host}:{settings.port}"
    typer.echo(f"{address}/invitation/{invitation.token}")
    typer.echo(f"The link works once, until {invitation.expires_at:%d %b %Y %H:%M} UTC.")


def _role(text: str) -> Role:
    found = next((r for r in ROLES if r == text), None)
    if found is None:
        raise typer.BadParameter(f"must be one of {', '.join(ROLES)}, got {text!r}", param_hint="--role")
    return found


def main() -> None:
    """Run the command; our own errors are told in a sentence each, and exit with 1."""
    try:
        cli()
    except ReedlingError as error:
        for problem in error.problems:
            typer.echo(f"{problem.path}: {problem.message} {problem.hint}".rstrip(), err=True)
        if not error.problems:
            typer.echo(str(error), err=True)
        elif error.hint:
            typer.echo(error.hint, err=True)
        sys.exit(1)
