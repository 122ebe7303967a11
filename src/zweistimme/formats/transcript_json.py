"""Our own transcript file: everything a transcript holds, as JSON, exact to the microsecond."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Final, Literal

import msgspec

from zweistimme.messages import tr
from zweistimme.project.errors import FormatError
from zweistimme.project.model import Segment, Speaker

FORMAT: Final = "zweistimme-transcript"


@dataclass(frozen=True, slots=True)
class TranscriptFile:
    """What the file holds; its segments and words are those of the model."""

    language: str
    speakers: tuple[Speaker, ...]
    segments: tuple[Segment, ...]
    format: Literal["zweistimme-transcript"] = "zweistimme-transcript"
    version: Literal[1] = 1
    title: str = field(default="")


def write_transcript_json(
    language: str, speakers: Iterable[Speaker], segments: Iterable[Segment], title: str = ""
) -> bytes:
    """The file as indented JSON."""
    body = msgspec.json.encode(TranscriptFile(language, tuple(speakers), tuple(segments), title=title))
    return msgspec.json.format(body, indent=1)


def parse_transcript_json(data: bytes, where: str) -> TranscriptFile:
    """The file, checked: a wrong value is named with its path, and so is a segment that makes no sense."""
    try:
        file = msgspec.json.decode(data, type=TranscriptFile)
    except RecursionError:
        raise FormatError("{where} is not a transcript of Zweistimme: it is nested without end.", where=where) from None
    except (msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise FormatError(
            "{where} is not a transcript of Zweistimme: {why}.", where=where, why=_sentence(error)
        ) from None
    known = {speaker.id for speaker in file.speakers}
    ids: set[str] = set()
    for place, segment in enumerate(file.segments):
        fault = _fault(segment, known, ids)
        if fault:
            raise FormatError("{where}: {fault} @ segments[{place}].", where=where, fault=fault, place=place)
        ids.add(segment.id)
    if len(known) < len(file.speakers):
        raise FormatError("{where}: two speakers have the same id @ speakers.", where=where)
    return file


def _sentence(error: Exception) -> str:
    return str(error).replace(" - at `$.", " @ ").replace(" - at `$", " @ ").replace("`", "")


def _fault(segment: Segment, speakers: set[str], ids: set[str]) -> str:
    edges = [time for word in segment.words for time in (word.start_us, word.end_us)]
    if segment.id in ids:
        return tr("the id {id} stands there twice", id=segment.id)
    if segment.speaker_id not in speakers:
        return tr("speaker {speaker_id} is not among the speakers", speaker_id=segment.speaker_id)
    if segment.start_us < 0 or segment.end_us <= segment.start_us:
        return tr("it ends before it starts")
    if any(word.end_us < word.start_us for word in segment.words) or edges[::2] != sorted(edges[::2]):
        return tr("its words are not in order of time")
    if segment.words and " ".join(word.text for word in segment.words) != segment.text:
        return tr("its words are not those of its text")
    return ""
