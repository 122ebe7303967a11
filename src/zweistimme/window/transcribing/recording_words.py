"""What is said while somebody records."""

from __future__ import annotations

from enum import Enum

from zweistimme.messages import tr
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Mono
from zweistimme.stages.recording import faults


class RecordingState(Enum):
    """What the microphone is for."""

    IDLE = "idle"
    ROOM = "measuring the room"
    BEFORE = "before the line"
    RECORDING = "recording"


def no_microphone() -> str:
    """That there is none, and what to do."""
    return tr("There is no microphone here. Plug one in and open this panel again, or take a sound file for one.")


def busy_words(state: RecordingState, left_s: float, length_s: float, lasts_s: float) -> str:
    """While the room is measured, before the line begins (so many seconds *left*), and while it lasts."""
    if state is RecordingState.ROOM:
        return tr("Be silent for a second …")
    if state is RecordingState.BEFORE:
        return tr("Get ready: recording begins with the line, in {left:.1f} s.", left=max(0.0, left_s))
    return tr(
        "Recording: {lasts:.1f} s; the line lasts {length:.1f} s. Press again to stop.", lasts=lasts_s, length=length_s
    )


def idle_words(recording: Mono | None, *, respoken: bool) -> str:
    """What was recorded, what is wrong with it, and what can be done."""
    if recording is not None:
        said = tr("Recorded {lasts:.1f} s.", lasts=len(recording) / RATE)
        return " ".join([said, *faults(recording), tr("Hear it, keep it, or record again.")])
    if respoken:
        return tr("This line was said again; the recording is kept. Hear it, or record the line anew.")
    return tr(
        "Measure the room once, then record the selected line. Two seconds of what comes before are played first."
    )
