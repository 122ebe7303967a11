"""Transcripts as files, of whatever kind: read with a list of what was repaired, written with a list of what the kind
cannot hold."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

from zweistimme.formats.captions import parse_captions, write_srt, write_vtt
from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.formats.ctm import CtmWords, Turn, parse_ctm, parse_rttm, write_ctm, write_rttm
from zweistimme.formats.cue import Cue, Reading
from zweistimme.formats.script import parse_script
from zweistimme.formats.tables import parse_table, write_table
from zweistimme.formats.text import decoded, read_bytes
from zweistimme.formats.transcript_json import FORMAT, parse_transcript_json, write_transcript_json
from zweistimme.formats.ttml import parse_ttml, write_ttml
from zweistimme.messages import msg, tr
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.intervals import overlap_us
from zweistimme.project.model import Project, Segment, Speaker, Word
from zweistimme.project.segmentation import CutLimits, transcript_of, utterances
from zweistimme.project.words import spoken_words
from zweistimme.project.writing import one_line

KINDS: Final = {
    ".srt": msg("SubRip captions"),
    ".vtt": msg("WebVTT captions"),
    ".ttml": "TTML (IMSC 1.1 Text)",
    ".csv": "Table (CSV)",
    ".ctm": msg("Words with times (CTM)"),
    ".rttm": msg("Who speaks when (RTTM)"),
    ".json": msg("Zweistimme transcript"),
}
UNNAMED: Final = "Speaker A"
_LOOKED_AT: Final = 50
"""Turns before a word that may still be going on."""


@dataclass(frozen=True, slots=True)
class Transcript:
    """A transcript without a programme: what a file gave, and what had to be repaired to get it."""

    speakers: tuple[Speaker, ...]
    segments: tuple[Segment, ...]
    repairs: tuple[Finding, ...] = ()
    language: str = ""


def read_transcript(
    path: Path, turns: Path | None = None, limits: CutLimits | None = None, context: Context = NOTHING_KNOWN
) -> Transcript:
    """The transcript in a file. CTM may have the speakers of an RTTM file beside it, given as *turns* or found by
    its name, and is cut into segments within *limits*."""
    data = read_bytes(path)
    where, suffix = str(path), path.suffix.lower()
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if suffix == ".json" or head.startswith(b"{"):
        file = parse_transcript_json(data, where)
        return Transcript(file.speakers, file.segments, (), file.language)
    if suffix in (".ttml", ".xml", ".dfxp") or head.startswith((b"<?xml", b"<tt")):
        return from_reading(parse_ttml(data, where), path)
    text, odd = decoded(data, where, context)
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    if suffix == ".ctm":
        beside = turns or path.with_suffix(".rttm")
        spoken = parse_rttm(decoded(read_bytes(beside), str(beside))[0], str(beside)) if beside.is_file() else []
        if turns and not spoken:
            raise FormatError("{turns} names no speakers. Give an RTTM file with SPEAKER lines.", turns=turns)
        return _from_words(parse_ctm(text, where), spoken, odd, limits or CutLimits(), where)
    if suffix == ".rttm":
        repairs: list[Finding] = []
        return _from_turns(parse_rttm(text, where, repairs), (*odd, *repairs), where)
    reading = _reading(text, suffix, where, context)
    return from_reading(replace(reading, repairs=(*odd, *reading.repairs)), path)


def _reading(text: str, suffix: str, where: str, context: Context) -> Reading:
    if suffix in (".csv", ".tsv"):
        return parse_table(text, where, context)
    if suffix == ".txt" and "-->" not in text:
        return parse_script(text, where)
    return parse_captions(text, where=where, is_vtt=text.lstrip().startswith("WEBVTT"), context=context)


def from_reading(reading: Reading, path: Path) -> Transcript:
    """Cues as segments. A cue without a name is said by whoever spoke last."""
    if not reading.cues:
        raise FormatError("{path} holds no words to be said. Known kinds: {names}.", path=path, names=", ".join(KINDS))
    ids: dict[str, str] = {}
    segments, name = [], UNNAMED
    for number, cue in enumerate(reading.cues, 1):
        name = cue.speaker or name
        speaker = ids.setdefault(name, f"p{len(ids) + 1}")
        text = one_line(cue.text)
        segments.append(Segment(f"s{number:04d}", speaker, cue.start_us, cue.end_us, text, cue.words))
    return Transcript(_speakers(ids), tuple(segments), reading.repairs, reading.language)


def _speakers(ids: dict[str, str]) -> tuple[Speaker, ...]:
    return tuple(Speaker(key, name) for name, key in ids.items())


def _from_words(
    given: CtmWords, turns: Sequence[Turn], odd: tuple[Finding, ...], limits: CutLimits, where: str
) -> Transcript:
    words = given.words
    if not words:
        raise FormatError("{where} holds no words. Give CTM: file channel start duration word confidence.", where=where)
    # two channels are two people on a line, if nobody says otherwise
    apart = not turns and len(set(given.channels)) > 1
    named = [f"Channel {channel}" for channel in given.channels] if apart else _names_of(words, turns)
    speakers, segments = transcript_of(utterances(words, named, limits))
    repairs = (*odd, *given.repairs, Finding("words-cut", {"words": len(words), "segments": len(segments)}))
    return Transcript(speakers, tuple(segments), repairs)


def _names_of(words: Sequence[Word], turns: Sequence[Turn]) -> list[str]:
    """Who says each word: the turn that shares most time with it, else the nearest one."""
    starts = [turn.start_us for turn in turns]
    names = []
    for word in words:
        behind = bisect_right(starts, word.end_us)
        near = turns[max(0, behind - _LOOKED_AT) : behind + 1]
        best = max(near, key=lambda turn, word=word: _nearness(turn, word), default=None)  # type: ignore[misc]
        names.append(best.speaker if best else UNNAMED)
    return names


def _nearness(turn: Turn, word: Word) -> int:
    shared = overlap_us((turn.start_us, turn.end_us), (word.start_us, word.end_us))
    return shared if shared else -max(turn.start_us - word.end_us, word.start_us - turn.end_us, 0)


def _from_turns(turns: Sequence[Turn], odd: tuple[Finding, ...], where: str) -> Transcript:
    turns = [turn for turn in turns if turn.end_us > turn.start_us]
    if not turns:
        raise FormatError("{where} names no speakers. Give RTTM with SPEAKER lines.", where=where)
    ids: dict[str, str] = {}
    segments = tuple(
        Segment(f"s{n:04d}", ids.setdefault(t.speaker, f"p{len(ids) + 1}"), t.start_us, t.end_us, "")
        for n, t in enumerate(turns, 1)
    )
    return Transcript(_speakers(ids), segments, odd)


def written_transcript(project: Project, kind: str) -> tuple[bytes, tuple[Finding, ...]]:
    """The project's transcript as a file of a kind (a suffix of KINDS), and what that kind cannot hold."""
    if kind not in KINDS:
        raise FormatError(
            "“{kind}” is no kind of transcript. Name the file {names}.",
            kind=kind or "no ending",
            names=", ".join(KINDS),
        )
    if kind == ".json":
        # recordings stay with the project; the file speaks of the transcript alone
        segments, tag = [replace(s, respoken="") for s in project.segments], project.source_tag
        return write_transcript_json(tag, project.speakers.values(), segments, project.title), ()
    if kind == ".ctm":
        words = sorted((w for s in project.segments for w in spoken_words(s)), key=lambda w: w.start_us)
        return write_ctm(words, project.title).encode(), (Finding("no-speakers-in-ctm"),)
    if kind == ".rttm":
        turns = [Turn(s.start_us, s.end_us, project.speakers[s.speaker_id].name) for s in project.segments]
        return write_rttm(turns, project.title).encode(), (Finding("no-words-in-rttm"),)
    return _written_cues(project, kind)


def _written_cues(project: Project, kind: str) -> tuple[bytes, tuple[Finding, ...]]:
    with_words = kind == ".vtt"
    cues = [
        Cue(s.start_us, s.end_us, s.text, project.speakers[s.speaker_id].name, s.words if with_words else ())
        for s in project.segments
    ]
    said = [cue for cue in cues if cue.text]
    notes = _left_out(len(cues) - len(said)) if kind != ".csv" else ()
    if any(s.words for s in project.segments):
        notes += (Finding("no-confidences" if with_words else "no-word-times", {"kind": tr(KINDS[kind])}),)
    if kind == ".srt":
        return write_srt(said, names=len(project.speakers) > 1).encode(), notes
    if kind == ".vtt":
        return write_vtt(said, project.source_tag).encode(), notes
    if kind == ".ttml":
        return write_ttml(said, project.source_tag, project.title), notes
    return write_table(cues).encode(), notes


def _left_out(count: int) -> tuple[Finding, ...]:
    return (Finding("wordless-left-out", {"stretches": count}),) if count else ()


def said_of(file: str, repairs: Sequence[Finding], most: int = 20) -> list[Finding]:
    """The first *most* repairs of a *file*, each with its place there, and how many more there are."""
    said = [replace(one, place=", ".join(filter(None, (file, one.place)))) for one in repairs[:most]]
    more = len(repairs) - most
    return [*said, *([Finding("more-of-these", {"count": more}, file)] if more > 0 else [])]


__all__ = ["FORMAT", "KINDS", "Transcript", "from_reading", "read_transcript", "said_of", "written_transcript"]
