"""How long something takes, as people say it."""

from __future__ import annotations

from zweistimme.messages import tr


def about_s(seconds: float) -> str:
    """A time that is known roughly.

    >>> about_s(3.2), about_s(48), about_s(100), about_s(5000)
    ('a few seconds', 'about 50 s', 'about 2 min', 'about 1 h 25 min')
    """
    if seconds < 10:
        return tr("a few seconds")
    if seconds < 90:
        return tr("about {tens_s} s", tens_s=round(seconds / 10) * 10)
    minutes = round(seconds / 60)
    if minutes < 60:
        return tr("about {minutes} min", minutes=minutes)
    minutes = round(seconds / 300) * 5
    return (
        tr("about {hours} h {minutes} min", hours=minutes // 60, minutes=minutes % 60)
        if minutes % 60
        else tr("about {hours} h", hours=minutes // 60)
    )


def took_s(seconds: float) -> str:
    """A time that was measured.

    >>> took_s(3.24), took_s(48), took_s(100), took_s(5000)
    ('3.2 s', '48 s', '1 min 40 s', '1 h 23 min')
    """
    if seconds < 60:
        return tr("{seconds:.1f} s", seconds=seconds) if seconds < 10 else tr("{seconds:.0f} s", seconds=seconds)
    minutes, rest = divmod(round(seconds), 60)
    return (
        tr("{minutes} min {seconds} s", minutes=minutes, seconds=rest)
        if minutes < 60
        else tr("{hours} h {minutes} min", hours=minutes // 60, minutes=minutes % 60)
    )
