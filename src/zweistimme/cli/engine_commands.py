"""``zweistimme engines``: connect, test and choose engines; ``zweistimme serve``: offer the bundled one over HTTP."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.desk import out
from zweistimme.engines.connections import BUNDLED, Connection, Kind, connect, connections, disconnect, find_connection
from zweistimme.engines.engine_facts import facts
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import Examined, examined
from zweistimme.engines.secrets import forget_token, keep_token
from zweistimme.project.edits import choose_engine
from zweistimme.project.errors import ZweistimmeError
from zweistimme.store.document import Document

engines = typer.Typer(
    name="engines", help="Connect, test and remove engines.", no_args_is_help=False, rich_markup_mode=None
)


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.add_typer(engines, name="engines")
    app.command()(serve)


def use_engines(document: Document, choices: Mapping[Role, str]) -> None:
    """Keep which engine a project asks for what."""
    for role, name in choices.items():
        document.apply(f"Use {name} to {role}", partial(choose_engine, role=role, name=name))


@engines.callback(invoke_without_command=True)
def listed(context: typer.Context) -> None:
    """List the connected engines."""
    if context.invoked_subcommand is not None:
        return
    for connection in connections():
        out.print(f"{connection.name:16} {connection.kind:8} {connection.place}".rstrip(), markup=False)


@engines.command()
def add(
    name: str = typer.Argument(..., help="What the connection is to be called."),
    service: str | None = typer.Option(None, help="The address of a service.", metavar="URL"),
    program: Path | None = typer.Option(None, help="The TOML file that describes a program.", metavar="FILE"),
    token_file: Path | None = typer.Option(
        None, help="A file with the service's token, which goes into the secret store.", metavar="FILE"
    ),
) -> None:
    """Connect an engine and test it."""
    if (service is None) == (program is None):
        raise ZweistimmeError("Give either --service URL or --program FILE.")
    if service is not None:
        connection = Connection(name, Kind.SERVICE, service)
    else:
        assert program is not None
        connection = Connection(name, Kind.PROGRAM, str(program.resolve()))
    kept = connect(connection)
    if token_file is not None:
        keep_token(kept.name, _token(token_file))
    found = examined(kept)
    _say(found)
    if found.problem:  # the connection is kept: the engine may only be away just now
        raise typer.Exit(1)


@engines.command("test")
def check(name: str = typer.Argument(BUNDLED, help="The connection to test.")) -> None:
    """Say what an engine says of itself, or why it fails."""
    found = examined(find_connection(name))
    _say(found)
    if found.problem:
        raise typer.Exit(1)


@engines.command()
def remove(name: str = typer.Argument(..., help="The connection to remove.")) -> None:
    """Remove a connection and its token."""
    disconnect(name)
    forget_token(name)


@engines.command()
def token(
    name: str = typer.Argument(..., help="The connection the token is for."),
    token_file: Path | None = typer.Option(None, help="A file with the token; else it is asked for.", metavar="FILE"),
) -> None:
    """Keep a service's token in the secret store."""
    find_connection(name)
    given = _token(token_file) if token_file else typer.prompt(f"Token for {name}", hide_input=True)
    keep_token(name, given.strip())


def _token(file: Path) -> str:
    try:
        given = file.read_text(encoding="utf-8").strip()
    except (OSError, UnicodeDecodeError) as error:
        raise ZweistimmeError(f"{file} cannot be read ({error}). Give a text file that holds the token.") from None
    if not given:
        raise ZweistimmeError(f"{file} is empty. Put the token in it.")
    return given


def _say(found: Examined) -> None:
    if found.info is None:
        name = found.connection.name
        out.print(found.problem if found.problem.startswith(name) else f"{name}: {found.problem}", markup=False)
        return
    info = found.info
    out.print(f"{info.name} {info.version} · can {', '.join(info.roles) or 'do nothing'}", markup=False)
    for label, text in facts(found):
        out.print(f"{label.lower()}: {text}", markup=False)


def serve(
    port: int = typer.Option(8766, min=0, max=65535, help="The port; 0 takes any that is free."),
    address: str = typer.Option("127.0.0.1", help="The address to listen at. Others than this machine need a token."),
    token_file: Path | None = typer.Option(None, help="A file with the token that callers must show.", metavar="FILE"),
    faults: str = typer.Option(
        "", help="Faults for tests, with their shares: limit=0.1,server-error=0.05. “list” lists them."
    ),
    name: str = typer.Option(BUNDLED, "--engine", help="Which engine is offered.", metavar="NAME"),
) -> None:
    """Offer an engine over HTTP (docs/engine-protocol.md)."""
    from zweistimme.server import FAULTS, Serving, parsed_faults, serve_engine

    if faults == "list":
        for fault, about in FAULTS.items():
            out.print(f"{fault:16} {about}", markup=False)
        return
    given = _token(token_file) if token_file else None
    serve_engine(
        Serving(name, address, port, given, parsed_faults(faults)), say=lambda text: out.print(text, markup=False)
    )
