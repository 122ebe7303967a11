"""``zweistimme engines``: connect, test and choose engines; ``zweistimme serve``: offer the bundled one over HTTP."""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme import messages
from zweistimme.cli.app import App, CommandError
from zweistimme.cli.budget_command import budget
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags, engine_choices
from zweistimme.engines.connections import BUNDLED, connections, find_connection
from zweistimme.engines.engine_facts import facts
from zweistimme.engines.new_connection import (
    connect_described,
    connect_python,
    connect_service,
    keep_token_of,
    remove_connection,
)
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import Examined, examined
from zweistimme.messages import tr
from zweistimme.project.edits import choose_engine
from zweistimme.stages.engine_choice import engine_for
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in

engines = App(name="engines", help="Connect, test and remove engines.", no_args_is_help=False)
engines.command()(budget)


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.add_typer(engines, name="engines")
    app.command()(use)
    app.command()(serve)


def use_engines(document: Document, choices: Mapping[Role, str], tag: str | None = None) -> None:
    """Keep which engine a project, or one version of it, asks for what."""
    for role, name in choices.items():
        document.apply("Choose an engine", partial(choose_engine, role=role, name=name, tag=tag))


def use(
    project: Path = ProjectArgument,
    choice: list[str] = typer.Argument(
        None, help="NAME, or ROLE=NAME; without one the choices are listed.", metavar="[ROLE=]NAME"
    ),
    to: list[str] = ToOption,
    as_json: bool = JsonOption,
) -> None:
    """Choose which engine is asked for what, by a project or by some versions of it alone."""
    if choice:
        choices = engine_choices(choice)
        with opened_project(project) as document:
            for tag in chosen_tags(to, list(document.project.versions)) if to else (None,):
                use_engines(document, choices, tag)
    state = project_in(project)
    rows = {tag: {role.value: engine_for(state, role, tag) for role in Role} for tag in state.versions}
    rows = {"": {role.value: engine_for(state, role) for role in Role}, **rows}
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag, chosen in rows.items():
        asked = ", ".join(f"{role}={name}" for role, name in chosen.items())
        out.print(f"{tag or tr('all versions'):14} {asked}")


@engines.callback(invoke_without_command=True)
def listed(context: typer.Context, as_json: bool = JsonOption) -> None:
    """List the connected engines."""
    if context.invoked_subcommand is not None:
        return
    if as_json:
        typer.echo(json.dumps([asdict(connection) for connection in connections()], ensure_ascii=False, indent=1))
        return
    for connection in connections():
        out.print(f"{connection.name:16} {connection.kind:8} {connection.place}".rstrip())


@engines.command()
def add(
    name: str = typer.Argument(..., help="What the connection is to be called.", metavar="NAME"),
    service: str | None = typer.Option(None, help="The address of a service.", metavar="URL"),
    described: Path | None = typer.Option(
        None,
        "--described",
        "--program",
        help="The TOML file that describes a program, or a service of another shape.",
        metavar="FILE",
    ),
    python: str | None = typer.Option(
        None, help="The factory of a Python engine: module:factory, or file.py:factory.", metavar="FACTORY"
    ),
    token_file: Path | None = typer.Option(
        None, help="A file with the service's token, which goes into the secret store.", metavar="FILE"
    ),
) -> None:
    """Connect an engine and test it."""
    token = _token(token_file) if token_file is not None else ""
    match service, described, python:
        case str(address), None, None:
            kept = connect_service(name, address, token)
        case None, Path() as file, None:
            kept = connect_described(name, file, token)
        case None, None, str(factory):
            kept = connect_python(name, factory)
        case _:
            raise CommandError("Give one of --service URL, --described FILE and --python FACTORY.")
    found = examined(kept)
    _say(found)
    if found.problem:  # the connection is kept: the engine may only be away just now
        raise typer.Exit(1)


@engines.command("test")
def check(
    name: str = typer.Argument(BUNDLED, help="The connection to test.", metavar="NAME"), as_json: bool = JsonOption
) -> None:
    """Say what an engine says of itself, or why it fails."""
    found = examined(find_connection(name))
    if as_json:
        typer.echo(json.dumps(asdict(found), ensure_ascii=False, indent=1))
    else:
        _say(found)
    if found.problem:
        raise typer.Exit(1)


@engines.command()
def remove(name: str = typer.Argument(..., help="The connection to remove.", metavar="NAME")) -> None:
    """Remove a connection and its token."""
    remove_connection(name)


@engines.command()
def token(
    name: str = typer.Argument(..., help="The connection the token is for.", metavar="NAME"),
    token_file: Path | None = typer.Option(None, help="A file with the token; else it is asked for.", metavar="FILE"),
) -> None:
    """Keep a service's token in the secret store."""
    connection = find_connection(name)
    given = _token(token_file) if token_file else typer.prompt(tr("Token for {name}", name=name), hide_input=True)
    keep_token_of(connection, given.strip())


def _token(file: Path) -> str:
    try:
        given = file.read_text(encoding="utf-8").strip()
    except (OSError, UnicodeDecodeError) as error:
        raise CommandError(
            "{file} cannot be read ({why}). Give a text file that holds the token.", file=file, why=error
        ) from None
    if not given:
        raise CommandError("{file} is empty. Put the token in it.", file=file)
    return given


def _say(found: Examined) -> None:
    if found.info is None:
        name = found.connection.name
        out.print(found.problem if found.problem.startswith(name) else f"{name}: {found.problem}")
        return
    info = found.info
    out.print(
        tr(
            "{engine} {version} · can {roles}",
            engine=info.name,
            version=info.version,
            roles=", ".join(map(tr, info.roles)) or tr("do nothing"),
        ),
    )
    for label, text in facts(found):
        out.print(f"{label}: {text}")


def serve(
    port: int = typer.Option(8766, min=0, max=65535, help="The port; 0 takes any that is free.", metavar="PORT"),
    address: str = typer.Option(
        "127.0.0.1", help="The address to listen at. Others than this machine need a token.", metavar="ADDRESS"
    ),
    token_file: Path | None = typer.Option(None, help="A file with the token that callers must show.", metavar="FILE"),
    faults: str = typer.Option(
        "",
        help="Faults for tests, with their shares: limit=0.1,server-error=0.05. “list” lists them.",
        metavar="FAULTS",
    ),
    name: str = typer.Option(BUNDLED, "--engine", help="Which engine is offered.", metavar="NAME"),
    python: str | None = typer.Option(
        None,
        help="Offer a Python engine instead, by its factory: module:factory, or file.py:factory.",
        metavar="FACTORY",
    ),
) -> None:
    """Offer an engine over HTTP (docs/engine-protocol.md)."""
    from zweistimme.engines.python_engine import PythonEngine
    from zweistimme.server import FAULTS, Serving, parsed_faults, serve_engine

    if faults == "list":
        for fault, about in FAULTS.items():
            out.print(f"{fault:16} {about}")
        return
    given = _token(token_file) if token_file else None
    offered = None
    if python is not None:
        sys.path.insert(0, str(Path.cwd()))  # a module lying here is meant
        name, offered = python, PythonEngine(python, python)
        offered.info()
    messages.use("en")  # what callers are answered is for programs, and for people elsewhere
    serving = Serving(name, address, port, given, parsed_faults(faults))
    serve_engine(serving, say=lambda text: out.print(text), offered=offered)
