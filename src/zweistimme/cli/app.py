"""The shape that all commands share, and the one that loads them when they are asked for."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

import typer
from typer.core import TyperCommand, TyperGroup

from zweistimme.cli.commands import COMMANDS
from zweistimme.project.errors import ZweistimmeError


class CommandError(ZweistimmeError):
    """A command was given wrongly."""


class _Command(TyperCommand):
    """A command whose usage line names what must be given plainly, and what may be in brackets."""

    def collect_usage_pieces(self, ctx: Any) -> list[str]:
        return [piece.strip("{}") for piece in super().collect_usage_pieces(ctx)]


class App(typer.Typer):
    """Commands under one name."""

    def command(self, name: str | None = None, **more: Any) -> Callable[[Any], Any]:
        return super().command(name, cls=_Command, **more)


class AllCommands(TyperGroup):
    """Every command, loaded when it is asked for: its module has a function ``register``."""

    def list_commands(self, ctx: Any) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        entry = COMMANDS.get(cmd_name)
        if entry is None:
            return None
        app = App(rich_markup_mode=None)
        app.callback()(_nothing)  # so that a module with one command makes a group as well
        import_module(f"zweistimme.cli.{entry.module}").register(app)
        made: Any = typer.main.get_group(app)
        return made.commands[cmd_name]

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, entry.about) for name, entry in COMMANDS.items()])


def _nothing() -> None:
    pass
