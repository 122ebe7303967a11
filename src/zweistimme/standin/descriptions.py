"""The describing stand-in: it sees light, colour, movement and cuts, and says so. It knows no things; it lets what uses
descriptions be tried.
"""

from __future__ import annotations

import base64
import binascii
import io
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.engines.extra_roles import Description, DescriptionRequest
from zweistimme.project.errors import EngineError
from zweistimme.project.writing import words_in
from zweistimme.standin.text import language_of

_SIZE: Final = (96, 54)
_MOVES, _CUTS = 0.02, 0.12
"""Mean difference between two pictures, of their full range, from which they move, and from which there was a cut."""
_COLOURFUL: Final = 0.18
_HUES: Final = ("red", "yellow", "green", "cyan", "blue", "magenta")
_SAYINGS: Final = {
    "en": {
        "light": ("It is dark.", "The light is dim.", "It is light.", "It is very bright."),
        "grey": "There is hardly any colour.",
        "hue": {"red": "Red prevails.", "yellow": "Yellow prevails.", "green": "Green prevails.",
                "cyan": "Blue-green prevails.", "blue": "Blue prevails.", "magenta": "Purple prevails."},
        "still": "Nothing moves.", "moves": "There is movement.",
        "cut": "The picture changes.", "cuts": "The picture changes {count} times.",
        "darker": "It grows darker.", "brighter": "It grows lighter.",
    },
    "de": {
        "light": ("Es ist dunkel.", "Das Licht ist matt.", "Es ist hell.", "Es ist sehr hell."),
        "grey": "Es gibt kaum Farbe.",
        "hue": {"red": "Rot herrscht vor.", "yellow": "Gelb herrscht vor.", "green": "Grün herrscht vor.",
                "cyan": "Blaugrün herrscht vor.", "blue": "Blau herrscht vor.", "magenta": "Violett herrscht vor."},
        "still": "Nichts bewegt sich.", "moves": "Es bewegt sich etwas.",
        "cut": "Das Bild wechselt.", "cuts": "Das Bild wechselt {count}-mal.",
        "darker": "Es wird dunkler.", "brighter": "Es wird heller.",
    },
    "es": {
        "light": ("Está oscuro.", "La luz es tenue.", "Hay luz.", "Hay mucha luz."),
        "grey": "Apenas hay color.",
        "hue": {"red": "Domina el rojo.", "yellow": "Domina el amarillo.", "green": "Domina el verde.",
                "cyan": "Domina el turquesa.", "blue": "Domina el azul.", "magenta": "Domina el violeta."},
        "still": "Nada se mueve.", "moves": "Algo se mueve.",
        "cut": "La imagen cambia.", "cuts": "La imagen cambia {count} veces.",
        "darker": "Oscurece.", "brighter": "Aclara.",
    },
}  # fmt: skip
LANGUAGES: Final = tuple(_SAYINGS)
Image = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class _Seen:
    """What is measured of all pictures: light at the beginning and the end (0..1), colour, movement, cuts."""

    light: float
    light_after: float
    hue: str
    moves: bool
    cuts: int


def described(request: DescriptionRequest) -> Description:
    """As much as fits into the words asked for, and shorter ways to say it."""
    sayings = _SAYINGS.get(language_of(request.language))
    if sayings is None:
        raise EngineError(
            "The bundled engine describes nothing in {language}; it knows {there}.",
            language=request.language,
            there=", ".join(LANGUAGES),
        )
    seen = _seen([_image(picture.image, number) for number, picture in enumerate(request.pictures, 1)])
    said = _said(seen, sayings)
    texts = []
    for count in range(len(said), 0, -1):
        text = " ".join(said[:count])
        if len(words_in(text, request.language)) <= request.longest_words:
            texts.append(text)
    if not texts:
        raise EngineError("{count} words are too few to say anything in.", count=request.longest_words)
    return Description(tuple(texts))


def _image(data: str, number: int) -> Image:
    """A small picture, shape ``(h, w, 3)``, 0..1."""
    import av

    try:
        with av.open(io.BytesIO(base64.b64decode(data, validate=True)), "r") as container:
            frame = next(container.decode(video=0))
            small = frame.reformat(*_SIZE, format="rgb24").to_ndarray()
    except (binascii.Error, ValueError, StopIteration, IndexError, av.error.FFmpegError):
        raise EngineError("Picture {number} is neither PNG nor JPEG.", number=number) from None
    return np.asarray(small, dtype=np.float32) / 255.0


def _seen(images: list[Image]) -> _Seen:
    mean = np.mean([image.mean(axis=(0, 1)) for image in images], axis=0)
    changes = [float(np.abs(b - a).mean()) for a, b in pairwise(images)]
    return _Seen(
        float(images[0].mean()),
        float(images[-1].mean()),
        _hue(mean),
        any(_MOVES < change <= _CUTS for change in changes),
        sum(change > _CUTS for change in changes),
    )


def _hue(colour: npt.NDArray[np.float32]) -> str:
    """The name of the hue of a mean colour; empty if it is grey."""
    import colorsys

    hue, saturation, _ = colorsys.rgb_to_hsv(*map(float, colour))
    return _HUES[round(hue * 6) % 6] if saturation > _COLOURFUL else ""


def _said(seen: _Seen, sayings: Mapping[str, Collection[str]]) -> list[str]:
    light, hues = sayings["light"], sayings["hue"]
    assert isinstance(light, tuple)
    assert isinstance(hues, dict)
    said = [light[min(3, int(seen.light * 4))]]
    if seen.cuts:
        said.append(str(sayings["cut" if seen.cuts == 1 else "cuts"]).format(count=seen.cuts))
    else:
        said.append(str(sayings["moves" if seen.moves else "still"]))
    said.append(hues[seen.hue] if seen.hue else str(sayings["grey"]))
    if abs(seen.light_after - seen.light) > _CUTS:
        said.append(str(sayings["darker" if seen.light_after < seen.light else "brighter"]))
    return said
