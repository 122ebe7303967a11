"""What is said of a programme's sound and of its file."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

SOUND: Final[Mapping[str, str]] = {
    "other-language-heard": (
        "The speech sounds like {heard:language} ({share:.0%}), not {said:language}. Check the source language."
    ),
    "sound-clipped": (
        "The sound is clipped at {places:,} places; words there may be heard wrongly. Ask for a copy recorded"
        " or exported at a lower level."
    ),
    "sound-soft": "The sound is very soft (its peak is {peak_db:.0f} dB). Export it at a higher level.",
    "no-speech": "No speech was found in the sound. Check that the right track was exported.",
    "speech-low": (
        "Speech stands only {by_db:.0f} dB over what is under it; expect more words heard wrongly. A script "
        "or captions will help, or a track with the dialogue alone."
    ),
    "sound-narrow": (
        "There is nothing above {highest_khz:.1f} kHz, as over a telephone; s, f and th will be confused. "
        "Look for a better copy."
    ),
    "sound-offset": "The sound does not swing about zero (off by {share:+.1%}); its level is measured too high.",
    "tracks-together": "Sound tracks {numbers} are put together{how}.",
    "track-used": "Of its {tracks} sound tracks, number {track} ({codec}{language}) is used.",
    "rate-converted": "Sound at {rate:,} Hz is converted to {to:,} Hz.",
    "channels-used": "Of its {channels} channels, {named} is used.",
    "mixed-down": "{channels} channels are mixed down to stereo (ITU-R BS.775).",
    "clock-begins-anew": "The file's clock begins anew at {at_us:clock}; what follows is put right behind.",
    "file-cut-off": "The file is cut off: it says it lasts {says_us:clock}, but its sound ends at {ends_us:clock}.",
    "beyond-full-scale": "The sound goes far beyond full scale at {samples:,} samples; it is held there.",
    "rate-changes": "The sound changes from {rate:,} to {to:,} Hz on the way.",
    "file-damaged": "The file is damaged: decoding stopped with “{why}”. What came before is used.",
    "track-left-out": "{track} cannot go into {container} and is left out of the video.",
    "sound-begins-late": "The sound begins {by_s:.2f} s after the file's clock; that is kept.",
    "sound-hole": "The sound has a hole, at {shown}; kept as silence.",
    "sound-holes": "The sound has {places:,} holes, {total_s:.2f} s in all, at {shown}; kept as silence.",
    "sound-overlap": "The sound has an overlap, at {shown}; what was there twice is left out.",
    "sound-overlaps": (
        "The sound has {places:,} overlaps, {total_s:.2f} s in all, at {shown}; what was there twice is left out."
    ),
    "sound-jump": "The sound has a jump of its clock, at {shown}; not followed, since no recording has such a hole.",
    "sound-jumps": (
        "The sound has {places:,} jumps of its clock, {total_s:.2f} s in all, at {shown}; not followed, since"
        " no recording has such a hole."
    ),
    "sound-drift": "The sound has a drift against the clock, at {shown}; evened out.",
    "sound-drifts": (
        "The sound has {places:,} drifts against the clock, {total_s:.2f} s in all, at {shown}; evened out."
    ),
    "sound-silent": "The sound is silent all through. Check that the right track was exported.",
    "channels-opposed": (
        "The two channels take each other away when they are mixed to one: one of them is upside down. Export"
        " one channel, or turn one over."
    ),
    "silence-before": "The programme begins with {seconds:.0f} s of silence.",
    "silence-after": "The programme ends with {seconds:.0f} s of silence.",
    "same-sound": "It is the same sound as before; nothing has to be made again.",
    "other-sound": (
        "The sound is another than before: the {segments:,} segments keep their text and times; check that "
        "they still lie where the words are said. Mixes and files handed over are stale."
    ),
    "segments-behind-end": "{segments:segment lies|segments lie} behind its end, from {from_us:clock} on.",
    "bed-length": "The bed lasts {bed_us:clock}, the programme {programme_us:clock}.",
}
