"""Timecode after SMPTE ST 12-1: hours, minutes, seconds and frames, with the drop-frame count of 29.97 and 59.94."""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Final

from zweistimme.project.errors import EditError
from zweistimme.project.programme import Programme
from zweistimme.project.times import SECOND_US

_FORM: Final = re.compile(r"(-?)(\d{1,2}):([0-5]\d):([0-5]\d)([:;.,])(\d{2,3})")
_DAY_HOURS: Final = 24


def is_timecode(text: str) -> bool:
    """Whether a text has the form of a timecode with frames.

    >>> is_timecode("10:00:00:12"), is_timecode("01:00:00;02"), is_timecode("01:00:00.500")
    (True, True, False)
    """
    match = _FORM.fullmatch(text.strip())
    return match is not None and match.group(5) in ":;"


def drops_frames(text: str) -> bool:
    """Whether a timecode is counted with dropped frames: a semicolon stands before them."""
    return ";" in text


def timecode_frames(text: str, rate: Fraction) -> int:
    """The number of a timecode's frame, counted from 00:00:00:00, at *rate* frames a second; EditError if it is none.

    >>> timecode_frames("00:01:00;02", Fraction(30_000, 1001)), timecode_frames("00:01:00:00", Fraction(25))
    (1800, 1500)
    """
    match = _FORM.fullmatch(text.strip())
    nominal = _nominal(rate)
    if not match or int(match.group(6)) >= nominal:
        raise EditError(
            "“{text}” is not a timecode at {float:.5g} frames a second, such as 10:00:00:12.",
            text=text[:40],
            float=float(rate),
        )
    sign, hours, minutes, seconds, _, frames = match.groups()
    total_minutes = int(hours) * 60 + int(minutes)
    count = (total_minutes * 60 + int(seconds)) * nominal + int(frames)
    if drops_frames(text) and _may_drop(rate):
        count -= _dropped(nominal) * (total_minutes - total_minutes // 10)
    return -count if sign else count


def timecode_us(text: str, rate: Fraction) -> int:
    """The time in microseconds from 00:00:00:00 to a timecode's frame."""
    return round(timecode_frames(text, rate) / rate * SECOND_US)


def timecode_of(frames: int, rate: Fraction, *, drop: bool = False) -> str:
    """The timecode of a frame; after a day it begins anew.

    >>> timecode_of(1800, Fraction(30_000, 1001), drop=True), timecode_of(90_000, Fraction(25))
    ('00:01:00;02', '01:00:00:00')
    """
    nominal = _nominal(rate)
    drop = drop and _may_drop(rate)
    if drop:
        lost = _dropped(nominal)
        ten, one = nominal * 600 - 9 * lost, nominal * 60 - lost
        tens, rest = divmod(frames, ten)
        frames += 9 * lost * tens + (lost * ((rest - lost) // one) if rest >= nominal * 60 else 0)
    seconds, frame = divmod(frames, nominal)
    hours = seconds // 3600 % _DAY_HOURS
    return f"{hours:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}{';' if drop else ':'}{frame:02d}"


def shown_timecode(time_us: int, programme: Programme) -> str:
    """The timecode of a time of the programme, from that of its first picture; without one, from zero."""
    picture = programme.picture
    rate = Fraction(picture.rate_numerator, picture.rate_denominator) if picture else Fraction(25)
    start = timecode_frames(programme.timecode, rate) if is_timecode(programme.timecode) else 0
    frame = start + int(Fraction(time_us, SECOND_US) * rate + Fraction(1, 1000))
    return timecode_of(frame, rate, drop=drops_frames(programme.timecode))


def _nominal(rate: Fraction) -> int:
    return max(1, round(rate))


def _may_drop(rate: Fraction) -> bool:
    return rate.denominator == 1001 and _nominal(rate) % 30 == 0


def _dropped(nominal: int) -> int:
    return nominal // 15
