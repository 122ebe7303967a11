"""Casting on the command line: who speaks with which voice, which voices there are, and which one likes."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.manners import in_words, set_manners, speaker_called
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.cli.steps import check_transcript
from zweistimme.engines.offers import Role
from zweistimme.engines.protocol import Engine
from zweistimme.engines.registry import engine, find_voice
from zweistimme.messages import msg_act, tr
from zweistimme.project.cast_edits import cast_voice, refuse_stand_in, settle_voice
from zweistimme.project.edits import allow_substitutes
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.languages import language_name, substitutes_for
from zweistimme.project.manner_edits import play_together
from zweistimme.project.model import AS_USUAL, Project
from zweistimme.sentences.catalogue import sentence_of, sentences_of
from zweistimme.stages.cast import cast as cast_stage
from zweistimme.stages.cast import coverage, measure, on_offer, to_measure
from zweistimme.stages.cast.earlier import forget_voice, remember_voices
from zweistimme.stages.cast.finding import VoiceSearch
from zweistimme.stages.cast.proposing import Proposal, VoiceOnOffer
from zweistimme.stages.cast.shortlist import put_on_shortlist, shortlist, take_off_shortlist
from zweistimme.stages.engine_choice import engine_for
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (cast, voices):
        app.command()(command)


def cast(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    voices: list[str] = typer.Option([], "--voice", help="Give a speaker a voice.", metavar="SPEAKER=VOICE"),
    free: list[str] = typer.Option(
        [], "--free", help="Let another voice be proposed for a speaker whose voice you chose.", metavar="SPEAKER"
    ),
    anew: bool = typer.Option(
        False, "--anew", help="Propose anew for everybody whose voice nobody chose, all at once."
    ),
    measured: bool = typer.Option(
        False, "--measure", help="Have voices that are not measured yet speak a sample first; it may cost."
    ),
    as_json: bool = JsonOption,
    substitutes: bool | None = typer.Option(
        None, "--substitutes/--no-substitutes", help="Whether a voice of a related language may stand in; kept."
    ),
    refuse: list[str] = typer.Option(
        [], help="A related language whose voices may not stand in, such as pt; kept.", metavar="LANGUAGE"
    ),
    accept: list[str] = typer.Option([], help="A related language that may stand in again.", metavar="LANGUAGE"),
    rate: list[str] = typer.Option([], help="How many times as fast as usual.", metavar="SPEAKER=FACTOR"),
    pitch: list[str] = typer.Option([], help="How many times as high as usual.", metavar="SPEAKER=FACTOR"),
    volume: list[str] = typer.Option([], help="How much louder than usual.", metavar="SPEAKER=DB"),
    tier: list[str] = typer.Option([], help="In which quality, of those the voice has.", metavar="SPEAKER=TIER"),
    seed: list[str] = typer.Option([], help="In which of its ways, of a voice that varies.", metavar="SPEAKER=NUMBER"),
    together: bool | None = typer.Option(
        None, "--together/--apart", help="Whether lines that answer each other are asked for together; kept."
    ),
) -> None:
    """Cast voices: propose one for everybody who has none, or set them, and how they speak, by hand."""
    with opened_project(project) as document:
        if substitutes is not None:
            document.apply("Allow substitutes", partial(allow_substitutes, allowed=substitutes))
        tags = chosen_tags(to, list(document.project.versions))
        _refuse(document, tags, refuse, accept)
        for value in voices:
            name, _, voice_id = value.partition("=")
            _cast_by_hand(document, tags, name, voice_id)
        for name in free:
            _set_free(document, tags, name)
        manners = {"rate": rate, "pitch": pitch, "volume_db": volume, "tier": tier, "seed": seed}
        for part, values in manners.items():
            set_manners(document, tags, part, values)
        proposed = {}
        for tag in tags:
            if together is not None:
                document.apply("Play together", partial(play_together, tag=tag, together=together))
            name = engine_for(document.project, Role.SPEAK, tag)
            check_transcript(document.project)
            if measured:
                _measure(document, tag, name, engine(name))
            proposed[tag] = run(document, f"Cast {tag}", cast_stage, engine(name), tag, name, anew=anew)
        state = document.project
    _print_cast(state, tags, proposed, as_json=as_json)


def _refuse(document: Document, tags: Sequence[str], refuse: Sequence[str], accept: Sequence[str]) -> None:
    for refused, languages in ((True, refuse), (False, accept)):
        for related in languages:
            meant = [tag for tag in tags if related in substitutes_for(tag)] or tags[:1]
            for tag in meant:
                edit = partial(refuse_stand_in, tag=tag, related=related, refused=refused)
                label = msg_act("Refuse related voices") if refused else msg_act("Allow related voices")
                document.apply(label, edit)


def _cast_by_hand(document: Document, tags: list[str], name: str, voice_id: str) -> None:
    speaker = speaker_called(document.project, name)
    find_voice(voice_id)
    for tag in tags:
        document.apply(f"Cast {name}", partial(cast_voice, tag=tag, speaker_id=speaker, voice=voice_id))
        remember_voices(document.project, tag)


def _set_free(document: Document, tags: list[str], name: str) -> None:
    speaker = speaker_called(document.project, name)
    for tag in tags:
        edit = partial(settle_voice, tag=tag, speaker_id=speaker, settled=False)
        document.apply(msg_act("Let a voice be proposed"), edit)
        forget_voice(document.project, tag, speaker)


def _measure(document: Document, tag: str, name: str, asked: Engine) -> None:
    """Have voices measured, having said what it costs."""
    count, characters = to_measure(document.project, tag, asked)
    cost = asked.info().price.of(characters)
    if count and cost.amount:
        figures: dict[str, Figure] = {"voices": count, "characters": characters, "engine": name}
        said = Finding("voices-cost-to-measure", {**figures, "amount": cost.amount, "currency": cost.currency})
        err.print(f"  {sentence_of(said)}")
    if count:
        run(document, f"Measure the voices of {name}", measure, asked, tag)


def _print_cast(
    state: Project, tags: Sequence[str], proposed: Mapping[str, Mapping[str, Proposal]], *, as_json: bool
) -> None:
    names = {key: speaker.name for key, speaker in state.speakers.items()}
    if as_json:
        casts = {
            tag: {
                name: {
                    "voice": state.versions[tag].cast.get(key),
                    "chosen": key in state.versions[tag].cast_chosen,
                    "why": sentences_of(proposed[tag][key].reasons) if key in proposed[tag] else "",
                }
                for key, name in names.items()
            }
            for tag in tags
        }
        typer.echo(json.dumps(casts, ensure_ascii=False, indent=1))
        return
    for tag in tags:
        version = state.versions[tag]
        for key, name in names.items():
            manner = in_words(version.manners.get(key, AS_USUAL))
            why = sentences_of(proposed[tag][key].reasons) if key in proposed[tag] else ""
            voice = version.cast.get(key) or tr("no voice")
            out.print(f"{tag}  {name}: {voice}{manner and f' ({manner})'}{why and f'  – {why}'}")


def voices(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    text: str = typer.Option("", "--find", help="Words in its name, in what is said of it, or in its languages."),
    kind: str = typer.Option("", help="woman, man, child or neutral.", metavar="KIND"),
    region: str = typer.Option("", help="A region, such as MX.", metavar="REGION"),
    direction: str = typer.Option("", help="A way of speaking that it has, such as whispering."),
    from_engine: str = typer.Option("", "--engine", help="Only voices of this engine.", metavar="NAME"),
    tier: str = typer.Option("", help="A quality that it is to be had in."),
    control: str = typer.Option("", help="A control that it has: rate, pitch, volume_db."),
    dearest: float | None = typer.Option(None, help="What a character costs at most."),
    varies: bool = typer.Option(False, "--varies", help="Only voices that say a line otherwise when asked again."),
    listed: bool = typer.Option(False, "--listed", help="Only those on your list."),
    keep: list[str] = typer.Option([], "--keep", help="Put a voice on your list, with a note.", metavar="VOICE[=NOTE]"),
    drop: list[str] = typer.Option([], "--drop", help="Take a voice off your list.", metavar="VOICE"),
    as_json: bool = JsonOption,
) -> None:
    """Say which voices there are for each version, find one, and keep a list of those you like."""
    state = project_in(project)
    for value in keep:
        voice, _, note = value.partition("=")
        find_voice(voice)
        put_on_shortlist(voice, note)
    for voice in drop:
        if voice not in shortlist():
            raise CommandError("{voice} is not on your list.", voice=voice)
        take_off_shortlist(voice)
    notes = shortlist()
    search = VoiceSearch(text, "", region, kind, direction, from_engine, tier, control, dearest, varies, listed)
    found = {}
    for tag in chosen_tags(to, list(state.versions)):
        names = dict.fromkeys((engine_for(state, Role.SPEAK, tag), *([from_engine] if from_engine else ())))
        engines = {name: engine(name) for name in names}
        there = [voice for asked in engines.values() for voice in asked.info().voices]
        found[tag] = search.found(on_offer(state, tag, engines), notes), coverage(state, tag, there)
    if as_json:
        rows: dict[str, Any] = {
            tag: {
                "own": cover.own,
                "related": dict(cover.related),
                "refused": list(cover.refused),
                "voices": [_row(one, notes) for one in offered],
            }
            for tag, (offered, cover) in found.items()
        }
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag, (offered, cover) in found.items():
        allowed = {language: count for language, count in cover.related.items() if language not in cover.refused}
        related = ", ".join(f"{language_name(language)} {count}" for language, count in allowed.items())
        said = {
            "own": tr("{n:voice|voices} of its own", n=cover.own),
            "related": tr("no voice of its own; related ones stand in: {related}", related=related),
            "none": tr("no voice; nothing can be spoken"),
        }[cover.kind]
        out.print(f"{tag}: {said}")
        for one in offered:
            out.print(f"  {_in_words(one, notes)}")


def _row(voice: VoiceOnOffer, notes: Mapping[str, str]) -> dict[str, Any]:
    measured = asdict(voice.traits) if voice.traits else None
    about = {"voice": voice.ref, "measured": measured, "price": voice.price, "stands_in": voice.stands_in}
    return {**asdict(voice.info), **about, "note": notes.get(voice.ref)}


def _in_words(voice: VoiceOnOffer, notes: Mapping[str, str]) -> str:
    info = voice.info
    hertz = voice.traits.pitch_hz if voice.traits and voice.traits.pitch_hz else info.pitch_hz
    pitch = tr("{pitch_hz:.0f} Hz", pitch_hz=hertz) if hertz else ""
    mark = f" * {notes[voice.ref]}".rstrip() if voice.ref in notes else ""
    return f"{voice.ref:10} {tr(info.kind):8} {pitch:8} {', '.join(info.languages)}  {info.about}{mark}"
