"""``zweistimme window``: the desk itself."""

from __future__ import annotations

from pathlib import Path

import typer


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(window)


def window(
    project: Path | None = typer.Argument(None, help="A project folder, or a video or sound file.", metavar="PROJECT"),
    demo: bool = typer.Option(False, "--demo", help="Open a new project with the demo programme."),
) -> None:
    """Open the window (also: zweistimme PROJECT)."""
    from zweistimme.window.app import run

    raise typer.Exit(run(project, demo=demo))
