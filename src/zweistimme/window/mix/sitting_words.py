"""What is done to a voice, in words."""

from __future__ import annotations

from zweistimme.messages import tr
from zweistimme.sound.long_spectrum import BANDS_HZ
from zweistimme.sound.room_response import Room
from zweistimme.stages.mix.treatments import VoiceTreatment


def in_words(treatment: VoiceTreatment, room: Room | None) -> str:
    """A treatment as people read it, a line for each step."""
    said = []
    if treatment.high_pass_hz:
        said.append(tr("nothing under {hertz:.0f} Hz", hertz=treatment.high_pass_hz))
    if any(treatment.tone_db):
        up = max(range(len(BANDS_HZ)), key=lambda band: treatment.tone_db[band])
        down = min(range(len(BANDS_HZ)), key=lambda band: treatment.tone_db[band])
        said.append(
            tr(
                "tone {up:+.1f} dB at {up_hz}, {down:+.1f} dB at {down_hz}",
                up=treatment.tone_db[up],
                up_hz=_hertz(BANDS_HZ[up]),
                down=treatment.tone_db[down],
                down_hz=_hertz(BANDS_HZ[down]),
            )
        )
    if treatment.sibilance_db is not None:
        said.append(tr("sibilants up to {db:+.1f} dB beside the speech", db=treatment.sibilance_db))
    if treatment.slope < 1:
        said.append(tr("loud moments brought nearer by {percent:.0f} %", percent=100 * (1 - treatment.slope)))
    if room is not None:
        said.append(tr("a room that rings {seconds:.1f} s", seconds=room.decay_s))
    return "\n".join(said) or tr("nothing is done to this voice")


def _hertz(hertz: float) -> str:
    return f"{hertz / 1_000:.1f} kHz" if hertz >= 1_000 else f"{hertz:.0f} Hz"
