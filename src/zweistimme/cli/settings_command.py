"""``zweistimme settings``: what is set for the whole desk."""

from __future__ import annotations

import json

import typer

from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption
from zweistimme.messages import tr
from zweistimme.store.settings import (
    SETTINGS,
    Setting,
    Value,
    read_settings,
    setting_called,
    settings_file,
    value_from,
    write_settings,
)


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(settings)


def settings(
    name: str = typer.Argument("", help="Which one; default: all are listed.", metavar="[NAME]"),
    value: str = typer.Argument(None, help="What it is to be; “” is as it comes.", metavar="[VALUE]"),
    as_json: bool = JsonOption,
) -> None:
    """Say what is set for the whole desk, or set it."""
    there = read_settings()
    if name and value is not None:
        setting = setting_called(name)
        there = there.having(setting, value_from(setting, value))
        write_settings(there)
    shown = [setting_called(name)] if name else list(SETTINGS)
    if as_json:
        typer.echo(json.dumps({one.id: there.value(one) for one in shown}, ensure_ascii=False, indent=1))
        return
    for one in shown:
        out.print(f"{one.id:10} {_in_words(one, there.value(one))}")
        out.print(f"{'':10} {tr(one.title)}: {tr(one.about)}")
        if one.choices:
            choices = ", ".join(f"“{key}” ({tr(words)})" for key, words in one.choices.items())
            out.print(f"{'':10} {choices}")
    out.print(tr("They are kept in {file}.", file=settings_file()))


def _in_words(setting: Setting, value: Value) -> str:
    return f"{value}" if value != "" else tr(setting.choices[""]) if setting.choices else "“”"
