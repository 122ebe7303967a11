"""``zweistimme brief``: what a programme is about, who it is for, and how people address each other."""

from __future__ import annotations

import json
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.messages import tr
from zweistimme.project.brief import Address, pair_of
from zweistimme.project.conversation import pairs_speaking, set_address, set_brief
from zweistimme.project.model import Project
from zweistimme.sentences import ADDRESSES
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(brief)


def brief(
    project: Path = ProjectArgument,
    subject: str | None = typer.Option(None, help="What the programme is about.", metavar="TEXT"),
    audience: str | None = typer.Option(None, help="Who it is for.", metavar="TEXT"),
    notes: str | None = typer.Option(None, help="What else whoever translates has to know.", metavar="TEXT"),
    address: list[str] = typer.Option(
        [], help="How one person addresses another: Ada>Tom=formal, familiar, or nothing.", metavar="WHO>WHOM=HOW"
    ),
    as_json: bool = JsonOption,
) -> None:
    """Say what whoever translates has to know of the programme, or set it."""
    if any(one is not None for one in (subject, audience, notes)) or address:
        with opened_project(project) as document:
            said = partial(set_brief, subject=subject, audience=audience, notes=notes)
            document.apply("Change the brief", said)
            for one in address:
                speaker, listener, how = _address(document.project, one)
                who = partial(set_address, speaker_id=speaker, listener_id=listener, address=how)
                document.apply("Say how somebody is addressed", who)
            state = document.project
    else:
        state = project_in(project)
    _show(state, as_json)


def _address(project: Project, text: str) -> tuple[str, str, Address]:
    people, mark, how = text.partition("=")
    speaker, arrow, listener = people.partition(">")
    if not mark or not arrow or how.strip() not in list(Address):
        raise CommandError(
            "“{text}” is no address. Give it as Ada>Tom=formal, or =familiar, or = to forget it.", text=text
        )
    return _speaker(project, speaker), _speaker(project, listener), Address(how.strip())


def _speaker(project: Project, name: str) -> str:
    wanted = name.strip().casefold()
    for key, speaker in project.speakers.items():
        if wanted in (key.casefold(), speaker.name.casefold()):
            return key
    there = ", ".join(speaker.name for speaker in project.speakers.values())
    raise CommandError("There is no speaker “{name}”. There is {there}.", name=name.strip(), there=there)


def _show(project: Project, as_json: bool) -> None:
    known = project.brief
    pairs = [
        {"speaker": a, "listener": b, "segments": n, "address": known.address.get(pair_of(a, b), Address.UNKNOWN).value}
        for a, b, n in pairs_speaking(project)
    ]
    if as_json:
        typer.echo(json.dumps({**asdict(known), "pairs": pairs}, ensure_ascii=False, indent=1))
        return
    for head, text in ((tr("about"), known.subject), (tr("for"), known.audience), (tr("notes"), known.notes)):
        if text:
            out.print(f"{head}: {text}")
    names = {key: speaker.name for key, speaker in project.speakers.items()}
    for pair in pairs:
        words = tr(
            "{speaker} to {listener}: {address}, {n:segment|segments}",
            speaker=names[str(pair["speaker"])],
            listener=names[str(pair["listener"])],
            address=tr(ADDRESSES[Address(str(pair["address"]))]),
            n=int(str(pair["segments"])),
        )
        out.print(words)
    if not pairs and known.subject == known.audience == known.notes == "":
        out.print(tr("Nothing has been said of the programme yet."))
