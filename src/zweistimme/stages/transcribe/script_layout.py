"""Where the sentences of a script lie in a programme: found in its sound, or laid over its speech by length."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

import numpy as np

from zweistimme.formats.prose import Prose
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.model import Word
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.project.words import spread
from zweistimme.project.writing import words_in
from zweistimme.sound.arrays import Floats
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_align import SpectraOf, align
from zweistimme.sound.script_features import spectra_at_16k
from zweistimme.sound.script_stretches import Placed
from zweistimme.sound.script_sureness import SURE
from zweistimme.stages.transcribe.by_length import by_length
from zweistimme.stages.transcribe.diarize import FoundSpeech, Regions
from zweistimme.stages.transcribe.script_sentences import ScriptSentence, sentences_of
from zweistimme.stages.work import Work

_GUESSED: Final = 0.3
_MOSTLY_SURE: Final = 0.3
_LIKELY: Final = (0.4, 2.5)
"""How much speech there may be for sentences nobody heard, against what a voice takes for them: less or more is other
speech."""
_LEAST_REST_S: Final = 0.15


@dataclass(frozen=True, slots=True)
class SaidSentence:
    """A sentence and its words at their times."""

    sentence: ScriptSentence
    words: tuple[Word, ...]


def laid_out(
    work: Work, reader: SoundReader, heard: FoundSpeech, written: Sequence[ScriptSentence]
) -> list[SaidSentence]:
    """Every sentence that is there, in order. Where hardly any is found surely, the sound or the voice is to blame, not
    the script: those left out are laid over the speech between their neighbours then, and marked as unsure."""
    templates = [one.template for one in written if one.template is not None]
    placed = align(spectra_of(reader), reader.length / RATE, heard.regions, templates, work.part(0.5, 1.0))
    wanted_s = sum(template.states for template in templates) * STATE_SECONDS
    speech_s = sum(b - a for a, b in heard.regions)
    if all(one.sureness <= SURE for one in placed) and not _LIKELY[0] < speech_s / max(wanted_s, 0.1) < _LIKELY[1]:
        return []  # nothing like it is heard, and it is not as long as what is said: another script
    said = {one.sentence: SaidSentence(written[one.sentence], timed(written[one.sentence], one)) for one in placed}
    if sum(one.sureness > SURE for one in placed) < _MOSTLY_SURE * len(written):
        said |= _laid_between(written, placed, heard.regions, work.project.source_tag)
    return [said[number] for number in sorted(said)]


def _laid_between(
    written: Sequence[ScriptSentence], placed: Sequence[Placed], regions: Regions, tag: str
) -> dict[int, SaidSentence]:
    """Runs of sentences that were not found, laid by length over the speech between those that were."""
    edges = [(-1, 0.0, 0.0), *((one.sentence, float(one.times_s[0]), float(one.times_s[-1])) for one in placed)]
    edges.append((len(written), regions[-1][1], regions[-1][1]))
    said = {}
    for (before, _, begin), (behind, end, _) in pairwise(edges):
        inside = [(max(a, begin), min(b, end)) for a, b in regions if min(b, end) - max(a, begin) > _LEAST_REST_S]
        run = list(range(before + 1, behind))
        wanted_s = sum(
            (one.template.states if one.template else 0) * STATE_SECONDS for one in written[before + 1 : behind]
        )
        speech_s = sum(b - a for a, b in inside)
        if run and _LIKELY[0] < speech_s / max(wanted_s, 0.1) < _LIKELY[1]:
            for number, span in zip(run, by_length([written[k].text for k in run], tag, inside), strict=True):
                said[number] = _guessed(written[number], span)
    return said


def _guessed(sentence: ScriptSentence, span: tuple[float, float]) -> SaidSentence:
    words = spread(words_in(sentence.text), seconds_to_us(span[0]), seconds_to_us(span[1]))
    return SaidSentence(sentence, tuple(replace(word, confidence=_GUESSED) for word in words))


def timed(sentence: ScriptSentence, placed: Placed) -> tuple[Word, ...]:
    confidence = round(float(np.clip(placed.sureness, 0.05, 0.99)), 3)
    return tuple(
        Word(text, seconds_to_us(start), seconds_to_us(end), confidence)
        for text, (start, end) in zip(sentence.words, placed.words_s.tolist(), strict=True)
    )


def spectra_of(reader: SoundReader) -> SpectraOf:
    """Spectra of a stretch of the programme."""
    import soxr

    def spectra(start: float, end: float) -> Floats:
        block = reader.mono(round(start * RATE), round((end - start) * RATE))
        return spectra_at_16k(soxr.resample(block, RATE, LOW_RATE, "QQ").astype(np.float32))

    return spectra


def laid_by_length(prose: Prose, heard: FoundSpeech, tag: str) -> list[SaidSentence]:
    texts = sentences_of(prose)
    spans = by_length([text for text, _, _ in texts], tag, heard.regions)
    return [
        _guessed(ScriptSentence(text, speaker, paragraph, None, ()), span)
        for (text, speaker, paragraph), span in zip(texts, spans, strict=True)
    ]
