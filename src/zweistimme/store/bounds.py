"""What the rows of a project may hold: one that somebody sent is read like any hostile file.

Only what would lead out of the folder or overflow is refused. What is merely odd, such as a pin before the programme in
an older project or a programme whose file does not say how long it is, is opened: nobody is shut out of their own work.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, Final

from zweistimme.messages import tr
from zweistimme.project.auditions import Audition
from zweistimme.project.delivery_edits import limits_problem
from zweistimme.project.fit_limits import limits_problem_of_fit
from zweistimme.project.hand_fit import AS_PLANNED, hand_fit_problem
from zweistimme.project.mix_settings import mix_problem
from zweistimme.project.model import AS_USUAL, Line, Manner, Placement, Segment, Take
from zweistimme.project.programme import SoundTrack
from zweistimme.project.sound_delivery import preset_problem

LONGEST_US: Final = 1_000_000_000_000
"""Eleven days; no programme lasts longer."""
_LONGEST_SAMPLES: Final = 48_000 * 86_400
_FASTEST: Final = 1e9
"""A line that was crushed to its pauses is said to be spoken at any tempo."""
_MOST_FACTOR, _MOST_DB, _MOST_SEED = 100.0, 200.0, 2**30
_CLIP: Final = re.compile("[0-9a-f]{64}")
_CHANNELS: Final = re.compile(r"-?[A-Za-z0-9+]*")
_CHECKSUM: Final = re.compile("[0-9a-z-]{1,80}")


def problem_of(type_: type) -> Callable[[Any], str]:
    """What says what is wrong with a row's object of a type, in a few words; empty where nothing is."""
    return _LOOKS.get(type_, _problem_of_head)


def _problem_of_head(value: Any) -> str:
    if not all(map(_speakable, getattr(value, "manners", {}).values())):
        return tr("nobody could speak so")
    if problem := _problem_of_deliveries(value):
        return tr(problem)
    programme = getattr(value, "programme", None)
    tracks = (programme.sound, programme.bed) if programme is not None else ()
    return next(filter(None, map(_problem_of_track, filter(None, tracks))), "")


def _problem_of_deliveries(head: Any) -> str:
    """What is wrong with what captions, mixes and sound files are held to, untranslated."""
    problems = [limits_problem(limits) for limits in getattr(head, "caption_limits", {}).values()]
    mix, presets = getattr(head, "mix", None), getattr(head, "presets", {})
    problems += [mix_problem(mix)] if mix is not None else []
    limits = getattr(head, "limits", None)
    problems += [limits_problem_of_fit(limits)] if limits is not None else []
    if isinstance(presets, dict):
        problems += [preset_problem(name, preset) for name, preset in presets.items()]
    return next(filter(None, problems), "")


def _problem_of_segment(segment: Segment) -> str:
    if not 0 <= segment.start_us < segment.end_us <= LONGEST_US:
        return tr("its times are no times")
    for word in segment.words:
        if not -LONGEST_US <= word.start_us <= LONGEST_US:
            return tr("its times are no times")
    return ""


def _problem_of_line(line: Line) -> str:
    if line.manner is not AS_USUAL and not _speakable(line.manner):
        return tr("nobody could speak so")
    if line.hand is not AS_PLANNED and (problem := hand_fit_problem(line.hand)):
        return tr(problem)
    if not all(pin.word >= 0 and len(pin.said) in (0, 3) for pin in line.word_pins):
        return tr("it is not known which word is held")
    pins = [pin.start_us for pin in (line.pin, *line.word_pins) if pin is not None]
    return "" if all(abs(at) <= LONGEST_US for at in pins) else tr("its pin is nowhere")


def _problem_of_placement(placement: Placement) -> str:
    spans = [(one.start_us, one.length_us) for one in placement.phrases]
    spans.append((placement.start_us, placement.length_us))
    inside = all(abs(start_us) <= LONGEST_US and 0 <= length_us <= LONGEST_US for start_us, length_us in spans)
    inside = inside and all(0 <= one.take_start_samples < one.take_end_samples for one in placement.phrases)
    return "" if inside and 0 <= placement.tempo <= _FASTEST else tr("its times are no times")


def _problem_of_take(take: Take | Audition) -> str:
    order = 0 <= take.speech_start_samples <= take.speech_end_samples <= take.length_samples
    if not order or take.length_samples > _LONGEST_SAMPLES:
        return tr("its length is no length")
    return "" if _CLIP.fullmatch(take.clip) else tr("its clip has no name of a clip")


_LOOKS: Final[dict[type, Callable[[Any], str]]] = {
    Segment: _problem_of_segment,
    Line: _problem_of_line,
    Placement: _problem_of_placement,
    Take: _problem_of_take,
    Audition: _problem_of_take,
}
"""Rows of which a project may have tens of thousands."""


def _speakable(manner: Manner) -> bool:
    factors = 0 < manner.rate <= _MOST_FACTOR and 0 < manner.pitch <= _MOST_FACTOR
    return factors and abs(manner.volume_db) <= _MOST_DB and 0 <= manner.seed <= _MOST_SEED


def _problem_of_track(track: SoundTrack) -> str:
    if not _CHECKSUM.fullmatch(track.checksum) or not _CHANNELS.fullmatch(track.pick.channels):
        return tr("its sound has no checksum")
    return "" if 0 <= track.duration_us <= LONGEST_US else tr("its sound has no length")
