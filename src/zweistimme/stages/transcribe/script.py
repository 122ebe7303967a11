"""A script that has no times, aligned to the sound: every sentence is spoken by a voice of the language, and what was
spoken is found in the programme. Where no voice speaks the language, sentences are laid over the speech by length."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.engines.protocol import Engine, Role, SpeechRequest, VoiceInfo
from zweistimme.engines.registry import engine
from zweistimme.formats.prose import Prose
from zweistimme.formats.ssml import ssml_of
from zweistimme.formats.transcripts import described
from zweistimme.media.decode import SoundReader
from zweistimme.project.cutting import CutLimits, transcript_of, utterances
from zweistimme.project.errors import EngineError, FormatError, MediaError
from zweistimme.project.model import Project, Word
from zweistimme.project.sentences import sentences
from zweistimme.project.syllables import syllables
from zweistimme.project.times import RATE, overlap_us, seconds_to_us
from zweistimme.project.transcript import set_transcript
from zweistimme.project.words import spread
from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import STATE_SECONDS, cepstra, power_spectra, reduced, with_slopes
from zweistimme.sound.ordered import Placed, align
from zweistimme.stages.asked import engine_for, spoken
from zweistimme.stages.transcribe.found import FoundSpeech, found_speech, laid_over
from zweistimme.stages.work import Work, open_sound

WARPS: Final = (1.0, 1.1, 1.2, 1.3)
"""Lengths of the vocal tract that are tried, against the voice that speaks the sentences."""
_USUAL_PITCH_HZ: Final = 120.0
_GUESSED: Final = 0.3
_SAMPLES: Final = 40
_NAMED: Final = 6


@dataclass(frozen=True, slots=True)
class _Sentence:
    """A sentence of the script, who says it, and the template it is looked for by: features, shape ``(k, d)``, and
    its words as (text, first state, state behind)."""

    text: str
    speaker: str
    paragraph: int
    template: Floats
    words: tuple[tuple[str, int, int], ...]


@dataclass(frozen=True, slots=True)
class _Said:
    """A sentence and its words at their times."""

    sentence: _Sentence
    words: tuple[Word, ...]


def align_script(work: Work, prose: Prose, source: Path, *, limits: CutLimits = CutLimits()) -> None:
    """Replace the transcript by a script. Sentences that are not heard, and speech that is not written, are said."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme yet. Bring one in before its script.")
    for sentence in described(prose.notes):
        work.say(f"{source.name}: {sentence}.")
    part = work.part(0.0, 0.25)
    with open_sound(work, programme.sound) as reader:
        heard = found_speech(reader, part)
        if not heard.regions:
            raise FormatError("No speech was found in the sound, so there is nothing to align the script to.")
        voice = _voice(work.project)
        if voice is None:
            said = _by_length(prose, heard, work.project.source_tag)
            work.say(
                f"No voice speaks {work.project.source_tag}, so the script was laid over the speech by length alone. "
                "Check its times."
            )
        else:
            written = _spoken_sentences(work, prose, *voice)
            said = _found(work, reader, heard, written)
            _say_missing(work, written, said, source)
    _deliver(work, said, heard, limits, source)


def _voice(project: Project) -> tuple[Engine, VoiceInfo] | None:
    """A voice of the programme's language, nearest to the usual pitch of a man: the bundled ones cost nothing."""
    language = project.source_tag.split("-")[0]
    for name in dict.fromkeys(("bundled", engine_for(project, Role.SPEAK))):
        asked = engine(name)
        there = [v for v in asked.info().voices if language in {tag.split("-")[0] for tag in v.languages}]
        if there:
            return asked, min(there, key=lambda v: abs((v.pitch_hz or 1000.0) - _USUAL_PITCH_HZ))
    return None


def _spoken_sentences(work: Work, prose: Prose, asked: Engine, voice: VoiceInfo) -> list[_Sentence]:
    """Every sentence as a template. Features are put on one scale over the whole script."""
    tag = work.project.source_tag
    free = asked.info().price.of(characters=1).amount == 0
    texts = [(text, line.speaker, k) for k, line in enumerate(prose.lines) for text in sentences(line.text)]
    rows: list[tuple[Floats, tuple[tuple[str, int, int], ...]]] = []
    report = work.part(0.25, 0.5)
    for number, (text, _, _) in enumerate(texts):
        request = SpeechRequest(ssml_of(text, tag), tag, voice.id)
        speech = asked.speak(request) if free else spoken(work, asked, request)
        rows.append(_measured(speech.samples, [(w.text, w.start_us, w.end_us) for w in speech.words], text))
        report((number + 1) / len(texts))
    every = np.concatenate([features for features, _ in rows])
    centre, spread_ = every.mean(axis=0), every.std(axis=0) + 1e-3
    return [
        _Sentence(text, speaker, paragraph, reduced(with_slopes((features - centre) / spread_)), words)
        for (text, speaker, paragraph), (features, words) in zip(texts, rows, strict=True)
    ]


def _measured(
    samples: np.ndarray[tuple[int], np.dtype[np.float32]], marks: Sequence[tuple[str, int, int]], text: str
) -> tuple[Floats, tuple[tuple[str, int, int], ...]]:
    import soxr

    tokens = text.split()
    if len(marks) != len(tokens):  # an engine without marks, or with marks of its own
        even = spread(tokens, 0, len(samples) * 1_000_000 // RATE)
        marks = [(w.text, w.start_us, w.end_us) for w in even]
    first, last = marks[0][1] / 1e6, marks[-1][2] / 1e6
    sound = soxr.resample(samples, RATE, LOW_RATE, "HQ").astype(np.float32)
    power = power_spectra(sound[int(first * LOW_RATE) : max(int(last * LOW_RATE), int(first * LOW_RATE) + 800)])
    words = tuple(
        (token, round((a / 1e6 - first) / STATE_SECONDS), max(1, round((b / 1e6 - first) / STATE_SECONDS)))
        for token, (_, a, b) in zip(tokens, marks, strict=True)
    )
    return cepstra(power + 1e-4 * power.mean()), words


def _found(work: Work, reader: SoundReader, heard: FoundSpeech, written: Sequence[_Sentence]) -> list[_Said]:
    frames_of = _frames_of(reader, heard)
    placed = align(frames_of, reader.length / RATE, [one.template for one in written], work.part(0.5, 1.0))
    return [_Said(written[one.sentence], _timed(written[one.sentence], one)) for one in placed]


def _timed(sentence: _Sentence, placed: Placed) -> tuple[Word, ...]:
    words = []
    most = len(placed.times_s) - 1
    for text, first, behind in sentence.words:
        a, b = min(first, most - 1), min(max(behind, first + 1), most)
        gain = float(placed.gains[a:b].mean()) if b > a else 0.0
        confidence = round(float(np.clip(0.55 + 1.6 * gain, 0.05, 0.99)), 3)
        words.append(Word(text, seconds_to_us(placed.times_s[a]), seconds_to_us(placed.times_s[b]), confidence))
    return tuple(words)


def _frames_of(reader: SoundReader, heard: FoundSpeech) -> Callable[[float, float], list[Floats]]:
    """Features of a stretch for each length of the vocal tract, on the scale of the programme's own speech."""
    import soxr

    def power(start: float, end: float) -> Floats:
        block = reader.mono(round(start * RATE), round((end - start) * RATE))
        return power_spectra(soxr.resample(block, RATE, LOW_RATE, "QQ").astype(np.float32))

    step = max(1, len(heard.regions) // _SAMPLES)
    speech = np.concatenate([power(a, min(b, a + 10)) for a, b in heard.regions[::step]])
    ends = [(a, b) for (_, a), (b, _) in zip(heard.regions, heard.regions[1:], strict=False) if b - a > 0.2]
    quiet = [power(a + 0.05, min(b - 0.05, a + 5)) for a, b in ends[:: max(1, len(ends) // _SAMPLES)]]
    noise = np.concatenate(quiet).mean(axis=0) if quiet else np.percentile(speech, 5, axis=0)
    scales = {}
    for warp in WARPS:
        rows = cepstra(speech, warp=warp, floor=noise)
        scales[warp] = rows.mean(axis=0), rows.std(axis=0) + 1e-3

    def frames_of(start: float, end: float) -> list[Floats]:
        spectra = power(start, end)
        return [
            reduced(with_slopes((cepstra(spectra, warp=warp, floor=noise) - centre) / spread_))
            for warp, (centre, spread_) in scales.items()
        ]

    return frames_of


def _say_missing(work: Work, written: Sequence[_Sentence], said: Sequence[_Said], source: Path) -> None:
    heard = {id(one.sentence) for one in said}
    missing = [one for one in written if id(one) not in heard]
    if len(missing) == len(written):
        raise EngineError(f"No sentence of {source.name} was heard in the programme. Is it the right script?")
    for one in missing[:_NAMED]:
        work.say(f"{source.name}: “{one.text[:60]}” was not heard; it is left out.")
    if len(missing) > _NAMED:
        work.say(f"{source.name}: {len(missing) - _NAMED} more sentences were not heard; they are left out.")


def _by_length(prose: Prose, heard: FoundSpeech, tag: str) -> list[_Said]:
    """Sentences one behind the other over all speech, as long as their syllables ask; edges go to near pauses."""
    texts = [(text, line.speaker, k) for k, line in enumerate(prose.lines) for text in sentences(line.text)]
    lengths = np.array([max(1, syllables(text, tag)) for text, _, _ in texts], dtype=np.float64)
    spans = np.array(heard.regions)
    spoken_s = np.concatenate(([0.0], np.cumsum(spans[:, 1] - spans[:, 0])))
    edges = np.concatenate(([0.0], np.cumsum(lengths) / lengths.sum())) * spoken_s[-1]
    for k in range(1, len(edges) - 1):
        nearest = float(spoken_s[np.abs(spoken_s - edges[k]).argmin()])
        if abs(nearest - edges[k]) < 0.4 * min(edges[k] - edges[k - 1], edges[k + 1] - edges[k]):
            edges[k] = nearest
    said = []
    empty = np.empty((0, 0))
    for (text, speaker, paragraph), a, b in zip(texts, edges[:-1], edges[1:], strict=True):
        start, end = _programme_time(a, spans, spoken_s, after=True), _programme_time(b, spans, spoken_s, after=False)
        words = spread(text.split(), seconds_to_us(start), seconds_to_us(max(end, start + 0.1)))
        doubtful = tuple(replace(word, confidence=_GUESSED) for word in words)
        said.append(_Said(_Sentence(text, speaker, paragraph, empty, ()), doubtful))
    return said


def _programme_time(time_s: float, spans: Floats, spoken_s: Floats, *, after: bool) -> float:
    """When so much speech has gone by; at a pause, *after* it or before."""
    find = bisect_right if after else bisect_left
    place = min(max(find(spoken_s.tolist(), time_s) - 1, 0), len(spans) - 1)
    return float(spans[place, 0] + time_s - spoken_s[place])


def _deliver(work: Work, said: Sequence[_Said], heard: FoundSpeech, limits: CutLimits, source: Path) -> None:
    named = any(one.sentence.speaker for one in said)
    voices = _voices(said, heard) if not named else {}
    words, owners = [], []
    name = "Speaker A"
    for one in said:
        name = (one.sentence.speaker or name) if named else voices[id(one)]
        words += list(one.words)
        owners += [name] * len(one.words)
    programme = work.project.programme
    assert programme is not None
    seen, end_us = programme.picture is not None, programme.sound.duration_us
    speakers, segments = transcript_of(utterances(words, owners, limits), on_screen=seen)

    def edit(project: Project) -> Project:
        return laid_over(set_transcript(project, speakers, segments), heard.turns, end_us, keep=True)

    extra = len(edit(work.project).segments) - len(segments)
    if extra:
        work.say(f"{extra} stretch{'es' if extra > 1 else ''} of speech are not in {source.name}; they have no words.")
    work.deliver(f"Align {source.name}", edit)


def _voices(said: Sequence[_Said], heard: FoundSpeech) -> dict[int, str]:
    """Who says each sentence, told by voice alone; the sentences of a paragraph may differ."""
    names: dict[int, str] = {}
    letters: dict[int, str] = {}
    for one in said:
        span = one.words[0].start_us, one.words[-1].end_us
        shared: dict[int, int] = {}
        for turn in heard.turns:
            time = overlap_us(span, (seconds_to_us(turn.start_s), seconds_to_us(turn.end_s)))
            shared[turn.speaker] = shared.get(turn.speaker, 0) + time
        voice = max(shared, key=lambda key: shared[key], default=0)
        letters.setdefault(voice, f"Speaker {chr(65 + len(letters) % 26)}")
        names[id(one)] = letters[voice]
    return names
