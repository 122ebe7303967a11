"""Requests with places in them, such as ``{text}``, filled with what is asked."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from typing import Any, Final
from urllib.parse import quote

_PLACE: Final = re.compile(r"\{([a-z_0-9]+)\}")
_LEFT_OUT: Final = object()


def places_in(template: Any) -> set[str]:
    """The names of all places.

    >>> sorted(places_in({"a": "{text}", "b": ["x {voice}", 3]}))
    ['text', 'voice']
    """
    if isinstance(template, str):
        return set(_PLACE.findall(template))
    if isinstance(template, Mapping):
        return set().union(*map(places_in, template.values()))
    if isinstance(template, list | tuple):
        return set().union(*map(places_in, template))
    if is_dataclass(template):
        return set().union(*(places_in(getattr(template, one.name)) for one in fields(template)))
    return set()


def filled(template: Any, values: Mapping[str, Any]) -> Any:
    """The template as it is sent. A text that is one place becomes the value itself, a number or a list; a field whose
    value is None is left out.

    >>> filled({"q": "{texts}", "speed": "{rate}", "as": "{tier}"}, {"texts": ["a"], "rate": 1.2, "tier": None})
    {'q': ['a'], 'speed': 1.2}
    """
    if isinstance(template, str):
        whole = _PLACE.fullmatch(template)
        if whole:
            value = values[whole.group(1)]
            return _LEFT_OUT if value is None else value
        return _PLACE.sub(lambda match: as_text(values[match.group(1)]), template)
    if isinstance(template, Mapping):
        made = {name: filled(inner, values) for name, inner in template.items()}
        return {name: value for name, value in made.items() if value is not _LEFT_OUT}
    if isinstance(template, list | tuple):
        return [value for inner in template if (value := filled(inner, values)) is not _LEFT_OUT]
    return template


def filled_texts(template: Mapping[str, str], values: Mapping[str, Any]) -> dict[str, str]:
    """A form, a query or headers, whose values are texts."""
    return {name: as_text(value) for name, value in filled(template, values).items()}


def filled_path(path: str, values: Mapping[str, Any]) -> str:
    """A path, whose values are escaped."""
    return _PLACE.sub(lambda match: quote(as_text(values[match.group(1)]), safe=""), path)


def as_text(value: Any) -> str:
    """A value as it stands in a text."""
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:g}"
    return ",".join(map(as_text, value)) if isinstance(value, list | tuple) else str(value)
