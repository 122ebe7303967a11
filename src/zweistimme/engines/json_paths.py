"""Finding things in somebody else's JSON: JMESPath, and times in whatever unit they are named with."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

_UNITS: Final = {"_us": 1, "_ms": 1_000, "_s": 1_000_000}
_LONGEST_US: Final = 10**15


class JsonPath:
    """A JMESPath expression (jmespath.org); ValueError if it is none."""

    def __init__(self, text: str) -> None:
        import jmespath
        from jmespath.exceptions import JMESPathError

        try:
            self._path = jmespath.compile(text)
        except JMESPathError as error:
            raise ValueError(str(error).splitlines()[0]) from None

    def of(self, data: Any) -> Any:
        """What is there; None if nothing is."""
        from jmespath.exceptions import JMESPathError

        try:
            return self._path.search(data)
        except JMESPathError:  # a function that does not fit what is there
            return None


def in_microseconds(value: Any) -> Any:
    """JSON in which times named ``start_s`` or ``start_ms`` are ``start_us``, and nothing is there that is null.

    >>> in_microseconds({"text": "Ja", "start_s": 0.25, "speaker": None})
    {'text': 'Ja', 'start_us': 250000}
    """
    if isinstance(value, list):
        return [in_microseconds(one) for one in value]
    if not isinstance(value, Mapping):
        return value
    made: dict[str, Any] = {}
    for name, inner in value.items():
        if inner is None:
            continue
        stem, unit = _unit(name)
        time = _number(inner) if unit else None
        if unit and time is not None and abs(time * unit) < _LONGEST_US:
            made[f"{stem}_us"] = round(time * unit)
        else:
            made[name] = in_microseconds(inner)
    return made


def _unit(name: str) -> tuple[str, int]:
    for ending, unit in _UNITS.items():
        if name.endswith(ending):
            return name.removesuffix(ending), unit
    return name, 0


def _number(value: Any) -> float | None:
    """Times come as numbers, and as text such as "1.25" or "1.25s"."""
    try:
        return float(value.removesuffix("s")) if isinstance(value, str) else float(value)
    except (TypeError, ValueError, OverflowError):
        return None
