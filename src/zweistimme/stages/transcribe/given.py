"""A transcript from captions or from a script with times."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from zweistimme.formats.captions import Cue
from zweistimme.project.errors import FormatError, MediaError
from zweistimme.project.model import Segment, Speaker
from zweistimme.project.times import clock
from zweistimme.project.transcript import set_transcript
from zweistimme.stages.work import Work

UNNAMED = "Speaker A"


def transcript_from_cues(work: Work, cues: Sequence[Cue], source: Path) -> None:
    """Replace the transcript by *cues*. Unnamed cues keep the speaker before them, or are all one speaker."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme yet. Bring one in before its captions.")
    length = programme.sound.duration_us
    inside = [cue for cue in cues if cue.start_us < length - 50_000]
    if not inside:
        raise FormatError(
            f"All captions of {source} start after the programme ends ({clock(length)}). Is it the right file?"
        )
    if len(inside) < len(cues):
        late = len(cues) - len(inside)
        work.say(
            f"{late} caption{'s' if late > 1 else ''} of {source.name} start after the programme ends and are left out."
        )
    cut = sum(1 for cue in inside if cue.end_us > length)
    if cut:
        work.say(
            f"{cut} caption{'s' if cut > 1 else ''} of {source.name} ended after the programme; they now end with it."
        )
    ids: dict[str, str] = {}
    segments, name = [], UNNAMED
    for number, cue in enumerate(inside, 1):
        name = cue.speaker or name
        speaker = ids.setdefault(name, f"p{len(ids) + 1}")
        text = " ".join(cue.text.split())
        seen = programme.picture is not None
        segments.append(Segment(f"s{number:04d}", speaker, cue.start_us, min(cue.end_us, length), text, on_screen=seen))
    speakers = [Speaker(key, label) for label, key in ids.items()]
    work.deliver(f"Transcript from {source.name}", lambda project: set_transcript(project, speakers, segments))
