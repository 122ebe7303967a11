"""Times are whole microseconds; the numeric core gets whole samples. Intervals are half-open, ``[start, end)``.

Two conversions, both rounding to the nearest, so that nothing ever accumulates:

>>> us_to_samples(1_000_000)
48000
>>> samples_to_us(48_001)
1000021
"""

from __future__ import annotations

SECOND_US = 1_000_000
RATE = 48_000
"""The rate, in samples a second, of all sound inside the desk."""


def us_to_samples(time_us: int, rate: int = RATE) -> int:
    """The sample nearest to *time_us* microseconds."""
    return (time_us * rate + SECOND_US // 2) // SECOND_US


def samples_to_us(samples: int, rate: int = RATE) -> int:
    """The microsecond nearest to *samples*."""
    return (samples * SECOND_US + rate // 2) // rate


def seconds_to_us(seconds: float) -> int:
    """Seconds as whole microseconds."""
    return round(seconds * SECOND_US)


def clock(time_us: int, decimals: int = 1) -> str:
    """A time as people read it, from minutes to hours.

    >>> clock(31_320_000), clock(3_671_320_000, 3), clock(-500_000)
    ('0:31.3', '1:01:11.320', '-0:00.5')
    """
    scale = 10**decimals
    ticks = (abs(time_us) * scale + SECOND_US // 2) // SECOND_US
    seconds, fraction = divmod(ticks, scale)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    head = f"{hours}:{minutes:02d}" if hours else f"{minutes}"
    tail = f".{fraction:0{decimals}d}" if decimals else ""
    return f"{'-' if time_us < 0 else ''}{head}:{seconds:02d}{tail}"
