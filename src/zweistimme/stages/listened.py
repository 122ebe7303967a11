"""What a person should know of a programme's sound before work begins: where it will hurt, and what can be done."""

from __future__ import annotations

from typing import Final

from zweistimme.engines.protocol import RecognitionQuestion, SoundSource
from zweistimme.engines.registry import engine
from zweistimme.media.decode import SoundReader
from zweistimme.project.languages import english_name
from zweistimme.project.times import RATE
from zweistimme.sound.quality import SoundFacts, SoundMeter

_SILENT_DB: Final = -60.0
_SOFT_DB: Final = -42.0
_LEAST_SNR_DB: Final = 12.0
_LONG_SILENCE_S: Final = 10.0
_NARROW_HZ: Final = 4_500.0
_OPPOSED: Final = 0.85
_SAMPLE_S: Final = 24
_SURE: Final = 0.6


def measured(reader: SoundReader) -> SoundFacts:
    """The facts of a working copy."""
    meter = SoundMeter(RATE)
    for block in reader.blocks():
        meter.feed(block)
    return meter.facts()


def advice(facts: SoundFacts) -> tuple[str, ...]:
    """Sentences for a person, the worst first; none if the sound is as it should be."""
    if facts.peak_db < _SILENT_DB:
        return ("The sound is silent all through. Check that the right track was exported.",)
    if facts.opposed > _OPPOSED:
        return (
            "The two channels take each other away when they are mixed to one: one of them is upside down. "
            "Export one channel, or turn one over.",
        )
    said = []
    if facts.clipped > 3:
        said.append(
            f"The sound is clipped at {facts.clipped:,} places; words there may be heard wrongly. "
            "Ask for a copy recorded or exported at a lower level."
        )
    if facts.peak_db < _SOFT_DB or -200 < facts.speech_db < _SOFT_DB:
        said.append(f"The sound is very soft (its peak is {facts.peak_db:.0f} dB). Export it at a higher level.")
    elif facts.speech_db <= -200:
        said.append("No speech was found in the sound. Check that the right track was exported.")
    elif facts.snr_db < _LEAST_SNR_DB:
        said.append(
            f"Speech stands only {facts.snr_db:.0f} dB over what is under it; expect more words heard wrongly. "
            "A script or captions will help, or a track with the dialogue alone."
        )
    if facts.highest_hz < _NARROW_HZ:
        said.append(
            f"There is nothing above {facts.highest_hz / 1000:.1f} kHz, as over a telephone; "
            "s, f and th will be confused. Look for a better copy."
        )
    if abs(facts.offset) > 0.02:
        said.append(
            f"The sound does not swing about zero (off by {facts.offset:+.1%}); its level is measured too high."
        )
    for seconds, where in ((facts.silence_before_s, "begins"), (facts.silence_after_s, "ends")):
        if seconds > _LONG_SILENCE_S:
            said.append(f"The programme {where} with {seconds:.0f} s of silence.")
    return tuple(said)


def other_language(reader: SoundReader, source_tag: str, start_s: float) -> str:
    """A sentence if the speech sounds like another language than was said; empty if not, or if nobody can tell. Only
    the bundled recogniser is asked: it costs nothing, and hears nothing in most speech."""
    ear = engine()
    info = ear.info()
    language = source_tag.split("-")[0]
    if not info.detects or language not in {tag.split("-")[0] for tag in info.recognises}:
        return ""
    others = [tag for tag in info.recognises if tag.split("-")[0] != language]
    first = round(start_s * RATE)
    length = min(_SAMPLE_S * RATE, reader.length - first)
    source = SoundSource(lambda start, count: reader.mono(first + start, count), length)
    heard = ear.recognise(source, RecognitionQuestion((source_tag, *others)), lambda _share: None)
    words = sum(len(segment.words) for segment in heard.segments)
    if heard.language.split("-")[0] == language or heard.probability < _SURE or words < 3:
        return ""
    return (
        f"The speech sounds like {english_name(heard.language)}, not {english_name(source_tag)}. "
        "Check the language of the programme."
    )
