"""``zweistimme lines`` and ``line``: what a version says, line by line, and the hand that changes it."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project
from zweistimme.cli.options import JsonOption, ProjectArgument, ToOption, chosen_tags
from zweistimme.engines.registry import find_voice
from zweistimme.messages import msg, msg_act, tr
from zweistimme.project.access import find_line
from zweistimme.project.auditions import BEST
from zweistimme.project.edits import choose_take, score_take, set_direction
from zweistimme.project.facts import chosen_take, failure_of, line_is_stale, spoken_segments, take_is_stale
from zweistimme.project.languages import language_tag
from zweistimme.project.line_edits import set_line_text, set_locked, set_note, settle
from zweistimme.project.manner_edits import set_line_manner, set_line_voices
from zweistimme.project.model import Maker, Pin, Project, Segment, Version
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.times import SECOND_US, clock, seconds_to_us
from zweistimme.project.wordings import LineState
from zweistimme.sentences import STATES, sentence_of
from zweistimme.stages.fit.by_hand import pin_and_plan
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in
from zweistimme.store.settings import NAME, read_settings


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.command()(lines)
    app.command()(line)


def lines(project: Path = ProjectArgument, to: list[str] = ToOption, as_json: bool = JsonOption) -> None:
    """List what a version says, line by line, with its takes."""
    state = project_in(project)
    tags = chosen_tags(to, list(state.versions))
    rows = {tag: _rows(state, state.versions[tag]) for tag in tags}
    if as_json:
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for tag in tags:
        for row in rows[tag]:
            head = f"{tag}  {row['line']:4} {clock(round(row['start_s'] * SECOND_US)):>9}  {row['speaker']}: "
            out.print(f"{head}{row['text'] or '—'}")
            own = tr("in the voice {voice}", voice=row["voice"]) if row["voice"] else ""
            parts = (tr(row["state"]), _standing(row), own, _takes_in_words(row["takes"]), _made(row), row["failed"])
            about = ", ".join(filter(None, parts))
            out.print(f"{'':{len(head)}}{about}")
            for note in row["notes"]:
                out.print(f"{'':{len(head)}}{': '.join(filter(None, (note['author'], note['text'])))}")


def _standing(row: dict[str, Any]) -> str:
    """How far a line with words is, and whether it is locked."""
    if not row["text"]:
        return ""
    return tr(STATES[LineState(row["how_far"])]) + (" " + tr("(locked)") if row["locked"] else "")


def _made(row: dict[str, Any]) -> str:
    """Who made the chosen take, and what it cost."""
    maker = next((take["maker"] for take in row["takes"] if take["chosen"]), None)
    if maker is None:
        return ""
    cost = (
        tr(" for {amount:,.4f} {currency}", amount=maker["amount"], currency=maker["currency"])
        if maker["amount"]
        else ""
    )
    return tr(
        "by {voice} of {engine} {version}{cost}",
        voice=maker["voice"],
        engine=maker["engine"],
        version=maker["version"],
        cost=cost,
    )


def _takes_in_words(takes: list[dict[str, Any]]) -> str:
    return " ".join(f"[{take['take']}]" if take["chosen"] else take["take"] for take in takes)


def _rows(project: Project, version: Version) -> list[dict[str, Any]]:
    return [_row(project, version, number, one) for number, one in enumerate(spoken_segments(project), 1)]


def _row(project: Project, version: Version, number: int, segment: Segment) -> dict[str, Any]:
    there = version.lines.get(segment.id)
    failure = failure_of(project, version, segment)
    takes = takes_of(version, (segment.id,))
    return {
        "line": number,
        "segment": segment.id,
        "start_s": segment.start_us / SECOND_US,
        "end_s": segment.end_us / SECOND_US,
        "speaker": project.speakers[segment.speaker_id].name,
        "source": segment.text,
        "text": there.text if there else "",
        "offers": [offer.text for offer in there.offers] if there else [],
        "direction": there.direction if there else "",
        "how_far": (there.state if there else LineState.INITIAL).value,
        "locked": bool(there and there.locked),
        "origin": asdict(there.origin) if there and there.origin else None,
        "notes": [asdict(note) for note in there.notes] if there else [],
        "state": _state(project, version, segment),
        "pin_s": there.pin.start_us / SECOND_US if there and there.pin else None,
        "manner": asdict(there.manner) if there else None,
        "voice": there.voice if there else "",
        "maker": _maker(there.maker) if there else None,
        "takes": [
            {
                "take": take.label,
                "kind": take.kind.value,
                "chosen": bool(there and there.take_id == take.id),
                "maker": _maker(take.maker),
                "score": take.score,
                "note": take.note,
            }
            for take in takes
        ],
        "failed": sentence_of(failure.why) if failure else "",
    }


def _maker(maker: Maker | None) -> dict[str, Any] | None:
    return asdict(maker) if maker else None


def _state(project: Project, version: Version, segment: Segment) -> str:
    there = version.lines.get(segment.id)
    if there is None or not there.text.strip():
        return msg("no wording yet")
    if line_is_stale(segment, there):
        return msg("the original has changed")
    take = chosen_take(version, there)
    if take is None:
        return msg("no take yet")
    return (
        msg("the take says something older") if take_is_stale(project, version, segment, there, take) else msg("voiced")
    )


def line(
    project: Path = ProjectArgument,
    number: int = typer.Argument(..., min=1, help="The number of the line, as “lines” shows it.", metavar="LINE"),
    to: str = typer.Option(..., "--to", help="The version.", metavar="TAG"),
    text: str | None = typer.Option(None, help="What it is to say.", metavar="TEXT"),
    direction: str | None = typer.Option(None, help="How it is to be spoken; empty: as usual.", metavar="TEXT"),
    take: str | None = typer.Option(None, help="Which of its takes is used, as “lines” calls it.", metavar="TAKE"),
    pin: float | None = typer.Option(None, min=0, help="Where its take is to start, come what may.", metavar="SECONDS"),
    pin_length: float | None = typer.Option(
        None, min=0.1, help="How long a pinned take is to be; default: as it fits.", metavar="SECONDS"
    ),
    unpin: bool = typer.Option(False, "--unpin", help="Leave its place to the plan again."),
    rate: float | None = typer.Option(None, help="How many times as fast as its speaker speaks.", metavar="FACTOR"),
    pitch: float | None = typer.Option(None, help="How many times as high.", metavar="FACTOR"),
    volume: float | None = typer.Option(None, help="How much louder.", metavar="DB"),
    tier: str | None = typer.Option(None, help="In which quality, of those the voice has.", metavar="TIER"),
    seed: int | None = typer.Option(
        None, min=0, help="In which of its ways, of a voice that varies.", metavar="NUMBER"
    ),
    voice: str | None = typer.Option(
        None, help="A voice for this line alone; empty: that of its speaker.", metavar="VOICE"
    ),
    score: int | None = typer.Option(
        None, min=0, max=BEST, help="What you think of its take: 1 (of no use) to 5 (as it should be); 0: nothing."
    ),
    take_note: str | None = typer.Option(None, help="What you note about its take.", metavar="TEXT"),
    state: LineState | None = typer.Option(None, help="How far it is; no run changes what is more than initial."),
    lock: bool | None = typer.Option(None, "--lock/--unlock", help="Whether its words stay whoever would change them."),
    note: str | None = typer.Option(None, help="What you note about it; empty: nothing any more.", metavar="TEXT"),
) -> None:
    """Change one line: its wording, state, notes, direction, manner, take or place."""
    given = {"rate": rate, "pitch": pitch, "volume_db": volume, "tier": tier, "seed": seed}
    manner: dict[str, Any] = {name: value for name, value in given.items() if value is not None}
    if pin is not None and unpin:
        raise CommandError("Give either --pin or --unpin, not both.")
    if pin_length is not None and pin is None:
        raise CommandError("--pin-length goes with --pin: say also where the take is to start.")
    placed = take is not None or pin is not None or unpin
    worded = (text, direction, state, lock, note, voice, score, take_note) != (None,) * 8
    if not placed and not worded and not manner:
        raise CommandError(
            "Say what is to change: --text, --state, --lock, --note, --direction, --voice, --rate, --pitch, --volume, "
            "--tier, --seed, --take, --score, --take-note, --pin or --unpin."
        )
    tag = language_tag(to)
    with opened_project(project) as document:
        chosen_tags([tag], list(document.project.versions))
        segment = segment_of(document.project, number)
        _write(document, tag, segment, text, state, lock, note)
        if direction is not None:
            edit = partial(set_direction, tag=tag, segment_id=segment.id, direction=direction)
            document.apply("Direct a line", edit)
        if voice is not None:
            if voice:
                find_voice(voice)
            own = partial(set_line_voices, tag=tag, segment_ids=[segment.id], voice=voice)
            document.apply(msg_act("Give lines a voice of their own"), own)
        if manner:
            before = find_line(document.project, tag, segment.id).manner
            wanted = replace(before, **manner)
            document.apply(
                "How a line is spoken", partial(set_line_manner, tag=tag, segment_id=segment.id, manner=wanted)
            )
        if take is not None:
            _choose(document, tag, segment, take)
        if score is not None or take_note is not None:
            _score(document, tag, segment, score, take_note)
        if pin is not None or unpin:
            length = seconds_to_us(pin_length) if pin_length is not None else None
            where = Pin(seconds_to_us(pin), length) if pin is not None else None
            edit = partial(pin_and_plan, tag=tag, segment_id=segment.id, pin=where)
            document.apply(msg_act("Pin a line") if where else msg_act("Unpin a line"), edit)
        row = _row(document.project, document.project.versions[tag], number, segment)
    out.print(f"{tag}  {number}: {row['text']} ({row['state']})")


def _write(
    document: Document, tag: str, segment: Segment, text: str | None, state: LineState | None, lock: bool | None,
    note: str | None,
) -> None:  # fmt: skip
    """Unlock before writing, lock behind it."""
    ids = [segment.id]
    if lock is False:
        document.apply("Unlock a line", partial(set_locked, tag=tag, segment_ids=ids, locked=False))
    if text is not None:
        document.apply("Write a line", partial(set_line_text, tag=tag, segment_id=segment.id, text=text))
    if state is not None:
        document.apply("Say how far a line is", partial(settle, tag=tag, segment_ids=ids, state=state))
    if lock:
        find_line(document.project, tag, segment.id)
        document.apply("Lock a line", partial(set_locked, tag=tag, segment_ids=ids, locked=True))
    if note is not None:
        author, now = read_settings().text(NAME).strip(), datetime.now(UTC).isoformat(timespec="seconds")
        edit = partial(set_note, tag=tag, segment_id=segment.id, author=author, text=note, written=now)
        document.apply("Note about a line", edit)


def segment_of(project: Project, number: int) -> Segment:
    """The segment of the line with this number, counted from 1 among those with words."""
    spoken = spoken_segments(project)
    if not 1 <= number <= len(spoken):
        raise CommandError("There is no line {number}; lines go from 1 to {count}.", number=number, count=len(spoken))
    return spoken[number - 1]


def _score(document: Document, tag: str, segment: Segment, score: int | None, note: str | None) -> None:
    chosen = chosen_take(document.project.versions[tag], find_line(document.project, tag, segment.id))
    if chosen is None:
        raise CommandError("This line has no take yet.")
    document.apply(msg_act("Score a take"), partial(score_take, tag=tag, take_id=chosen.id, score=score, note=note))


def _choose(document: Document, tag: str, segment: Segment, name: str) -> None:
    find_line(document.project, tag, segment.id)
    takes = takes_of(document.project.versions[tag], (segment.id,))
    chosen = next((one for one in takes if name in (one.label, one.id)), None)
    if chosen is None:
        there = ", ".join(f"“{one.label}”" for one in takes) or tr("none yet")
        raise CommandError("This line has no take “{name}”. Its takes: {there}.", name=name, there=there)
    document.apply("Choose a take", partial(choose_take, tag=tag, take_id=chosen.id))
