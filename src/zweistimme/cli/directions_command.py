"""``zweistimme directions``: directions proposed from how the original is said."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import msg_act, tr
from zweistimme.sentences.catalogue import sentence_of
from zweistimme.stages.voice.deliveries import give_directions, proposed_by_text, proposed_directions


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(directions)


def directions(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    line: list[int] = LineOption,
    texts: str = typer.Option(
        "", "--texts", help="Ask this engine in what tone the wordings would be said, instead.", metavar="ENGINE"
    ),
    apply: bool = typer.Option(False, "--apply", help="Give lines the directions that are proposed."),
    as_json: bool = JsonOption,
) -> None:
    """Propose directions from how the original is said: whispered, shouted, hurried, asking; or from the wordings."""
    found = {}
    with opened_project(project) as document:
        ids = [segment_of(document.project, number).id for number in line] or None
        for tag in chosen_tags(to, list(document.project.versions)):
            if texts:
                found[tag] = run(document, f"Read in what tone it is said {tag}", proposed_by_text, tag, texts, ids)
            else:
                found[tag] = run(document, f"Listen how it is said {tag}", proposed_directions, tag, ids)
            if apply and found[tag]:
                edit = partial(give_directions, tag=tag, proposed=found[tag])
                document.apply(msg_act("Take over directions"), edit)
    if as_json:
        rows = {
            tag: [{**asdict(one), "why": sentence_of(one.why)} for one in proposed] for tag, proposed in found.items()
        }
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag, proposed in found.items():
        for one in proposed:
            out.print(f"{tag}  {one.number:4}  {one.direction}  – {sentence_of(one.why)}")
        if not proposed:
            out.print(f"{tag}  {tr('No line is said unlike its speaker’s others.')}")
