"""``zweistimme takes``: takes heard back, word by word, and looked at; asked for again until right, or mended."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.languages import language_tag
from zweistimme.sentences.takes import fault_sentence
from zweistimme.stages.voice.heard_back import TakeHeard, hear_back
from zweistimme.stages.voice.looked_at import Remedy, TakeLooked, look_at_takes, mend_take
from zweistimme.stages.voice.until_right import Bounds, again_until_right


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(takes)


def takes(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    line: list[int] = LineOption,
    again: int = typer.Option(
        0, "--again", min=0, max=20, help="Ask again for takes that are not good enough, so many times at most."
    ),
    enough: float = typer.Option(95.0, "--enough", min=0, max=100, help="The score that is good enough, of 100."),
    most: float | None = typer.Option(None, "--most", min=0, help="What asking again may cost at most."),
    mend: bool = typer.Option(False, "--mend", help="Trim, fade and set the level of takes that need it."),
    as_json: bool = JsonOption,
) -> None:
    """Hear takes back: is every word there, and is the sound in order? The worst come first."""
    if most is not None and not again:
        raise CommandError("--most says how much asking again may cost; give --again, too.")
    tag = language_tag(to)
    with opened_project(project) as document:
        chosen_tags([tag], list(document.project.versions))
        ids = [segment_of(document.project, number).id for number in line] or None
        if again:
            bounds = Bounds(enough, again, most)
            heard = run(document, f"Hear takes back {tag}", again_until_right, tag, ids, bounds)
        else:
            heard = run(document, f"Hear takes back {tag}", hear_back, tag, ids)
        looked = run(document, f"Look at takes {tag}", look_at_takes, tag, ids)
        for one in looked if mend else ():
            if {fault.remedy for fault in one.faults} - {Remedy.AGAIN}:
                run(document, f"Mend a take {tag}", mend_take, tag, one.take_id, one.faults)
    _print(heard, looked, as_json=as_json)


def _print(heard: list[TakeHeard], looked: list[TakeLooked], *, as_json: bool) -> None:
    sound = {one.segment_id: one.faults for one in looked}
    if as_json:
        rows = [
            {**asdict(one), "sound": [{**asdict(f), "remedy": f.remedy} for f in sound.get(one.segment_id, ())]}
            for one in heard
        ]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for one in heard:
        words = ", ".join(f"{word.text}: {tr(word.state.value)}" for word in one.faults)
        faults = ", ".join(fault_sentence(f.kind, f.amount, f.remedy.value) for f in sound.get(one.segment_id, ()))
        out.print(f"{one.number:4} {one.score:4.0f}  {one.text}")
        for said in filter(None, (words, faults)):
            out.print(f"{'':9}  {said}")
