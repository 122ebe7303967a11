"""How long something takes, as people say it."""

from __future__ import annotations


def about_s(seconds: float) -> str:
    """A time that is known roughly.

    >>> about_s(3.2), about_s(48), about_s(100), about_s(5000)
    ('a few seconds', 'about 50 s', 'about 2 min', 'about 1 h 25 min')
    """
    if seconds < 10:
        return "a few seconds"
    if seconds < 90:
        return f"about {round(seconds / 10) * 10} s"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"about {minutes} min"
    minutes = round(seconds / 300) * 5
    return f"about {minutes // 60} h {minutes % 60} min" if minutes % 60 else f"about {minutes // 60} h"


def took_s(seconds: float) -> str:
    """A time that was measured.

    >>> took_s(3.24), took_s(48), took_s(100), took_s(5000)
    ('3.2 s', '48 s', '1 min 40 s', '1 h 23 min')
    """
    if seconds < 60:
        return f"{seconds:.1f} s" if seconds < 10 else f"{seconds:.0f} s"
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest} s" if minutes < 60 else f"{minutes // 60} h {minutes % 60} min"
