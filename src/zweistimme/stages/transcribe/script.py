"""A script that has no times, aligned to the sound: every sentence is spoken by a voice of the language, and what was
spoken is found in the programme. Where no voice speaks the language, sentences are laid over the speech by length."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import Final

import numpy as np

from zweistimme.engines.protocol import Engine, Role, SpeechRequest, VoiceInfo
from zweistimme.engines.registry import engine
from zweistimme.formats.prose import Prose
from zweistimme.formats.ssml import ssml_of
from zweistimme.formats.transcripts import UNNAMED, described
from zweistimme.media.working import SoundReader
from zweistimme.project.cutting import CutLimits, transcript_of, utterances
from zweistimme.project.errors import EditError, EngineError, FormatError, MediaError
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project, Word
from zweistimme.project.parts import find_segment, find_segments
from zweistimme.project.replacement import replace_transcript
from zweistimme.project.speakers import unused_name
from zweistimme.project.times import RATE, SECOND_US, overlap_us, seconds_to_us
from zweistimme.project.transcript import retime_segment, set_words
from zweistimme.project.words import says, spoken_words, spread
from zweistimme.project.writing import sentences, words_in
from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import STATE_SECONDS, cepstra, power_spectra, reduced, with_slopes
from zweistimme.sound.ordered import Placed, align, align_one
from zweistimme.stages.asked import engine_for, spoken
from zweistimme.stages.transcribe.bylength import by_length
from zweistimme.stages.transcribe.found import FoundSpeech, Regions, found_speech, kept_regions, laid_over
from zweistimme.stages.work import Work, open_sound

WARPS: Final = (1.0, 1.1, 1.2, 1.3)
"""Lengths of the vocal tract that are tried, against the voice that speaks the sentences."""
_USUAL_PITCH_HZ: Final = 120.0
_GUESSED: Final = 0.3
_SAMPLES: Final = 40
_NAMED: Final = 6
_AROUND_S: Final = 0.4


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
        work.say(f"{sentence}.")
    part = work.part(0.0, 0.25)
    with open_sound(work, programme.sound) as reader:
        heard = found_speech(reader, part)
        if not heard.regions:
            raise FormatError("No speech was found in the sound, so there is nothing to align the script to.")
        voice = _voice(work.project)
        if voice is None:
            said = _laid_by_length(prose, heard, work.project.source_tag)
            work.say(
                f"No voice speaks {work.project.source_tag}, so the script was laid over the speech by length alone. "
                "Check its times."
            )
        else:
            written = _spoken_sentences(work, _sentences_of(prose), *voice)
            said = _found(work, reader, heard, written)
            _say_missing(work, written, said, source)
    _deliver(work, said, heard, limits, source)


def realign(work: Work, segment_ids: Sequence[str]) -> None:
    """Look for the times of the words of some segments in the sound around them. Their wording stays; where nothing
    like it is heard, so do their times."""
    programme, project = work.project.programme, work.project
    wanted = [segment for segment in find_segments(project, segment_ids) if segment.text]
    voice = _voice(project)
    if programme is None or not wanted:
        return
    if voice is None:
        raise EngineError(f"No voice speaks {project.source_tag}, so the words cannot be looked for in the sound.")
    written = _spoken_sentences(work, [(s.text, "", k) for k, s in enumerate(wanted)], *voice)
    with open_sound(work, programme.sound) as reader:
        spans = kept_regions(work).astype(np.float64) / SECOND_US
        frames_of = _frames_of(reader, [(float(a), float(b)) for a, b in spans])
        unheard = 0
        for number, (segment, sentence) in enumerate(zip(wanted, written, strict=True)):
            start = max(0.0, segment.start_us / SECOND_US - _AROUND_S)
            end = min(reader.length / RATE, segment.end_us / SECOND_US + _AROUND_S)
            placed = align_one(frames_of(start, end), sentence.template)
            if placed is None:
                unheard += 1
            else:
                words = _timed(sentence, replace(placed, times_s=placed.times_s + start))
                work.deliver("Find word times", partial(_with_times, segment_id=segment.id, words=words))
            work.report(0.5 + 0.5 * (number + 1) / len(wanted))
    if unheard:
        work.say(f"{unheard} of {len(wanted)} segments were not heard as they are written; their times stay.")


def _with_times(project: Project, segment_id: str, words: tuple[Word, ...]) -> Project:
    segment = find_segment(project, segment_id)
    if not says(segment.text, words):
        raise EditError("Its text has been changed meanwhile; look for its times again.")
    start, end = min(segment.start_us, words[0].start_us), max(segment.end_us, words[-1].end_us)
    kept = tuple(replace(w, confidence=was.confidence) for w, was in zip(words, spoken_words(segment), strict=True))
    return set_words(retime_segment(project, segment_id, start, end), segment_id, kept)


def _sentences_of(prose: Prose) -> list[tuple[str, str, int]]:
    """Every sentence with its speaker and the number of its paragraph."""
    return [(text, line.speaker, k) for k, line in enumerate(prose.lines) for text in sentences(line.text)]


def _voice(project: Project) -> tuple[Engine, VoiceInfo] | None:
    """A voice of the programme's language, nearest to the usual pitch of a man: the bundled ones cost nothing."""
    language = language_of(project.source_tag)
    for name in dict.fromkeys(("bundled", engine_for(project, Role.SPEAK))):
        asked = engine(name)
        there = [v for v in asked.info().voices if language in {language_of(tag) for tag in v.languages}]
        if there:
            return asked, min(there, key=lambda v: abs((v.pitch_hz or 1000.0) - _USUAL_PITCH_HZ))
    return None


def _spoken_sentences(
    work: Work, texts: Sequence[tuple[str, str, int]], asked: Engine, voice: VoiceInfo
) -> list[_Sentence]:
    """Every sentence as a template. Features are put on one scale over the whole script."""
    tag = work.project.source_tag
    free = asked.info().price.of(characters=1).amount == 0
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

    tokens = words_in(text)
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
    frames_of = _frames_of(reader, heard.regions)
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


def _frames_of(reader: SoundReader, regions: Regions) -> Callable[[float, float], list[Floats]]:
    """Features of a stretch for each length of the vocal tract, on the scale of the programme's own speech."""
    import soxr

    def power(start: float, end: float) -> Floats:
        block = reader.mono(round(start * RATE), round((end - start) * RATE))
        return power_spectra(soxr.resample(block, RATE, LOW_RATE, "QQ").astype(np.float32))

    step = max(1, len(regions) // _SAMPLES)
    speech = np.concatenate([power(a, min(b, a + 10)) for a, b in regions[::step]])
    ends = [(a, b) for (_, a), (b, _) in pairwise(regions) if b - a > 0.2]
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


def _laid_by_length(prose: Prose, heard: FoundSpeech, tag: str) -> list[_Said]:
    texts = _sentences_of(prose)
    spans = by_length([text for text, _, _ in texts], tag, heard.regions)
    nothing = np.empty((0, 0))
    said = []
    for (text, speaker, paragraph), (start, end) in zip(texts, spans, strict=True):
        words = spread(words_in(text), seconds_to_us(start), seconds_to_us(end))
        doubtful = tuple(replace(word, confidence=_GUESSED) for word in words)
        said.append(_Said(_Sentence(text, speaker, paragraph, nothing, ()), doubtful))
    return said


def _say_missing(work: Work, written: Sequence[_Sentence], said: Sequence[_Said], source: Path) -> None:
    heard = {id(one.sentence) for one in said}
    missing = [one for one in written if id(one) not in heard]
    if len(missing) == len(written):
        raise EngineError(f"No sentence of {source.name} was heard in the programme. Is it the right script?")
    for one in missing[:_NAMED]:
        work.say(f"“{one.text[:60]}” was not heard; it is left out.")
    if len(missing) > _NAMED:
        work.say(f"{len(missing) - _NAMED} more sentences were not heard; they are left out.")


def _deliver(work: Work, said: Sequence[_Said], heard: FoundSpeech, limits: CutLimits, source: Path) -> None:
    named = any(one.sentence.speaker for one in said)
    voices = _voices(said, heard) if not named else {}
    words, owners = [], []
    name = UNNAMED
    for one in said:
        name = (one.sentence.speaker or name) if named else voices[id(one)]
        words += list(one.words)
        owners += [name] * len(one.words)
    programme = work.project.programme
    assert programme is not None
    seen, end_us = programme.picture is not None, programme.sound.duration_us
    speakers, segments = transcript_of(utterances(words, owners, limits), on_screen=seen)

    def edit(project: Project) -> Project:
        return laid_over(replace_transcript(project, speakers, segments), heard.turns, end_us, keep=True)

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
        letters.setdefault(voice, unused_name(letters.values()))
        names[id(one)] = letters[voice]
    return names
