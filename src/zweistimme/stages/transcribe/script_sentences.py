"""The sentences of a script, each spoken by a voice of the language: what is looked for in the sound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.protocol import Engine, SpeechRequest
from zweistimme.formats.prose import Prose
from zweistimme.formats.ssml import ssml_of
from zweistimme.project.times import RATE
from zweistimme.project.words import spread
from zweistimme.project.writing import sentences, words_in
from zweistimme.sound.arrays import Mono
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.script_features import Template, template_of
from zweistimme.stages.answers import spoken
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class ScriptSentence:
    """A sentence of the script, who says it, the template it is looked for by, if a voice speaks it, and its words, as
    many as the template has."""

    text: str
    speaker: str
    paragraph: int
    template: Template | None
    words: tuple[str, ...]


def sentences_of(prose: Prose) -> list[tuple[str, str, int]]:
    """Every sentence with its speaker and the number of its paragraph."""
    return [(text, line.speaker, k) for k, line in enumerate(prose.lines) for text in sentences(line.text)]


def spoken_sentences(
    work: Work, texts: Sequence[tuple[str, str, int]], asked: Engine, voice: VoiceInfo
) -> list[ScriptSentence]:
    """Every sentence as a template. Features are put on one scale over the whole script."""
    tag = work.project.source_tag
    free = asked.info().price.of(characters=1).amount == 0
    written = []
    report = work.part(0.25, 0.5)
    for number, (text, speaker, paragraph) in enumerate(texts):
        request = SpeechRequest(ssml_of(text, tag), tag, voice.id)
        speech = asked.speak(request) if free else spoken(work, asked, request)
        marks = [(w.text, w.start_us, w.end_us) for w in speech.words]
        written.append(ScriptSentence(text, speaker, paragraph, *_measured(speech.samples, marks, text)))
        report((number + 1) / len(texts))
    return written


def _measured(samples: Mono, marks: Sequence[tuple[str, int, int]], text: str) -> tuple[Template, tuple[str, ...]]:
    import soxr

    tokens = words_in(text)
    if len(marks) != len(tokens):  # an engine without marks, or with marks of its own
        even = spread(tokens, 0, len(samples) * 1_000_000 // RATE)
        marks = [(w.text, w.start_us, w.end_us) for w in even]
    first, last = marks[0][1] / 1e6, marks[-1][2] / 1e6
    sound = soxr.resample(samples, RATE, LOW_RATE, "HQ").astype(np.float32)
    part = sound[int(first * LOW_RATE) : max(int(last * LOW_RATE), int(first * LOW_RATE) + 800)]
    return template_of(part, [(a / 1e6 - first, b / 1e6 - first) for _, a, b in marks]), tuple(tokens)
