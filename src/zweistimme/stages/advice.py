"""What a person should know of a programme's sound: where it will hurt, and what can be done. A job of its own, beside
the work: nothing waits for it."""

from __future__ import annotations

from functools import partial
from typing import Final

from zweistimme.engines.protocol import RecognitionQuestion, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.media.sound_reader import SoundReader
from zweistimme.project.edits import add_notes
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_of
from zweistimme.project.times import RATE
from zweistimme.sound.quality import SoundFacts, SoundMeter
from zweistimme.stages.work import Report, Work, open_sound

_HEARABLE_DB: Final = -60.0
_SILENT_DB: Final = -60.0
_SOFT_DB: Final = -42.0
_LEAST_SNR_DB: Final = 12.0
_LONG_SILENCE_S: Final = 10.0
_NARROW_HZ: Final = 4_500.0
_OPPOSED: Final = 0.85
_SAMPLE_S: Final = 24
_SURE: Final = 0.6


def listen(work: Work, *, language: bool = True) -> None:
    """Listen to the programme, and keep with it what a person should know; with *language* also whether it is in
    another one than was said."""
    programme = work.project.programme
    if programme is None:
        return
    with open_sound(work, programme.sound) as reader:
        facts = measured(reader, work.part(0.0, 0.4 if language else 1.0))
        notes = advice(facts)
        if language and facts.speech_db > _HEARABLE_DB:
            tag, start = work.project.source_tag, facts.silence_before_s
            notes += other_language(reader, tag, start, work.part(0.4, 1.0))
    for note in notes:
        work.say(note)
    if notes:
        work.note(partial(add_notes, checksum=programme.sound.checksum, notes=notes))


def measured(reader: SoundReader, report: Report = lambda _share: None) -> SoundFacts:
    """The facts of a working copy."""
    meter = SoundMeter(RATE)
    done = 0
    for block in reader.blocks():
        meter.feed(block)
        done += block.shape[1]
        report(done / reader.length)
    return meter.facts()


def advice(facts: SoundFacts) -> tuple[Finding, ...]:
    """What a person should know, the worst first; none if the sound is as it should be."""
    if facts.peak_db < _SILENT_DB:
        return (Finding("sound-silent"),)
    if facts.opposed > _OPPOSED:
        return (Finding("channels-opposed"),)
    said = []
    if facts.clipped > 3:
        said.append(Finding("sound-clipped", {"places": facts.clipped}))
    if facts.peak_db < _SOFT_DB or -200 < facts.speech_db < _SOFT_DB:
        said.append(Finding("sound-soft", {"peak_db": facts.peak_db}))
    elif facts.speech_db <= -200:
        said.append(Finding("no-speech"))
    elif facts.snr_db < _LEAST_SNR_DB:
        said.append(Finding("speech-low", {"by_db": facts.snr_db}))
    if facts.highest_hz < _NARROW_HZ:
        said.append(Finding("sound-narrow", {"highest_khz": facts.highest_hz / 1000}))
    if abs(facts.offset) > 0.02:
        said.append(Finding("sound-offset", {"share": facts.offset}))
    for seconds, code in ((facts.silence_before_s, "silence-before"), (facts.silence_after_s, "silence-after")):
        if seconds > _LONG_SILENCE_S:
            said.append(Finding(code, {"seconds": round(seconds, 1)}))
    return tuple(said)


def other_language(
    reader: SoundReader, source_tag: str, start_s: float, report: Report = lambda _share: None
) -> tuple[Finding, ...]:
    """Whether the speech sounds like another language than was said; nothing if not, or if nobody can tell. Only
    the bundled recogniser is asked: it costs nothing, and hears nothing in most speech."""
    ear = engine()
    info = ear.info()
    language = language_of(source_tag)
    if not info.detects or language not in map(language_of, info.recognises):
        return ()
    others = [tag for tag in info.recognises if language_of(tag) != language]
    first = round(start_s * RATE)
    length = min(_SAMPLE_S * RATE, reader.length - first)
    source = SoundSource(lambda start, count: reader.mono(first + start, count), length)
    heard = ear.recognise(source, RecognitionQuestion((source_tag, *others)), report)
    words = sum(len(segment.words) for segment in heard.segments)
    if language_of(heard.language) == language or (heard.probability or 0.0) < _SURE or words < 3:
        return ()
    return (Finding("sounds-like-another", {"heard": heard.language, "said": source_tag}),)
