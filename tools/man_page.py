"""The manual page, made from the help that the commands give."""

from __future__ import annotations

from datetime import date

import typer

from zweistimme import __version__
from zweistimme.cli.commands import COMMANDS
from zweistimme.cli.main import __doc__ as about
from zweistimme.cli.main import app


def escaped(text: str) -> str:
    """Text as roff takes it.

    >>> escaped("a -- b.")
    'a \\\\-\\\\- b.'
    """
    text = " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text[:1] in (".", "'") else text


def page() -> str:
    """The whole page in man(7)."""
    group = typer.main.get_command(app)
    rows = [
        f'.TH ZWEISTIMME 1 "{date.today():%Y-%m-%d}" "Zweistimme {__version__}"',
        ".SH NAME", "zweistimme \\- a desk for dubbing",
        ".SH SYNOPSIS", ".B zweistimme", "[\\fIPROJECT\\fR | \\fICOMMAND\\fR ...]",
        ".SH DESCRIPTION", escaped(group.help or ""),
        ".SH COMMANDS",
    ]  # fmt: skip
    for name in COMMANDS:
        command = group.get_command(None, name)  # type: ignore[attr-defined]
        rows += _command(name, command)
        for inner, one in getattr(command, "commands", {}).items():
            rows += _command(f"{name} {inner}", one)
    rows.append(".SH EXIT STATUS")
    for code in (about or "").partition("Exit codes:")[2].split("·"):
        number, _, meaning = code.strip().partition(" ")
        rows += [".TP", f".B {number}", escaped(meaning)]
    return "\n".join(rows) + "\n"


def _command(name: str, command: object) -> list[str]:
    parameters = getattr(command, "params", [])
    given = [p for p in parameters if p.param_type_name == "argument"]
    named = [(p.metavar or str(p.name).upper(), p.required) for p in given]
    shape = " ".join(name if required else f"[{name.strip('[]')}]" for name, required in named)
    rows = [f".SS {escaped(f'{name} {shape}'.strip())}", escaped(getattr(command, "help", "") or "")]
    for parameter in parameters:
        names = ", ".join((*parameter.opts, *parameter.secondary_opts))
        if parameter.param_type_name == "option" and names and "--help" not in names:
            value = "" if parameter.is_flag else f" \\fI{parameter.metavar or str(parameter.name).upper()}\\fR"
            rows += [".TP", f"\\fB{escaped(names)}\\fR{value}", escaped(parameter.help or "")]
    return rows


if __name__ == "__main__":
    print(page(), end="")
