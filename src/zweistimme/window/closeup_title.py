"""What stands over the close-up: the line's number, its lengths, and what the fit did to them."""

from __future__ import annotations

from zweistimme.messages import tr
from zweistimme.project.model import Placement, Segment, Take
from zweistimme.project.times import SECOND_US, samples_to_us

_WORTH_TELLING_US = 10_000


def title_of(number: int, segment: Segment, placed: tuple[Placement, Take] | None) -> str:
    """One line of words about a line; *number* counts from 1."""
    parts = [tr("line {number}", number=number)]
    parts.append(tr("segment {length_s:.2f} s", length_s=(segment.end_us - segment.start_us) / SECOND_US))
    if placed:
        placement, take = placed
        speech = samples_to_us(take.speech_end_samples - take.speech_start_samples) / SECOND_US
        trimmed = samples_to_us(take.length_samples) / SECOND_US - speech
        parts.append(tr("take {speech:.2f} s ({trimmed:.2f} s of silence trimmed)", speech=speech, trimmed=trimmed))
        length_s = placement.length_us / SECOND_US
        parts.append(tr("after fit {length_s:.2f} s at ×{tempo:.2f}", length_s=length_s, tempo=placement.tempo))
        cut_s = placement.pauses_cut_us / SECOND_US
        if placement.pauses_cut_us > _WORTH_TELLING_US:
            parts.append(tr("pauses shortened {by_s:.2f} s", by_s=cut_s))
        elif placement.pauses_cut_us < -_WORTH_TELLING_US:
            parts.append(tr("pauses lengthened {by_s:.2f} s", by_s=-cut_s))
    return " · ".join(parts)
