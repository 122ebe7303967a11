"""What programs write, read as the protocol's answers: CTM, captions, sound files, samples without a head."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from zweistimme.engines.protocol import HeardSegment, HeardWord, Mono, Recognition
from zweistimme.engines.wav import wav_of_pcm
from zweistimme.engines.wire import read, samples_from
from zweistimme.formats.captions import parse_captions
from zweistimme.formats.ctm import parse_ctm
from zweistimme.project.errors import BadAnswer, FormatError
from zweistimme.project.writing import words_in

_NEW_SEGMENT_US = 700_000
_UNTOLD = 0.8
"""How sure a word of a caption is, which nobody says."""


def text_of(answer: bytes, who: str) -> str:
    """What a program wrote, as text."""
    try:
        return answer.decode("utf-8")
    except UnicodeDecodeError:
        raise BadAnswer("{name} wrote text that is not UTF-8.", name=who) from None


def recognition_from(text: str, kind: str, language: str, who: str) -> Recognition:
    """A recognition from *kind*: the protocol's JSON, CTM, or captions (srt, vtt)."""
    if kind == "json":
        return read(Recognition, text, who)
    try:
        segments = _from_ctm(text, who) if kind == "ctm" else _from_captions(text, kind, language, who)
    except FormatError as error:
        raise BadAnswer(str(error)) from None
    return Recognition(language, None, tuple(segments))


def words_from_ctm(text: str, who: str) -> tuple[HeardWord, ...]:
    """Word marks of a clip."""
    try:
        return tuple(HeardWord(w.text, w.start_us, w.end_us, w.confidence) for w in parse_ctm(text, who).words)
    except FormatError as error:
        raise BadAnswer(str(error)) from None


def clip_from(sound: bytes, kind: str, sample_rate: int, longest_s: float, who: str) -> Mono:
    """A clip from a sound file, or (*kind* "pcm") from 16-bit samples at the voice's rate."""
    if kind == "pcm":
        sound = wav_of_pcm(sound[: len(sound) - len(sound) % 2], sample_rate)
    return samples_from(sound, sample_rate, longest_s, who)


def wordings_from(text: str, lines: int, most: int, who: str) -> list[tuple[str, ...]]:
    """The wordings of each text, from a line each with tabs between."""
    got = text.splitlines()
    if len(got) != lines:
        raise BadAnswer("{name} wrote {lines} lines for {texts} texts.", name=who, lines=len(got), texts=lines)
    return [tuple(wording.strip() for wording in line.split("\t")[:most]) for line in got]


def terms_file(terms: Mapping[str, str]) -> str:
    """Terms for a program: one in each line, a tab before what it becomes."""
    return "".join(f"{' '.join(term.split())}\t{' '.join(target.split())}\n" for term, target in terms.items())


def segments_of(words: Sequence[HeardWord], speakers: Sequence[str]) -> list[HeardSegment]:
    """Words as segments: another speaker, or a pause of 0.7 s, begins a new one."""
    groups: list[tuple[str, list[HeardWord]]] = []
    for heard, speaker in zip(words, speakers, strict=True):
        if groups and groups[-1][0] == speaker and heard.start_us - groups[-1][1][-1].end_us < _NEW_SEGMENT_US:
            groups[-1][1].append(heard)
        else:
            groups.append((speaker, [heard]))
    return [HeardSegment(group[0].start_us, group[-1].end_us, speaker, tuple(group)) for speaker, group in groups]


def _from_ctm(text: str, who: str) -> list[HeardSegment]:
    words = words_from_ctm(text, who)
    return segments_of(words, ["A"] * len(words))


def _from_captions(text: str, kind: str, language: str, who: str) -> list[HeardSegment]:
    """Each caption is a segment; its words share its time by their letters."""
    segments = []
    for cue in parse_captions(text, where=who, is_vtt=kind == "vtt").cues:
        parts = words_in(cue.text, language)
        letters = [0]
        for part in parts:
            letters.append(letters[-1] + len(part))
        length = cue.end_us - cue.start_us
        edges = [cue.start_us + length * done // max(1, letters[-1]) for done in letters]
        words = tuple(HeardWord(part, edges[k], edges[k + 1], _UNTOLD) for k, part in enumerate(parts))
        segments.append(HeardSegment(cue.start_us, cue.end_us, cue.speaker or "A", words))
    return segments
