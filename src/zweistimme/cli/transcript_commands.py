"""The transcript: made, cut anew, searched, and written to a file."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, run, say_note
from zweistimme.cli.options import EncodingOption, OffsetOption, ProjectArgument, hints_from
from zweistimme.cli.steps import run_transcribe
from zweistimme.formats.prose import read_prose
from zweistimme.formats.script import has_times
from zweistimme.formats.transcripts import KINDS, read_transcript, written_transcript
from zweistimme.media.atomic import written_bytes
from zweistimme.messages import tr
from zweistimme.project.find_replace import ORIGINAL, Search, found, replace_found
from zweistimme.project.languages import language_tag
from zweistimme.project.reshape import let_go_by_merging
from zweistimme.project.reshape import recut as recut_segments
from zweistimme.project.segmentation import CutLimits
from zweistimme.project.term_edits import set_terms_said
from zweistimme.project.times import clock
from zweistimme.stages.files import context_of, offset_from
from zweistimme.stages.transcribe import align_script, find_speech, transcript_from_file
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in

_PAUSE = typer.Option(None, min=0.05, max=10, help="A silence of so many seconds ends a segment.", metavar="SECONDS")
_SHORTEST = typer.Option(None, min=0.1, max=10, help="Shorter segments are avoided; seconds.", metavar="SECONDS")
_LONGEST = typer.Option(None, min=0.5, max=60, help="Longer segments are avoided; seconds.", metavar="SECONDS")


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    for command in (transcribe, transcript, recut):
        app.command()(command)
    app.command("replace")(replace_text)


def _limits(pause: float | None, shortest: float | None, longest: float | None) -> CutLimits:
    limits = CutLimits()
    given = {"pause_us": pause, "shortest_us": shortest, "longest_us": longest}
    limits = replace(limits, **{key: round(value * 1e6) for key, value in given.items() if value is not None})
    if limits.shortest_us >= limits.longest_us:
        raise CommandError("The longest segment must be longer than the shortest. Give other --shortest or --longest.")
    return limits


def transcribe(
    project: Path = ProjectArgument,
    captions: Path | None = typer.Option(
        None,
        help=tr("A transcript with times instead of recognition ({kinds}).", kinds=", ".join(KINDS)),
        metavar="FILE",
    ),
    turns: Path | None = typer.Option(None, help="Who speaks when (RTTM), beside a CTM file.", metavar="FILE"),
    script: Path | None = typer.Option(
        None, help="A script instead of recognition; without times it is aligned to the sound.", metavar="FILE"
    ),
    encoding: str = EncodingOption,
    offset: str = OffsetOption,
    speech: bool = typer.Option(False, "--find-speech", help="Only find where who speaks; no engine is asked."),
    again: bool = typer.Option(
        False, "--again", help="Replace a transcript that is there; lines and takes stay where segments do."
    ),
    anew: bool = typer.Option(
        False, "--anew", help="Ask the engine anew, and pay anew, for what it has answered before; with --again."
    ),
    candidates: list[str] = typer.Option(
        [], "--maybe", help="Another language it may be in; may be repeated.", metavar="TAG"
    ),
    hints: Path | None = typer.Option(
        None, help="Names, terms and sentences that are said, one a line; kept.", metavar="FILE"
    ),
    speakers: int | None = typer.Option(
        None, min=1, max=100, help="How many people speak, if that is known.", metavar="COUNT"
    ),
    pause: float | None = _PAUSE,
    shortest: float | None = _SHORTEST,
    longest: float | None = _LONGEST,
) -> None:
    """Make the transcript."""
    if sum(map(bool, (captions, script, speech))) > 1:
        raise CommandError("Give one of --captions, --script and --find-speech.")
    if turns and (captions is None or captions.suffix.lower() != ".ctm"):
        raise CommandError("--turns goes with a CTM file: give that as --captions.")
    limits = _limits(pause, shortest, longest)
    with opened_project(project) as document:
        if document.project.segments and not again:
            raise CommandError(
                "This project has a transcript. Use --again to replace it; segments that go take their lines along."
            )
        if speech:
            run(document, "Find speech", find_speech, speakers, keep=False)
        elif captions or script:
            given = captions or script or Path()
            run_given(document, given, turns, limits, aligned=script is not None, encoding=encoding, offset=offset)
        else:
            maybe = tuple(map(language_tag, candidates))
            if hints:
                known = (term.source for term in document.project.terms.values())
                terms = (*known, *hints_from(hints))
                document.apply("Names and terms", partial(set_terms_said, words=terms))
            run_transcribe(document, candidates=maybe, speakers=speakers, limits=limits, anew=anew)


def run_given(
    document: Document,
    file: Path,
    turns: Path | None = None,
    limits: CutLimits | None = None,
    *,
    aligned: bool,
    encoding: str = "",
    offset: str = "",
) -> None:
    """Take over a transcript with times, or align a script (*aligned*) that has none."""
    limits = limits or CutLimits()
    context = context_of(document.project, document.project.source_tag, encoding)
    if aligned and not has_times(file, context):
        if offset:
            raise CommandError("A script without times has none to be moved; --offset goes with captions.")
        run(document, f"Align {file.name}", align_script, read_prose(file, context), file, limits=limits)
        return
    given = read_transcript(file, turns, limits, context)
    by_us = offset_from(offset, document.project) if offset else None
    run(document, f"Transcript from {file.name}", transcript_from_file, given, file, by_us)


def transcript(
    project: Path = ProjectArgument,
    target: Path = typer.Argument(
        ..., metavar="FILE", help=tr("The file to write; its ending says the kind: {kinds}.", kinds=", ".join(KINDS))
    ),
) -> None:
    """Write the transcript to a file."""
    state = project_in(project)
    data, notes = written_transcript(state, target.suffix.lower())
    if not target.parent.is_dir():
        raise CommandError("There is no folder {parent}. Make it first.", parent=target.parent)
    written_bytes(target, data)
    for note in notes:
        say_note(note)
    out.print(tr("{file}: {n:segment|segments}.", file=target, n=len(state.segments)))


def recut(
    project: Path = ProjectArgument,
    start: float = typer.Option(0.0, "--start", min=0, help="Only from this second on.", metavar="SECONDS"),
    end: float | None = typer.Option(None, "--end", min=0, help="Only up to this second.", metavar="SECONDS"),
    pause: float | None = _PAUSE,
    shortest: float | None = _SHORTEST,
    longest: float | None = _LONGEST,
) -> None:
    """Cut the transcript into segments anew; lines and takes go along."""
    limits = _limits(pause, shortest, longest)
    with opened_project(project) as document:
        before = document.project
        ids = [s.id for s in before.segments if s.start_us >= start * 1e6 and (end is None or s.end_us <= end * 1e6)]
        if not ids:
            raise CommandError("No segment lies in that stretch. Give another --start or --end.")
        document.apply("Cut anew", partial(recut_segments, segment_ids=ids, limits=limits))
        for lost in let_go_by_merging(before, document.project):
            say_note(lost)
        out.print(tr("{n:segment|segments} became {now}.", n=len(before.segments), now=len(document.project.segments)))


def replace_text(
    project: Path = ProjectArgument,
    find: str = typer.Argument(..., help="What to look for.", metavar="FIND"),
    replacement: str = typer.Argument(..., help="What to put in its place; may be empty.", metavar="REPLACEMENT"),
    to: list[str] = typer.Option(
        [], "--to", help="In this version instead of the original; may be repeated.", metavar="TAG"
    ),
    same_case: bool = typer.Option(False, "--same-case", help="Tell capital and small letters apart."),
    whole_words: bool = typer.Option(False, "--whole-words", help="Only whole words."),
    apply: bool = typer.Option(False, "--apply", help="Replace; without it the places are only shown."),
) -> None:
    """Find and replace in the original or in versions."""
    if not find.strip():
        raise CommandError("There is nothing to look for. Give a word or a stretch of text as FIND.")
    places = tuple(map(language_tag, to)) or (ORIGINAL,)
    search = Search(find, replacement, same_case=same_case, whole_words=whole_words, places=places)
    with opened_project(project) as document:
        state = document.project
        for tag in places:
            if tag and tag not in state.versions:
                raise CommandError(
                    "This project has no version {tag}. Versions: {names}.",
                    tag=tag,
                    names=", ".join(state.versions) or tr("none yet"),
                )
        hits = found(state, search)
        starts = {segment.id: segment.start_us for segment in state.segments}
        for hit in hits:
            where = f"{clock(starts[hit.segment_id])} {hit.tag}".strip()
            out.print(f"{where}: {hit.before}\n    → {hit.after}")
        if apply and hits:
            document.apply("Replace text", partial(replace_found, hits=hits))
    count = sum(len(hit.spans) for hit in hits)
    done = tr("replaced") if apply else tr("found; --apply replaces them")
    out.print(
        tr("{places:place|places} in {texts:text|texts} {done}.", places=count, texts=len(hits), done=done),
    )
