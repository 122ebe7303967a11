"""Transcribe by an engine."""

from __future__ import annotations

from zweistimme.engines.protocol import Engine, HeardSegment, SoundSource
from zweistimme.project.edits import set_transcript
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.model import Project, Segment, Speaker, Word
from zweistimme.stages.work import Work, open_sound


def transcribe(work: Work, engine: Engine) -> None:
    """Replace the transcript by what *engine* hears."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme to transcribe yet. Bring one in first.")
    tag = work.project.source_tag
    known = engine.info().recognises
    if tag.split("-")[0] not in {language.split("-")[0] for language in known}:
        raise EngineError(
            f"{engine.info().name} does not recognise {tag}; it recognises {', '.join(known)}. "
            "Give captions or a script instead."
        )
    with open_sound(work, programme.sound) as reader:
        heard = engine.recognise(SoundSource(reader.mono, reader.length), tag, work.report)
    if not heard:
        raise EngineError("No speech was found. Check the sound, or give captions or a script.")
    wordless = sum(1 for segment in heard if not segment.words)
    if wordless:
        work.say(
            f"{wordless} stretch{'es' if wordless > 1 else ''} of speech could not be put into words; they are marked."
        )
    speakers, segments = _as_transcript(heard, work.project)
    work.deliver("Transcribe", lambda project: set_transcript(project, speakers, segments))


def _as_transcript(heard: list[HeardSegment], project: Project) -> tuple[list[Speaker], list[Segment]]:
    labels = list(dict.fromkeys(segment.speaker for segment in heard))
    ids = {label: f"p{number}" for number, label in enumerate(labels, 1)}
    speakers = [Speaker(ids[label], f"Speaker {label}") for label in labels]
    seen = project.programme is not None and project.programme.picture is not None
    segments = [
        Segment(
            f"s{number:04d}",
            ids[item.speaker],
            item.start_us,
            item.end_us,
            " ".join(word.text for word in item.words),
            tuple(Word(w.text, w.start_us, w.end_us, w.confidence) for w in item.words),
            seen,
        )
        for number, item in enumerate(heard, 1)
    ]
    return speakers, segments
