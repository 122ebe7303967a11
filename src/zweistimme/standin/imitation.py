"""The imitating stand-in: pitch, formant scale, breath and pace are measured in the samples, and one of its own voices
is set to them. The voice that comes of it is alike in these four and in nothing else.
"""

from __future__ import annotations

import base64
import binascii
import re
import unicodedata
from dataclasses import replace
from typing import Final

import numpy as np

from zweistimme.engines.extra_roles import ImitationRequest
from zweistimme.engines.wire import samples_from
from zweistimme.project.errors import BadAnswer, EngineError
from zweistimme.project.times import RATE
from zweistimme.project.writing import syllables
from zweistimme.sound.activity import clip_speech
from zweistimme.sound.arrays import Floats, Mono
from zweistimme.sound.features import RATE as LOW_RATE
from zweistimme.sound.features import mel_bank, power_spectra
from zweistimme.sound.pitch import pitch_track
from zweistimme.sound.voice_traits import LEAST_FRAMES, periodicity, pitch_and_spread
from zweistimme.standin.synthesis import Larynx
from zweistimme.standin.text import language_of
from zweistimme.standin.voice import LANGUAGES, BundledVoice, speak

_LEAST_S, _MOST_S = 2.0, 600.0
_SCALES: Final = np.round(np.arange(0.90, 1.42, 0.04), 2)
_BREATHS_DB: Final = (-40.0, -34.0, -28.0, -22.0, -16.0)
_TEXTS: Final = {"en": "Every evening the harbour lies quiet, and the boats come in with the tide.",
                 "de": "Jeden Abend liegt der Hafen still, und die Boote kommen mit der Flut herein.",
                 "es": "Cada tarde el puerto queda en silencio, y los barcos entran con la marea."}  # fmt: skip
_CHILD_HZ, _WOMAN_HZ = 250.0, 160.0
_SYLLABLES_A_SECOND: Final = 4.4
"""What a voice of pace 1 says in a second of speech, pauses left out."""


def imitated(request: ImitationRequest) -> BundledVoice:
    """A voice set to what is measured in the samples."""
    if language_of(request.languages[0]) not in _TEXTS:
        raise EngineError(
            "The bundled engine makes voices that speak {names}, none for {language}.",
            names=", ".join(LANGUAGES),
            language=request.languages[0],
        )
    clips = [_clip(sample.sound, number) for number, sample in enumerate(request.samples, 1)]
    seconds = sum(map(len, clips)) / RATE
    if not _LEAST_S <= seconds <= _MOST_S:
        raise EngineError(
            "The samples last {seconds:.1f} s; a voice is made of {least:.0f} s to {most:.0f} s.",
            seconds=seconds,
            least=_LEAST_S,
            most=_MOST_S,
        )
    whole = _low(np.concatenate(clips))
    heard_hz, spread = _pitch(whole)
    language = language_of(request.languages[0])
    # accents lift what is heard above the pitch a larynx is set to, and a livelier one more so
    reference_hz, reference_spread = _pitch(_reference(Larynx(heard_hz, 1.0), language))
    pitch = heard_hz * heard_hz / reference_hz
    larynx = Larynx(pitch, 1.0, range_=float(np.clip(spread / reference_spread, 0.5, 1.6)))
    scale = _scale(whole, larynx, language)
    larynx = replace(larynx, scale=scale)
    larynx = replace(larynx, breath_db=_breath_db(whole, larynx, language))
    kind = "child" if pitch > _CHILD_HZ and scale > 1.25 else "woman" if pitch > _WOMAN_HZ else "man"
    about = "made from samples: pitch, formants, breath and pace"
    pace = _pace(request, clips)
    return BundledVoice(_id(request.name), request.name, kind, about, larynx, pace)


def _id(name: str) -> str:
    plain = unicodedata.normalize("NFKD", name.lower()).encode("ascii", "ignore").decode()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or f"u{sum(map(ord, name)):x}"
    return f"made-{stem}"[:60]


def _clip(sound: str, number: int) -> Mono:
    try:
        return samples_from(base64.b64decode(sound, validate=True), None, _MOST_S, f"Sample {number}")
    except (binascii.Error, ValueError):
        raise EngineError("Sample {number} is no sound in base64.", number=number) from None
    except BadAnswer as error:
        raise EngineError("{error} Give WAV or FLAC of one channel.", error=error) from None


def _low(samples: Mono) -> Mono:
    import soxr

    return np.asarray(soxr.resample(samples, RATE, LOW_RATE, "HQ"), dtype=np.float32)


def _reference(larynx: Larynx, language: str) -> Mono:
    return _low(speak(_TEXTS[language], language, BundledVoice("", "", "", "", larynx)).samples)


def _pitch(low: Mono) -> tuple[float, float]:
    """The median pitch in Hz and its spread in semitones (half of what lies between the 16th and 84th percentile)."""
    pitches = pitch_track(low, LOW_RATE)
    if np.isfinite(pitches).sum() < LEAST_FRAMES:
        raise EngineError("Nothing in the samples has a pitch. Give some in which a person speaks.")
    return pitch_and_spread(pitches)


def _timbre(low: Mono) -> Floats:
    """The mean spectrum of speech in mel bands, in dB about its mean; louder frames alone."""
    power = power_spectra(low)
    energy = power.sum(axis=1)
    bands = 10 * np.log10(power[energy > np.percentile(energy, 50)] @ mel_bank().T + 1e-9).mean(axis=0)
    return np.asarray(bands - bands.mean())


def _scale(low: Mono, larynx: Larynx, language: str) -> float:
    """The formant scale at which the stand-in's long-term spectrum lies nearest, all but the tilt compared."""
    wanted = _level(_timbre(low))
    apart = [np.abs(_level(_timbre(_reference(replace(larynx, scale=s), language))) - wanted).sum() for s in _SCALES]
    return float(_SCALES[int(np.argmin(apart))])


def _level(bands: Floats) -> Floats:
    """A spectrum without its straight line, which is the larynx, the room and the microphone."""
    place = np.arange(len(bands))
    return np.asarray(bands - np.polyval(np.polyfit(place, bands, 1), place))


def _breath_db(low: Mono, larynx: Larynx, language: str) -> float:
    """The breath at which the stand-in is as periodic as the samples are."""
    wanted = _periodicity(low)
    there = [_periodicity(_reference(replace(larynx, breath_db=db), language)) for db in _BREATHS_DB]
    return float(np.interp(wanted, there[::-1], _BREATHS_DB[::-1]))


def _periodicity(low: Mono) -> float:
    return periodicity(low, pitch_track(low, LOW_RATE))


def _pace(request: ImitationRequest, clips: list[Mono]) -> float:
    """How quickly is spoken, where it is known what is said; else as usual."""
    told = [
        (syllables(sample.text, request.languages[0]), _spoken_s(clip))
        for sample, clip in zip(request.samples, clips, strict=True)
        if sample.text.strip()
    ]
    seconds = sum(spoken for _, spoken in told)
    if not seconds:
        return 1.0
    return float(np.clip(sum(count for count, _ in told) / seconds / _SYLLABLES_A_SECOND, 0.7, 1.4))


def _spoken_s(clip: Mono) -> float:
    speech = clip_speech(clip, RATE)
    return (speech.end - speech.start - sum(end - start for start, end in speech.pauses)) / RATE
