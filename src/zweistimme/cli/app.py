"""The shape that all commands share, and the one that loads them when they are asked for."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

import typer
from typer.core import TyperCommand, TyperGroup

from zweistimme.cli.commands import COMMANDS
from zweistimme.messages import tr
from zweistimme.project.errors import ZweistimmeError


class CommandError(ZweistimmeError):
    """A command was given wrongly."""


class _InWords:
    """Usage and help in the language of the desk."""

    def format_usage(self, ctx: Any, formatter: Any) -> None:
        pieces = self.collect_usage_pieces(ctx)  # type: ignore[attr-defined]
        formatter.write_usage(ctx.command_path, " ".join(pieces), prefix=tr("Usage: "))

    def get_help_option(self, ctx: Any) -> Any:
        option = super().get_help_option(ctx)  # type: ignore[misc]
        if option is not None:
            option.help = tr("Show this message and exit.")
        return option


class _Command(_InWords, TyperCommand):
    """A command whose usage line names what must be given plainly, and what may be in brackets."""

    def collect_usage_pieces(self, ctx: Any) -> list[str]:
        return [piece.strip("{}") for piece in super().collect_usage_pieces(ctx)]


class _Group(_InWords, TyperGroup):
    """Commands under one name."""


class App(typer.Typer):
    """Commands under one name."""

    def __init__(self, **more: Any) -> None:
        super().__init__(**{"cls": _Group, "rich_markup_mode": None, **more})

    def command(self, name: str | None = None, **more: Any) -> Callable[[Any], Any]:
        return super().command(name, cls=_Command, **more)


class AllCommands(_Group):
    """Every command, loaded when it is asked for: its module has a function ``register``."""

    def make_context(self, *args: Any, **more: Any) -> Any:
        return super(AllCommands, _in_words(self)).make_context(*args, **more)

    def list_commands(self, ctx: Any) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        entry = COMMANDS.get(cmd_name)
        if entry is None:
            return None
        app = App()
        app.callback()(_nothing)  # so that a module with one command makes a group as well
        import_module(f"zweistimme.cli.{entry.module}").register(app)
        made: Any = typer.main.get_group(app)
        return _in_words(made.commands[cmd_name])

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        with formatter.section(tr("Commands")):
            formatter.write_dl([(name, tr(entry.about)) for name, entry in COMMANDS.items()])


def _nothing() -> None:
    pass


def _in_words(command: Any) -> Any:
    """A command with its help, and that of all below it, in the language of the desk."""
    command.help = tr(command.help or "")
    for param in command.params:
        if getattr(param, "help", None):
            param.help = tr(param.help)
    for inner in getattr(command, "commands", {}).values():
        _in_words(inner)
    return command
