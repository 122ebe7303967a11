"""The demo's picture, drawn with arrays: sky, a sea that rises and falls, the clock tower, a lantern, people."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import numpy as np
import numpy.typing as npt

from zweistimme.demo.script import DURATION_S, placed_lines
from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Floats, framed

WIDTH, HEIGHT, FRAMES_PER_SECOND = 640, 360, 25
Image = npt.NDArray[np.float32]

_Y, _X = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
_COATS: Final = {"Mira": (0.22, 0.36, 0.50), "Tobin": (0.42, 0.36, 0.18), "Juna": (0.36, 0.22, 0.42)}
_SKIN: Final = {"Mira": (0.86, 0.70, 0.58), "Tobin": (0.82, 0.66, 0.55), "Juna": (0.70, 0.52, 0.40)}
_PLACES: Final = {"Tobin": (196.0, 1.06), "Juna": (446.0, 0.94)}


def frames() -> Iterator[npt.NDArray[np.uint8]]:
    """Every frame, RGB, shape ``(360, 640, 3)``."""
    mouths = {name: _mouth(name) for name in ("Tobin", "Juna")}
    tower = _tower()
    for number in range(round(DURATION_S * FRAMES_PER_SECOND)):
        seconds = number / FRAMES_PER_SECOND
        image = _sky(seconds)
        image = image * (1 - tower[..., 3:]) + tower[..., :3] * tower[..., 3:]
        _clock_hands(image, seconds)
        _sea(image, seconds)
        _quay(image)
        _lantern(image, seconds)
        for name, (x, size) in _PLACES.items():
            _figure(image, name, x, size, float(mouths[name][number]), seconds)
        yield (np.clip(image, 0, 1) * 255).astype(np.uint8)


def _mouth(name: str) -> Floats:
    """How far a mouth is open in each frame, 0..1, from the level of the speech."""
    count = round(DURATION_S * FRAMES_PER_SECOND)
    opening = np.zeros(count + 4)
    step = RATE // FRAMES_PER_SECOND
    for placed in placed_lines():
        if placed.line.speaker != name or not placed.line.on_screen:
            continue
        level = np.sqrt((framed(placed.samples, step, step).astype(np.float64) ** 2).mean(axis=1))
        start = round(placed.clip_start * FRAMES_PER_SECOND)
        opening[start : start + len(level)] = np.maximum(opening[start : start + len(level)], level / level.max())
    return opening[:count]


def _paint(image: Image, shape: Image, colour: tuple[float, float, float], box: tuple[slice, slice]) -> None:
    """Lay a colour over part of an image; *shape* is 0..1 over *box*."""
    part = image[box]
    part += (np.array(colour, dtype=np.float32) - part) * shape[..., None]


def _box(x0: float, y0: float, x1: float, y1: float) -> tuple[slice, slice]:
    return (
        slice(max(0, int(y0) - 2), min(HEIGHT, int(y1) + 3)),
        slice(max(0, int(x0) - 2), min(WIDTH, int(x1) + 3)),
    )


def _ellipse(image: Image, x: float, y: float, rx: float, ry: float, colour: tuple[float, float, float]) -> None:
    box = _box(x - rx, y - ry, x + rx, y + ry)
    distance = np.sqrt(((_X[box] - x) / rx) ** 2 + ((_Y[box] - y) / ry) ** 2)
    _paint(image, np.clip((1 - distance) * min(rx, ry) + 0.5, 0, 1), colour, box)


def _rectangle(image: Image, x0: float, y0: float, x1: float, y1: float, colour: tuple[float, float, float]) -> None:
    box = _box(x0, y0, x1, y1)
    inside = np.minimum.reduce([_X[box] - x0, x1 - _X[box], _Y[box] - y0, y1 - _Y[box]])
    _paint(image, np.clip(inside + 0.5, 0, 1), colour, box)


def _bar(
    image: Image, x0: float, y0: float, x1: float, y1: float, width: float, colour: tuple[float, float, float]
) -> None:
    box = _box(min(x0, x1) - width, min(y0, y1) - width, max(x0, x1) + width, max(y0, y1) + width)
    dx, dy = x1 - x0, y1 - y0
    along = np.clip(((_X[box] - x0) * dx + (_Y[box] - y0) * dy) / (dx * dx + dy * dy), 0, 1)
    distance = np.hypot(_X[box] - x0 - along * dx, _Y[box] - y0 - along * dy)
    _paint(image, np.clip(width / 2 - distance + 0.5, 0, 1), colour, box)


def _sky(seconds: float) -> Image:
    dusk = np.float32(seconds / DURATION_S)
    top = np.array([0.66, 0.75, 0.82], np.float32) * (1 - dusk) + np.array([0.24, 0.29, 0.42], np.float32) * dusk
    low = np.array([0.96, 0.88, 0.76], np.float32) * (1 - dusk) + np.array([0.86, 0.56, 0.42], np.float32) * dusk
    share = np.clip(np.arange(HEIGHT, dtype=np.float32) / 220, 0, 1)[:, None, None]
    return np.repeat(top * (1 - share) + low * share, WIDTH, axis=1).astype(np.float32)


def _tower() -> Image:
    image = np.zeros((HEIGHT, WIDTH, 3), dtype=np.float32)
    before = image.copy()
    _rectangle(image, 274, 70, 366, 300, (0.37, 0.28, 0.22))
    _rectangle(image, 266, 62, 374, 74, (0.29, 0.21, 0.16))
    _bar(image, 320, 24, 320, 62, 5, (0.29, 0.21, 0.16))
    for row in range(6):
        _rectangle(
            image,
            282 + (row % 2) * 8,
            172 + row * 18,
            300 + (row % 2) * 8,
            178 + row * 18,
            (0.32, 0.24, 0.19),
        )
        _rectangle(
            image,
            330 - (row % 2) * 8,
            180 + row * 18,
            350 - (row % 2) * 8,
            186 + row * 18,
            (0.32, 0.24, 0.19),
        )
    _ellipse(image, 320, 122, 40, 40, (0.22, 0.15, 0.11))
    _ellipse(image, 320, 122, 35, 35, (0.95, 0.91, 0.80))
    for hour in range(12):
        angle = hour * np.pi / 6
        _bar(
            image,
            320 + 28 * np.sin(angle),
            122 - 28 * np.cos(angle),
            320 + 32 * np.sin(angle),
            122 - 32 * np.cos(angle),
            2.4,
            (0.2, 0.16, 0.14),
        )
    covered = (np.abs(image - before).sum(axis=2, keepdims=True) > 0).astype(np.float32)
    return np.concatenate((image, covered), axis=2)


def _clock_hands(image: Image, seconds: float) -> None:
    minutes = 350 + seconds / 85 * 14  # ten to six, and on past six
    for angle, length, width in ((minutes / 60 * 2 * np.pi, 27, 2.6), (minutes / 720 * 2 * np.pi, 18, 3.8)):
        _bar(
            image,
            320,
            122,
            320 + length * np.sin(angle),
            122 - length * np.cos(angle),
            width,
            (0.16, 0.13, 0.13),
        )
    _ellipse(image, 320, 122, 3, 3, (0.66, 0.29, 0.16))


def _sea(image: Image, seconds: float) -> None:
    level = 246 - 20 * np.sin(2 * np.pi * seconds / 85 - 1.2)
    rows = slice(int(level) - 6, HEIGHT)
    wave = level + 2.2 * np.sin(_X[rows] / 34 + seconds * 1.1) + 1.4 * np.sin(_X[rows] / 13 - seconds * 1.7)
    depth = np.clip((_Y[rows] - level) / 120, 0, 1)[..., None]
    water = np.array([0.36, 0.50, 0.56], np.float32) * (1 - depth) + np.array([0.15, 0.26, 0.33], np.float32) * depth
    crest = 0.10 * np.clip(1 - np.abs((_Y[rows] - wave) % 26 - 4) / 1.6, 0, 1)[..., None]
    shape = np.clip(_Y[rows] - wave + 0.5, 0, 1)[..., None] * 0.94
    image[rows] += (water + crest - image[rows]) * shape


def _quay(image: Image) -> None:
    _rectangle(image, 0, 326, WIDTH, HEIGHT, (0.26, 0.23, 0.22))
    _rectangle(image, 0, 322, WIDTH, 328, (0.40, 0.36, 0.33))
    for step in range(4):
        _rectangle(
            image,
            268 - step * 10,
            296 + step * 8,
            372 + step * 10,
            306 + step * 8,
            (0.44 - step * 0.03, 0.40 - step * 0.03, 0.37 - step * 0.03),
        )


def _lantern(image: Image, seconds: float) -> None:
    sway = 2.5 * np.sin(seconds * 1.4)
    _bar(image, 560, 190, 560, 324, 4, (0.20, 0.17, 0.16))
    _bar(image, 560, 192, 540 + sway, 198, 3, (0.20, 0.17, 0.16))
    box = _box(470, 150, 620, 290)
    glow = np.exp(-((_X[box] - 540 - sway) ** 2 + (_Y[box] - 214) ** 2) / 1500) * (0.35 + 0.04 * np.sin(seconds * 7))
    _paint(image, glow.astype(np.float32), (1.0, 0.84, 0.5), box)
    _rectangle(image, 532 + sway, 202, 548 + sway, 226, (1.0, 0.88, 0.58))


def _figure(image: Image, name: str, x: float, size: float, mouth: float, seconds: float) -> None:
    sway = 1.5 * np.sin(seconds * 0.8 + x)
    x, foot = x + sway, 344.0
    head = foot - 128 * size
    _ellipse(image, x, foot - 52 * size, 30 * size, 60 * size, _COATS[name])
    _rectangle(image, x - 27 * size, foot - 40 * size, x + 27 * size, foot + 4, _COATS[name])
    _rectangle(image, x - 6 * size, head + 14 * size, x + 6 * size, head + 30 * size, _SKIN[name])
    _ellipse(image, x, head, 17 * size, 21 * size, _SKIN[name])
    if name == "Tobin":
        _ellipse(image, x, head + 17 * size, 13 * size, 9 * size, (0.80, 0.78, 0.74))
        _rectangle(image, x - 18 * size, head - 22 * size, x + 18 * size, head - 12 * size, (0.18, 0.20, 0.26))
        _rectangle(image, x - 22 * size, head - 13 * size, x + 14 * size, head - 9 * size, (0.13, 0.15, 0.20))
    else:
        _ellipse(image, x, head - 10 * size, 19 * size, 14 * size, (0.16, 0.10, 0.09))
        _ellipse(image, x + 15 * size, head + 6 * size, 7 * size, 18 * size, (0.16, 0.10, 0.09))
        _ellipse(image, x, head + 3 * size, 14 * size, 16 * size, _SKIN[name])
    shut = seconds % 4.1 < 0.12
    for side in (-1, 1):
        _ellipse(
            image,
            x + side * 6 * size,
            head - 1 * size,
            1.9 * size,
            0.8 if shut else 2.3 * size,
            (0.10, 0.09, 0.09),
        )
    _ellipse(
        image,
        x,
        head + 10.5 * size,
        (4.6 + 1.4 * mouth) * size,
        (0.9 + 5.2 * mouth) * size,
        (0.38, 0.12, 0.11),
    )
