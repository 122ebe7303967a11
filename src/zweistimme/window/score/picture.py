"""The Score painted: all but the playhead, from a picture that is kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPixmap

from zweistimme.window.score import cards, overlay, painting
from zweistimme.window.score.geometry import Card, CardIndex, header
from zweistimme.window.theme import colour
from zweistimme.window.trial_fit import Ghost

_PALE = 0.3


@dataclass(frozen=True, slots=True)
class Layers:
    """What is painted: the cards of both sides, what is being dragged (a stretch of
    time in microseconds, and whether it is a take), where else it could be put, whether the Score has the keyboard."""

    originals: CardIndex
    dubs: CardIndex
    ghost: tuple[tuple[int, int], bool] | None
    ghosts: Sequence[Ghost]
    focused: bool


class Picture:
    """What is painted in part has not changed but for the playhead: it comes from the picture of the last time."""

    def __init__(self) -> None:
        self._kept: QPixmap | None = None

    def paint(self, painter: QPainter, scene: painting.Scene, layers: Layers, part: QRect | None) -> None:
        """Paint all of it anew, or a *part* as it was."""
        if part is None:
            self._kept = None
            _paint(painter, scene, layers)
            return
        size = QSize(scene.width, scene.height) * scene.ratio
        if self._kept is None or self._kept.size() != size:
            self._kept = QPixmap(size)
            self._kept.setDevicePixelRatio(scene.ratio)
            _paint(QPainter(self._kept), scene, layers)
        painter.setClipRect(part)
        painter.drawPixmap(0, 0, self._kept)


def _strength(scene: painting.Scene, card: Card) -> float:
    """Lines that are not looked at are pale."""
    return 1.0 if scene.desk.sifting.keeps(card.segment.id) else _PALE


def _paint(painter: QPainter, scene: painting.Scene, layers: Layers) -> None:
    """All but the playhead."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, scene.width, scene.height), colour("paper"))
    painting.paint_ruler(painter, scene)
    start, end = round(scene.scale.time(header())), round(scene.scale.time(scene.height)) + 1
    originals, dubs = layers.originals.within(start, end), layers.dubs.within(start, end)
    painter.save()
    painter.setClipRect(QRectF(0, header(), scene.width, scene.height - header()), Qt.ClipOperation.IntersectClip)
    painting.paint_cuts(painter, scene, start, end)
    painting.paint_original_wave(painter, scene, originals)
    tied = {card.segment.id: card for card in (*originals, *dubs)}
    for card in tied.values():
        placed = scene.desk.placed(card.segment.id)
        if placed:
            painting.paint_ribbon(painter, scene, layers.originals.of(card.place), placed[0])
    for card in dubs:
        placed = scene.desk.placed(card.segment.id)
        if placed:
            painting.paint_dub_wave(painter, scene, card, *placed)
        painter.setOpacity(_strength(scene, card))
        cards.paint_dub_card(painter, scene, card)
        painter.setOpacity(1.0)
    painting.paint_regions(painter, scene, start, end)
    for card in originals:
        painter.setOpacity(_strength(scene, card))
        cards.paint_original_card(painter, scene, card)
    painter.setOpacity(1.0)
    overlay.paint_places(painter, scene, layers.ghosts)
    if layers.ghost is not None:
        overlay.paint_ghost(painter, scene, layers.ghost[0], over_take=layers.ghost[1])
    painter.restore()
    overlay.paint_header(painter, scene, focused=layers.focused)
