"""Presets of sound deliveries in words."""

from __future__ import annotations

from typing import Final

from zweistimme.messages import msg, tr
from zweistimme.project.sound_delivery import Channels, LoudnessOf, Part, SoundForm, SoundPreset

OF: Final = {LoudnessOf.PROGRAMME: msg("the programme"), LoudnessOf.DIALOGUE: msg("the dialogue")}
CHANNELS: Final = {Channels.MONO: msg("mono"), Channels.STEREO: msg("stereo"), Channels.SURROUND: "5.1"}
FORMS: Final = {
    SoundForm.WAV: "WAV",
    SoundForm.BWF: "Broadcast Wave",
    SoundForm.FLAC: "FLAC",
    SoundForm.OPUS: "Opus",
    SoundForm.AAC: "AAC",
    SoundForm.MP3: "MP3",
}
PARTS: Final = {
    Part.MIX: msg("mix"),
    Part.DUB: msg("voices"),
    Part.BENEATH: msg("music and effects"),
    Part.ROOM: msg("room"),
    Part.PEOPLE: msg("each person"),
}


def in_short(preset: SoundPreset) -> str:
    """A preset in a few words."""
    parts = "" if preset.parts == (Part.MIX,) else ": " + ", ".join(tr(PARTS[one]) for one in preset.parts)
    return (
        tr(
            "{loud:g} LUFS, {channels}, {form}",
            loud=preset.loudness_lufs,
            channels=tr(CHANNELS[preset.channels]),
            form=FORMS[preset.form],
        )
        + parts
    )
