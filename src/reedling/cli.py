"""The `reedling` command: thin, it calls services."""

from __future__ import annotations

import json
import sys
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any

import typer
import uvicorn

from reedling.app import DEMO_PASSWORD, create_app
from reedling.errors import InvalidInput, ReedlingError
from reedling.exchange.content import dump_value
from reedling.exchange.library_pack import generate_pack, pack_schema, parse_pack
from reedling.exchange.sarif import generate_sarif
from reedling.services.check_library import check_library
from reedling.services.exchange_library import export_library, import_library
from reedling.services.match_library import match_in_library, read_facts, ready_library
from reedling.services.sign_in import add_person
from reedling.standins.field import play_demo
from reedling.store.records import ROLES, Person
from reedling.wiring import DATABASE, open_context, read_settings

cli = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    help="Author, match, run, review and refine the guidance field technicians carry out.",
)

PACK_PARTS = ("catalogue/*.json", "documents/*/*.json", "illustrations/*.json")

DataDir = Annotated[Path, typer.Option("--data", envvar="REEDLING_DATA", help="Folder of the database.")]


@cli.command()
def serve() -> None:
    """Serve the application, with the settings of the environment."""
    settings = read_settings()
    app = create_app(open_context(settings.data_dir), settings)
    typer.echo(f"Reedling is at http://{settings.host}:{settings.port}")
    uvicorn.run(app, host=settings.host, port=settings.port, log_level="warning")


@cli.command()
def demo(
    data: DataDir = Path("data"),
    reset: Annotated[bool, typer.Option(help="Throw away what is there and begin again.")] = False,
) -> None:
    """Load the demo, unless the data folder already holds a database."""
    database = data / DATABASE
    if reset:
        for path in (database, *data.glob(f"{DATABASE}-*")):
            path.unlink(missing_ok=True)
        for path in (data / "pictures").glob("*"):
            path.unlink()
    if database.exists():
        typer.echo(f"The data in {data} is kept. Start afresh with --reset.")
        return
    n_orders = play_demo(open_context(data), DEMO_PASSWORD)
    typer.echo(f"The demo is loaded into {data}: {n_orders} orders.")


@cli.command("export")
def export_pack(folder: Path, data: DataDir = Path("data")) -> None:
    """Write the library as a folder of JSON files. Files of an earlier export are replaced."""
    files = generate_pack(export_library(open_context(data)))
    for old in (p for part in PACK_PARTS for p in folder.glob(part)):
        old.unlink()
    for path, text in files.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_text(text, encoding="utf-8")
    typer.echo(f"{len(files)} files written to {folder}.")


@cli.command("import")
def import_pack(folder: Path, data: DataDir = Path("data")) -> None:
    """Bring in a library from a folder of JSON files: everything or nothing."""
    report = import_library(open_context(data), parse_pack(_read_pack(folder)))
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
        problems = check_library(parse_pack(_read_pack(folder)), datetime.now(UTC).date())
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
        typer.echo(f"{n_errors} errors, {len(problems) - n_errors} warnings.")
    else:
        raise typer.BadParameter(f"must be text, json or sarif, got {form!r}", param_hint="--format")
    if any(p.severity == "error" for p in problems):
        raise typer.Exit(1)


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
    ready = ready_library(parse_pack(_read_pack(library)))
    if order != Path("-") and order.suffix != ".jsonl":
        facts = read_facts(_one_json(order.read_text("utf-8"), order.name), ready, where=order.name)
        typer.echo(json.dumps(dump_value(match_in_library(ready, facts)), ensure_ascii=False, indent=2))
        return
    failed = False
    lines = sys.stdin if order == Path("-") else order.read_text("utf-8").splitlines()
    for n, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            where = f"line {n}"
            found = match_in_library(ready, read_facts(_one_json(line, where), ready, where=where))
            typer.echo(json.dumps(dump_value(found), ensure_ascii=False))
        except InvalidInput as error:
            failed = True
            typer.echo(json.dumps({"line": n, "error": str(error), "code": error.code}, ensure_ascii=False))
    if failed:
        raise typer.Exit(1)


def _one_json(text: str, where: str) -> Any:
    try:
        return json.loads(text)
    except json.JSONDecodeError as error:
        raise InvalidInput("match.json", f"this is not JSON: {error.msg}.", where=where) from None


@cli.command()
def schema() -> None:
    """Print the JSON Schema of the library files."""
    typer.echo(json.dumps(pack_schema(), indent=2, ensure_ascii=False))


@cli.command()
def openapi() -> None:
    """Print the OpenAPI document, stand-in devices included."""
    import tempfile

    with tempfile.TemporaryDirectory() as scratch:
        settings = read_settings({"REEDLING_DATA": scratch, "REEDLING_DEMO": "yes", "REEDLING_WEB": scratch})
        app = create_app(open_context(settings.data_dir), settings)
        typer.echo(json.dumps(app.openapi(), indent=1, ensure_ascii=False, sort_keys=True))


@cli.command("add-person")
def add_person_command(
    username: str,
    name: str,
    role: Annotated[str, typer.Option(help=f"One of {', '.join(ROLES)}.")],
    password: Annotated[str, typer.Option(prompt=True, hide_input=True, confirmation_prompt=True)],
    data: DataDir = Path("data"),
) -> None:
    """Add somebody who can sign in."""
    found = next((r for r in ROLES if r == role), None)
    if found is None:
        raise typer.BadParameter(f"must be one of {', '.join(ROLES)}, got {role!r}", param_hint="--role")
    person = Person(id=username, name=name, role=found, username=username)
    add_person(open_context(data), person, password)
    typer.echo(f"{name} can sign in as {username}.")


def _read_pack(folder: Path) -> dict[str, str]:
    """The texts of a pack's files, by their path within it."""
    paths = [folder / "library.json", *(p for part in PACK_PARTS for p in folder.glob(part))]
    return {p.relative_to(folder).as_posix(): p.read_text("utf-8") for p in sorted(paths) if p.is_file()}


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
