"""The command ``zweistimme``.

Exit codes: 0 done · 1 it could not be done, and a sentence says why · 2 the command was given wrongly ·
3 speakers without a voice · 4 a part of it could not be done, the rest is kept · 130 stopped by the person.
"""

from __future__ import annotations

import gettext
import logging
import os
import signal
import sys
from pathlib import Path

import typer
from typer.exceptions import TyperException

from zweistimme import __version__
from zweistimme.cli.app import AllCommands, App, CommandError
from zweistimme.cli.commands import COMMANDS
from zweistimme.cli.usage import usage_words
from zweistimme.messages import language, tr, use
from zweistimme.messages.lookup import DOMAIN, LOCALES
from zweistimme.project.errors import (
    BudgetReached,
    Cancelled,
    MissingVoices,
    PartlyDone,
    TagError,
    ZweistimmeError,
)
from zweistimme.project.findings import cause
from zweistimme.store.settings import LANGUAGE, read_settings

EXIT_FAILED, EXIT_USAGE, EXIT_VOICES, EXIT_PARTLY, EXIT_STOPPED = 1, 2, 3, 4, 130
_CODES = (
    (CommandError, EXIT_USAGE),
    (TagError, EXIT_USAGE),
    (MissingVoices, EXIT_VOICES),
    (Cancelled, EXIT_STOPPED),
    (PartlyDone, EXIT_PARTLY),
    (BudgetReached, EXIT_PARTLY),
)

app = App(
    name="zweistimme",
    cls=AllCommands,
    help="A desk for dubbing. Without a command it opens the window: zweistimme [PROJECT].",
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"Zweistimme {__version__}")
        raise typer.Exit


@app.callback(invoke_without_command=True)
def _entry(
    context: typer.Context,
    version: bool = typer.Option(False, "--version", help="Say which version this is.", callback=_version),
) -> None:
    if context.invoked_subcommand is None:
        from zweistimme.window.app import run

        raise typer.Exit(run(None))


def main() -> None:
    """Run the command line; a person never sees a traceback."""
    arguments = sys.argv[1:]
    _have_packages_speak()
    if arguments and not arguments[0].startswith("-") and arguments[0] not in COMMANDS:
        if not Path(arguments[0]).exists():
            _leave(
                tr("{word} is neither a command nor a file. zweistimme --help lists the commands.", word=arguments[0]),
                EXIT_USAGE,
            )
        arguments = ["window", *arguments]
    logging.getLogger("libav").setLevel(logging.CRITICAL)
    if arguments and arguments[0] != "window":  # which has an ending of its own
        _stop_with_a_sentence()
    try:
        raise SystemExit(app(arguments, standalone_mode=False, prog_name="zweistimme"))
    except TyperException as error:
        _leave(usage_words(error), error.exit_code)
    except typer.Abort:
        _leave(tr("Nothing was done."), EXIT_FAILED)
    except ZweistimmeError as error:
        _leave(str(error), next((code for kind, code in _CODES if isinstance(error, kind)), EXIT_FAILED))
    except KeyboardInterrupt:
        _leave(tr("Stopped. Everything finished so far is kept; the same command goes on from there."), EXIT_STOPPED)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(EXIT_FAILED) from None
    except OSError as error:
        _leave(
            tr("{file}: {why}. Check space and permissions.", file=error.filename or tr("A file"), why=cause(error)),
            EXIT_FAILED,
        )
    except Exception as error:  # a defect; the sentence is for the person, the rest for a report
        if os.environ.get("ZWEISTIMME_DEBUG"):
            raise
        kind = type(error).__name__
        _leave(
            tr(
                "A defect in Zweistimme: {kind}: {error}. Set ZWEISTIMME_DEBUG=1 to see where, and report it.",
                kind=kind,
                error=error,
            ),
            EXIT_FAILED,
        )


def _have_packages_speak() -> None:
    """Speak the person's language, and have what reads the command line, which says things of its own, look them up
    among our messages."""
    use(read_settings().text(LANGUAGE))
    gettext.bindtextdomain(DOMAIN, LOCALES)
    gettext.textdomain(DOMAIN)
    os.environ["LANGUAGE"] = language()


def _stop_with_a_sentence() -> None:
    """Have signals that ask to end do what Ctrl+C does, but for such as whoever started this wants ignored."""
    for number in (signal.SIGTERM, signal.SIGHUP):
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, _stop)


def _stop(_number: int, _frame: object) -> None:
    raise KeyboardInterrupt


def _leave(sentence: str, code: int) -> None:
    from zweistimme.cli.console import err

    err.print(sentence if sentence.startswith(tr("Usage: ")) else f"zweistimme: {sentence}")
    raise SystemExit(code)
