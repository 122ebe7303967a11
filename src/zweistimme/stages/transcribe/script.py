"""A script that has no times, aligned to the sound: every sentence is spoken by a voice of the language, and what was
spoken is found in the programme. Where no voice speaks the language, sentences are laid over the speech by length."""

from __future__ import annotations

from collections.abc import Sequence
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
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import STATE_SECONDS
from zweistimme.sound.script_align import SpectraOf, align, align_one
from zweistimme.sound.script_features import Template, spectra_at_16k, template_of
from zweistimme.sound.script_stretches import Placed
from zweistimme.sound.script_sureness import SURE
from zweistimme.stages.asked import engine_for, spoken
from zweistimme.stages.transcribe.bylength import by_length
from zweistimme.stages.transcribe.found import FoundSpeech, Regions, found_speech, laid_over
from zweistimme.stages.work import Work, open_sound

_USUAL_PITCH_HZ: Final = 150.0
_GUESSED: Final = 0.3
_OTHERS: Final = 20
_MOSTLY_SURE: Final = 0.3
_LIKELY: Final = (0.4, 2.5)
"""How much speech there may be for sentences nobody heard, against what a voice takes for them: less or more is other
speech."""
_LEAST_REST_S: Final = 0.15
_NAMED: Final = 6
_AROUND_S: Final = 0.4


@dataclass(frozen=True, slots=True)
class _Sentence:
    """A sentence of the script, who says it, the template it is looked for by, if a voice speaks it, and its words, as
    many as the template has."""

    text: str
    speaker: str
    paragraph: int
    template: Template | None
    words: tuple[str, ...]


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
            _say_what_is_unsure(work, written, said, source)
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
        spectra_of = _spectra_of(reader)
        templates = [one.template for one in written if one.template is not None]
        unheard = 0
        for number, (segment, sentence) in enumerate(zip(wanted, written, strict=True)):
            start = max(0.0, segment.start_us / SECOND_US - _AROUND_S)
            end = min(reader.length / RATE, segment.end_us / SECOND_US + _AROUND_S)
            assert sentence.template is not None
            others = [one for one in templates if one is not sentence.template][:_OTHERS]
            placed = align_one(spectra_of, start, end, sentence.template, others)
            if placed is None:
                unheard += 1
            else:
                words = _timed(sentence, placed)
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
    written = []
    report = work.part(0.25, 0.5)
    for number, (text, speaker, paragraph) in enumerate(texts):
        request = SpeechRequest(ssml_of(text, tag), tag, voice.id)
        speech = asked.speak(request) if free else spoken(work, asked, request)
        marks = [(w.text, w.start_us, w.end_us) for w in speech.words]
        written.append(_Sentence(text, speaker, paragraph, *_measured(speech.samples, marks, text)))
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


def _found(work: Work, reader: SoundReader, heard: FoundSpeech, written: Sequence[_Sentence]) -> list[_Said]:
    """Every sentence that is there, in order. Where hardly any is found surely, the sound or the voice is to blame, not
    the script: those left out are laid over the speech between their neighbours then, and marked as unsure."""
    templates = [one.template for one in written if one.template is not None]
    placed = align(_spectra_of(reader), reader.length / RATE, heard.regions, templates, work.part(0.5, 1.0))
    wanted_s = sum(template.states for template in templates) * STATE_SECONDS
    speech_s = sum(b - a for a, b in heard.regions)
    if all(one.sureness <= SURE for one in placed) and not _LIKELY[0] < speech_s / max(wanted_s, 0.1) < _LIKELY[1]:
        return []  # nothing like it is heard, and it is not as long as what is said: another script
    said = {one.sentence: _Said(written[one.sentence], _timed(written[one.sentence], one)) for one in placed}
    if sum(one.sureness > SURE for one in placed) < _MOSTLY_SURE * len(written):
        said |= _laid_between(written, placed, heard.regions, work.project.source_tag)
    return [said[number] for number in sorted(said)]


def _laid_between(
    written: Sequence[_Sentence], placed: Sequence[Placed], regions: Regions, tag: str
) -> dict[int, _Said]:
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


def _guessed(sentence: _Sentence, span: tuple[float, float]) -> _Said:
    words = spread(words_in(sentence.text), seconds_to_us(span[0]), seconds_to_us(span[1]))
    return _Said(sentence, tuple(replace(word, confidence=_GUESSED) for word in words))


def _timed(sentence: _Sentence, placed: Placed) -> tuple[Word, ...]:
    confidence = round(float(np.clip(placed.sureness, 0.05, 0.99)), 3)
    return tuple(
        Word(text, seconds_to_us(start), seconds_to_us(end), confidence)
        for text, (start, end) in zip(sentence.words, placed.words_s.tolist(), strict=True)
    )


def _spectra_of(reader: SoundReader) -> SpectraOf:
    """Spectra of a stretch of the programme."""
    import soxr

    def spectra(start: float, end: float) -> Floats:
        block = reader.mono(round(start * RATE), round((end - start) * RATE))
        return spectra_at_16k(soxr.resample(block, RATE, LOW_RATE, "QQ").astype(np.float32))

    return spectra


def _laid_by_length(prose: Prose, heard: FoundSpeech, tag: str) -> list[_Said]:
    texts = _sentences_of(prose)
    spans = by_length([text for text, _, _ in texts], tag, heard.regions)
    return [
        _guessed(_Sentence(text, speaker, paragraph, None, ()), span)
        for (text, speaker, paragraph), span in zip(texts, spans, strict=True)
    ]


def _say_what_is_unsure(work: Work, written: Sequence[_Sentence], said: Sequence[_Said], source: Path) -> None:
    heard = {id(one.sentence) for one in said}
    missing = [one for one in written if id(one) not in heard]
    if not said:
        raise EngineError(f"No sentence of {source.name} was heard in the programme. Is it the right script?")
    unsure = sum(one.words[0].confidence <= SURE for one in said)
    if unsure == len(said):
        work.say(
            f"No sentence of {source.name} was heard for certain; they were laid over the speech in their order. Check "
            "their times, and that it is the right script."
        )
    elif unsure:
        work.say(f"{unsure} of {len(written)} sentences are where they are with some doubt; their words are marked.")
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
