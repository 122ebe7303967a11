"""``zweistimme by-hand``, ``remedies`` and ``limits``: how lines are fitted by hand, what would help, and the plan's
limits."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict, fields, replace
from functools import partial
from pathlib import Path
from typing import Any, Final

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.line_commands import segment_of
from zweistimme.cli.options import JsonOption, LineOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.messages import tr
from zweistimme.project.facts import chosen_take, spoken_segments
from zweistimme.project.fit_edits import free_pins, pin_word, set_hand, set_limits, set_phrase
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import AS_PLANNED, FitAs, HandFit, PhraseHand
from zweistimme.project.held_words import phrase_hands_in, pins_in, waiting_words
from zweistimme.project.model import Line, Project, Take
from zweistimme.project.placed_time import phrase_words
from zweistimme.project.times import SECOND_US
from zweistimme.sentences import sentences_of
from zweistimme.stages.files import offset_from
from zweistimme.stages.fit import change_and_plan, limits_of
from zweistimme.stages.fit.explained import Explained, explained
from zweistimme.stages.fit.remedies import Standing
from zweistimme.store.document import Edit
from zweistimme.store.read_only import project_in

_PLANNED: Final = {one.name: getattr(AS_PLANNED, one.name) for one in fields(HandFit)}


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command("by-hand")(by_hand)
    app.command()(remedies)
    app.command()(limits)


def by_hand(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    line: list[int] = typer.Option(..., "--line", min=1, help="The line; may be repeated.", metavar="LINE"),
    tempo: str = typer.Option("", help="Tempo of its speech; “plan”: as the plan has it.", metavar="FACTOR"),
    pauses: str = typer.Option(
        "", help="How much of its pauses is kept; “plan”: as the plan has it.", metavar="FACTOR"
    ),
    gain: float | None = typer.Option(None, help="How much louder it is in the mix, in dB.", metavar="DB"),
    fade_in: float | None = typer.Option(None, help="Seconds over which its beginning is faded.", metavar="S"),
    fade_out: float | None = typer.Option(None, help="Seconds over which its end is faded.", metavar="S"),
    start_slack: float | None = typer.Option(None, help="Seconds more by which it may start elsewhere.", metavar="S"),
    end_slack: float | None = typer.Option(None, help="Seconds more by which it may end elsewhere.", metavar="S"),
    fit_as: FitAs | None = typer.Option(None, "--as", help="As what it is fitted in this version."),
    phrase: int = typer.Option(
        0, min=0, help="Say it of its phrase number N alone: tempo, gain, fades, the pause before it.", metavar="N"
    ),
    pause: str = typer.Option(
        "", "--pause-before", help="Seconds of pause before the phrase; “plan”: as the plan has it.", metavar="S"
    ),
    word: list[str] = typer.Option(
        [], help="Hold its word number N to a time, or with “free” no more; may be repeated.", metavar="N=TIME"
    ),
    free: bool = typer.Option(False, "--free", help="Free all its pins, and leave all else to the plan."),
) -> None:
    """Say by hand how lines are fitted and heard: tempo, pauses, level, fades, words held to a time."""
    said: dict[str, Any] = {"gain_db": gain, "fit_as": fit_as}
    seconds = {"fade_in_us": fade_in, "fade_out_us": fade_out, "start_slack_us": start_slack, "end_slack_us": end_slack}
    said |= {name: round(value * SECOND_US) for name, value in seconds.items() if value is not None}
    said = {name: value for name, value in said.items() if value is not None}
    said |= {name: _factor(text) for name, text in (("tempo", tempo), ("pauses", pauses)) if text}
    if pause:
        seconds_before = _factor(pause)
        said["pause_us"] = None if seconds_before is None else round(seconds_before * SECOND_US)
    if not (said or word or free):
        raise CommandError("What is to be done by hand? See zweistimme by-hand --help.")
    allowed = {one.name for one in fields(PhraseHand if phrase else HandFit)}
    if not set(said) <= allowed:
        raise CommandError("A phrase has tempo, gain, fades and a pause before it, and only a phrase has that.")
    with opened_project(project) as document:
        (tag,) = chosen_tags([to], list(document.project.versions))
        ids = {number: segment_of(document.project, number).id for number in line}
        for number, segment_id in ids.items():
            _line(document.project, tag, segment_id, number)
        held = [_held(text, document.project) for text in word]

        def edit(now: Project) -> Project:
            for segment_id in ids.values():
                for change in _changes(tag, segment_id, said, phrase, held, free=free):
                    now = change_and_plan(now, tag, segment_id, change)
            return now

        document.apply("Fit by hand", edit)  # all of it, or nothing
        for number, segment_id in ids.items():
            line_now = _line(document.project, tag, segment_id, number)
            now = _hand_in_words(line_now, chosen_take(document.project.versions[tag], line_now))
            out.print(f"{number:4}  {now}")


def _changes(
    tag: str, segment_id: str, said: dict[str, Any], phrase: int, held: list[tuple[int, int | None]], *, free: bool
) -> Iterator[Edit]:
    """What is to be done to a line, one after the other: each sees what the ones before it did to the plan."""
    if free:
        yield partial(free_pins, tag=tag, segment_ids=[segment_id])
        yield partial(set_hand, tag=tag, segment_ids=[segment_id], **_PLANNED)
    if phrase:
        yield lambda now: set_phrase(now, tag, segment_id, replace(_phrase(now, tag, segment_id, phrase), **said))
    elif said:
        yield partial(set_hand, tag=tag, segment_ids=[segment_id], **said)
    for word, at_us in held:
        yield partial(pin_word, tag=tag, segment_id=segment_id, word=word, start_us=at_us)


def _line(project: Project, tag: str, segment_id: str, number: int) -> Line:
    line = project.versions[tag].lines.get(segment_id)
    if line is None:
        raise CommandError("Line {number} has no wording in {tag} yet.", number=number, tag=tag)
    return line


def _phrase(project: Project, tag: str, segment_id: str, number: int) -> PhraseHand:
    """What is said of a phrase of a line until now, by its number from 1."""
    version = project.versions[tag]
    line, placement = version.lines[segment_id], version.placements.get(segment_id)
    take = chosen_take(version, line)
    words = phrase_words(placement, take) if take is not None and placement is not None else ()
    if take is None or number > len(words):
        raise CommandError("This line has {count} phrases that can be told apart.", count=len(words))
    word = words[number - 1]
    return next((one for one in phrase_hands_in(line, take) if one.word == word), PhraseHand(word))


def _factor(text: str) -> float | None:
    if text.strip().lower() == "plan":
        return None
    try:
        return float(text)
    except ValueError:
        raise CommandError("“{text}” is no number, nor “plan”.", text=text) from None


def _held(text: str, project: Project) -> tuple[int, int | None]:
    number, mark, at = text.partition("=")
    if not mark or not number.strip().isdigit() or int(number) < 1:
        raise CommandError("--word wants N=TIME, such as 3=12.5, not “{text}”.", text=text)
    return int(number) - 1, None if at.strip().lower() == "free" else offset_from(at, project)


def _hand_in_words(line: Line, take: Take | None) -> str:
    parts = _differing(line.hand, replace(AS_PLANNED, phrases=line.hand.phrases))
    for one in phrase_hands_in(line, take) if take else ():
        said = " ".join(_differing(one, PhraseHand(one.word, said=one.said)))
        parts.append(tr("phrase with word {number}: {said}", number=one.word + 1, said=said))
    if take:
        parts += [f"word {pin.word + 1} = {pin.start_us / SECOND_US:.3f} s" for pin in pins_in(line, take)]
        parts += [tr("“{word}” waits until it is said again", word=word) for word in waiting_words(line, take)]
    return ", ".join(parts) or tr("as planned")


def _differing(hand: HandFit | PhraseHand, usual: HandFit | PhraseHand) -> list[str]:
    parts = []
    for field in fields(hand):
        value = getattr(hand, field.name)
        if value != getattr(usual, field.name):
            shown = value / SECOND_US if field.name.endswith("_us") else value
            parts.append(f"{field.name.removesuffix('_us').replace('_', '-')} {shown}")
    return parts


def remedies(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    line: list[int] = LineOption,
    take: int | None = typer.Option(None, min=1, help="Do the remedy with this number.", metavar="N"),
    as_json: bool = JsonOption,
) -> None:
    """Say which lines do not stand well, who binds them by how much, and what would help; or do it."""
    if take is not None:
        if len(line) != 1 or len(to) != 1:
            raise CommandError("--take goes with one --line and one --to.")
        with opened_project(project) as document:
            (tag,) = chosen_tags(to, list(document.project.versions))
            found = explained(document.project, tag, segment_of(document.project, line[0]).id)
            if take > len(found.remedies):
                raise CommandError("There is no remedy {number} for this line.", number=take)
            help_it = partial(
                change_and_plan, tag=tag, segment_id=found.segment_id, change=found.remedies[take - 1].edit
            )
            document.apply("Fit by hand", help_it)
    state = project_in(project)
    rows: list[dict[str, Any]] = []
    for tag in chosen_tags(to, list(state.versions)):
        numbers = {segment.id: number for number, segment in enumerate(spoken_segments(state), 1)}
        wanted = [segment_of(state, number).id for number in line] or list(numbers)
        for one in (explained(state, tag, segment_id) for segment_id in wanted):
            if one.standing is not None and one.standing.trouble > 0:
                rows.append({"version": tag, "line": numbers[one.segment_id], **_row(one)})
    rows.sort(key=lambda row: (row["version"], -row["trouble"]))
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for row in rows:
        out.print(f"{row['version']}  {row['line']:4}  {row['stands']}  {row['why']}".rstrip())
        for number, one in enumerate(row["remedies"], 1):
            out.print(f"{'':12}{number}  {one['help']} {one['words']}: {one['stands']}")


def _row(one: Explained) -> dict[str, Any]:
    assert one.standing is not None
    return {
        "trouble": round(one.standing.trouble, 2),
        "stands": _standing(one.standing),
        "why": sentences_of(one.findings),
        "remedies": [
            {"help": r.help.value, "words": r.words, "stands": _standing(r.after), "others": r.others}
            for r in one.remedies
        ],
    }


def _standing(standing: Standing) -> str:
    return tr(
        "tempo {tempo:.2f}, start off by {late:.2f} s more, end by {ends:.2f} s, {over:.2f} s too long",
        tempo=standing.tempo,
        late=standing.late_s,
        ends=standing.ends_s,
        over=standing.over_s,
    )


def limits(
    project: Path = ProjectArgument,
    to: list[str] = ToOption,
    put: list[str] = typer.Option(
        [], "--set", help="A limit and its numbers; may be repeated.", metavar="NAME=A[,B[,C]]"
    ),
    usual: bool = typer.Option(False, "--usual", help="Plan to what the style has again."),
    as_json: bool = JsonOption,
) -> None:
    """Say to which limits versions are planned, or set them; fit them afterwards."""
    if put or usual:
        with opened_project(project) as document:
            for tag in chosen_tags(to, list(document.project.versions)):
                made = None if usual else _changed(limits_of(document.project.versions[tag]), put)
                document.apply("Set the limits of the plan", partial(set_limits, tag=tag, limits=made))
    state = project_in(project)
    shown = {tag: limits_of(state.versions[tag]) for tag in chosen_tags(to, list(state.versions))}
    if as_json:
        typer.echo(json.dumps({tag: asdict(one) for tag, one in shown.items()}, indent=1))
        return
    for tag, one in shown.items():
        own = "  " + tr("its own") if state.versions[tag].limits is not None else ""
        out.print(f"{tag}{own}")
        for name, value in asdict(one).items():
            numbers = value if isinstance(value, (list, tuple)) else (value,)
            out.print(f"  {name:16} {', '.join(f'{number:g}' for number in numbers)}")


def _changed(limits: Limits, put: list[str]) -> Limits:
    names = [one.name for one in fields(Limits)]
    for text in put:
        name, _, numbers = text.partition("=")
        if name not in names:
            raise CommandError("There is no limit {name}. There are: {names}.", name=name, names=", ".join(names))
        before = getattr(limits, name)
        try:
            values = tuple(float(number) for number in numbers.split(","))
        except ValueError:
            raise CommandError("“{text}” is no limit with its numbers.", text=text) from None
        if len(values) != (len(before) if isinstance(before, tuple) else 1):
            raise CommandError("“{text}” is no limit with its numbers.", text=text)
        changed: dict[str, Any] = {name: values if isinstance(before, tuple) else values[0]}
        limits = replace(limits, **changed)
    return limits
