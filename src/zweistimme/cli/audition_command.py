"""``zweistimme audition``: a person's own lines heard in voices before one is cast."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err, out
from zweistimme.cli.desk import opened_project, run
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.manners import speaker_called
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, chosen_tags
from zweistimme.engines.registry import find_voice
from zweistimme.messages import msg_act, tr
from zweistimme.project.access import find_version
from zweistimme.project.audition_edits import drop_auditions, prefer_audition, score_audition
from zweistimme.project.auditions import Audition, auditions_of, standings
from zweistimme.project.facts import spoken_segments
from zweistimme.project.findings import Figure, Finding
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project, Segment
from zweistimme.sentences import sentence_of
from zweistimme.sound.arrays import Mono
from zweistimme.stages import audition as stage
from zweistimme.stages.audition import Wish
from zweistimme.stages.work import Work
from zweistimme.store.document import Document


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(audition)


def audition(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    speaker: str = typer.Option("", "--speaker", help="Whose lines are heard.", metavar="SPEAKER"),
    voices: list[str] = typer.Option(
        [], "--voice", help="A voice to hear them in; with --scene SPEAKER=VOICE.", metavar="VOICE"
    ),
    line: list[int] = LineOption,
    scene: int | None = typer.Option(
        None, min=1, help="Hear the whole scene of this line, others in the voices they have.", metavar="LINE"
    ),
    score: list[str] = typer.Option([], help="What you think of one, 1 to 5.", metavar="LINE:VOICE=SCORE"),
    prefer: list[str] = typer.Option([], help="Which of two you prefer, the better first.", metavar="LINE:VOICE,VOICE"),
    drop: list[str] = typer.Option([], help="Keep the auditions of this voice no more.", metavar="VOICE"),
    folder: Path | None = typer.Option(None, "--out", help="Write what is heard as WAV files there.", metavar="FOLDER"),
    as_json: bool = JsonOption,
) -> None:
    """Hear a person's lines in voices before one is cast, beside the original and equally loud."""
    tag = language_tag(to)
    with opened_project(project) as document:
        chosen_tags([tag], list(document.project.versions))
        state = document.project
        if scene is None:
            key = speaker_called(state, speaker) if speaker else ""
            lines, wishes = _lines(document, tag, key, line, voices)
            cast: Mapping[str, str] = {}
        else:
            lines, cast = stage.scene_of(state.segments, segment_of(state, scene).id), _proposed(state, tag, voices)
            wishes = [Wish(one.id, cast[one.speaker_id]) for one in lines if one.speaker_id in cast]
        if voices or scene is not None:
            _say_cost(state, tag, wishes)
            run(document, f"Audition {tag}", stage.audition, tag, wishes)
        _think(document, tag, score, prefer, drop)
        if folder is not None:
            run(document, f"Audition {tag}", _write, tag, lines, cast, folder)
        _print(document.project, tag, lines, as_json=as_json)


def _lines(
    document: Document, tag: str, speaker: str, numbers: Sequence[int], voices: Sequence[str]
) -> tuple[list[Segment], list[Wish]]:
    """The lines that are meant: those named, else those of the person that tell most, else all."""
    state = document.project
    for voice in voices:
        find_voice(voice)
    if numbers:
        lines = [segment_of(state, number) for number in numbers]
    elif speaker:
        levels = run(document, f"Audition {tag}", stage.line_levels_db, speaker) if voices else {}
        telling = stage.telling_lines(state, tag, speaker, levels)
        lines = [one for one in state.segments if (one.id in telling if voices else one.speaker_id == speaker)]
    elif voices:
        raise CommandError("Say whose lines are to be heard with --speaker, or which with --line.")
    else:
        lines = spoken_segments(state)
    return lines, stage.wishes_of([one.id for one in lines], voices)


def _proposed(state: Project, tag: str, voices: Sequence[str]) -> dict[str, str]:
    cast = dict(find_version(state, tag).cast)
    for value in voices:
        name, equals, voice = value.partition("=")
        if not equals:
            raise CommandError("“{value}” names no speaker. Write SPEAKER=VOICE.", value=value)
        find_voice(voice)
        cast[speaker_called(state, name)] = voice
    return cast


def _say_cost(state: Project, tag: str, wishes: Sequence[Wish]) -> None:
    count = len(stage.open_auditions(state, tag, wishes))
    for name, cost in stage.cost_of_auditions(state, tag, wishes).items():
        if cost.amount:
            figures: dict[str, Figure] = {"lines": count, "characters": cost.characters, "engine": name}
            said = Finding("auditions-cost", {**figures, "amount": cost.amount, "currency": cost.currency})
            err.print(f"  {sentence_of(said)}")


def _think(document: Document, tag: str, score: Sequence[str], prefer: Sequence[str], drop: Sequence[str]) -> None:
    for value in score:
        which, _, given = value.rpartition("=")
        if not given.isdecimal():
            raise CommandError("“{value}” names no score. Write LINE:VOICE=SCORE.", value=value)
        edit = partial(score_audition, tag=tag, key=_named(document, tag, which).id, score=int(given))
        document.apply(msg_act("Score an audition"), edit)
    for value in prefer:
        which, _, other = value.partition(",")
        number, _, _ = which.partition(":")
        keys = [_named(document, tag, one).id for one in (which, f"{number}:{other}")]
        document.apply(msg_act("Prefer a voice"), partial(prefer_audition, tag=tag, better=keys[0], worse=keys[1]))
    gone = [one.id for one in find_version(document.project, tag).auditions.values() if one.voice in drop]
    if gone:
        document.apply(msg_act("Drop auditions"), partial(drop_auditions, tag=tag, keys=gone))


def _named(document: Document, tag: str, which: str) -> Audition:
    """The audition that LINE:VOICE names; the latest, where the line has been heard in that voice several times."""
    number, colon, voice = which.partition(":")
    if not colon or not number.isdecimal():
        raise CommandError("“{which}” names no audition. Write LINE:VOICE.", which=which)
    segment = segment_of(document.project, int(number))
    found = auditions_of(find_version(document.project, tag).auditions, [segment.id], [voice])
    if not found:
        raise CommandError("Line {number} has not been heard in {voice} yet.", number=number, voice=voice)
    return found[-1]


def _write(work: Work, tag: str, lines: Sequence[Segment], cast: Mapping[str, str], folder: Path) -> None:
    """Each line in the original and in every voice, or the scene as a whole, as WAV files."""
    folder.mkdir(parents=True, exist_ok=True)
    if cast:
        heard = stage.auditions_by_segment(work.project, tag, cast)
        _, sound = stage.scene_sound(work, lines, heard, stage.speakers_lufs(work, lines))
        if len(sound):
            _put(folder / "scene.wav", sound)
        return
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(work.project), 1)}
    for segment in lines:
        original = stage.original_sound(work, segment)
        lufs = stage.loudness_lufs(original)
        if original is not None:
            _put(folder / f"{numbers[segment.id]:04}-original.wav", original)
        for one in auditions_of(find_version(work.project, tag).auditions, [segment.id]):
            name = "".join(sign if sign.isalnum() else "-" for sign in one.voice)
            sound = stage.audition_sound(work.clips, one, lufs)
            _put(folder / f"{numbers[segment.id]:04}-{name}.wav", sound)


def _put(path: Path, sound: Mono) -> None:
    from zweistimme.media.encode import write_wav

    write_wav(path, [sound[None, :]], 1, len(sound))


def _print(state: Project, tag: str, lines: Sequence[Segment], *, as_json: bool) -> None:
    numbers = {segment.id: number for number, segment in enumerate(spoken_segments(state), 1)}
    shown = auditions_of(find_version(state, tag).auditions, [one.id for one in lines])
    shown.sort(key=lambda one: numbers.get(one.segment_id, 0))
    ranked = standings(shown)
    if as_json:
        rows = [{"line": numbers.get(one.segment_id), **asdict(one)} for one in shown]
        typer.echo(json.dumps({"auditions": rows, "voices": [asdict(one) for one in ranked]}, ensure_ascii=False))
        return
    for one in shown:
        thought = tr("score {score}", score=one.score) if one.score else ""
        said = ", ".join(filter(None, (thought, one.note)))
        out.print(f"{numbers.get(one.segment_id, 0):4}  {one.voice}: {one.text}{said and f' ({said})'}")
    for standing in ranked:
        mean = tr(", {score:.1f} in the mean", score=standing.score) if standing.score is not None else ""
        won = tr(", preferred in {won} of {compared}", won=standing.won, compared=standing.compared)
        said = tr("{voice}: {n:line|lines}", voice=standing.voice, n=standing.auditions)
        out.print(f"{said}{won if standing.compared else ''}{mean}")
