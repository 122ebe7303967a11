"""The shape that all commands share."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import typer
from typer.core import TyperCommand


class _Command(TyperCommand):
    """A command whose usage line names what must be given plainly, and what may be in brackets."""

    def collect_usage_pieces(self, ctx: Any) -> list[str]:
        return [piece.strip("{}") for piece in super().collect_usage_pieces(ctx)]


class App(typer.Typer):
    """Commands under one name."""

    def command(self, name: str | None = None, **more: Any) -> Callable[[Any], Any]:
        return super().command(name, cls=_Command, **more)
