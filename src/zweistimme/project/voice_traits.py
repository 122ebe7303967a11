"""What a voice is like, as it was measured in speech (``sound/voice_traits.py``)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class VoiceTraits:
    """*pitch_hz* is the median, None where nothing is voiced; *spread_st* half of what lies between its 16th and 84th
    percentile, in semitones; *tract* the spacing of the formants as a factor of that of a tract of 17 cm (shorter ones
    have more); *bright_db* what is above 1 kHz over what is below; *harmonic_db* periodic over other sound; *pace*
    peaks of voiced sound in a second of speech; *seconds* of how much voiced sound. NaN is what is not known."""

    pitch_hz: float | None
    spread_st: float
    tract: float
    bright_db: float
    harmonic_db: float
    pace: float
    seconds: float
