"""Dragging on the Score: what lies under the pointer, and what a drag would change."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from PyQt6.QtCore import QPointF

from zweistimme.window.score.geometry import Card, CardIndex, header
from zweistimme.window.score.painting import Scene, card_rect

_REACH = 5.0


class Grip(Enum):
    """What was taken hold of."""

    START = "the segment's start"
    END = "the segment's end"
    TAKE = "the take"


@dataclass(frozen=True, slots=True)
class Drag:
    """A drag under way: times in microseconds."""

    grip: Grip
    segment_id: str
    origin_us: float
    start_us: int
    end_us: int

    def moved(self, to_us: float) -> tuple[int, int]:
        """The interval if the pointer is let go at *to_us*."""
        by = round((to_us - self.origin_us) / 1000) * 1000
        if self.grip is Grip.START:
            return min(self.start_us + by, self.end_us - 100_000), self.end_us
        if self.grip is Grip.END:
            return self.start_us, max(self.end_us + by, self.start_us + 100_000)
        start = max(0, self.start_us + by)
        return start, start + self.end_us - self.start_us


def card_at(scene: Scene, index: CardIndex, column: tuple[float, float], at: QPointF) -> Card | None:
    """The card of a column under the pointer."""
    if at.y() < header() or not column[0] <= at.x() <= column[0] + column[1]:
        return None
    time = round(scene.scale.time(at.y()))
    slack = round(_REACH * 1_000_000 / scene.scale.pixels_per_second)
    near = index.within(time - slack, time + slack + 1)
    inside = [card for card in near if card_rect(scene, card, column).adjusted(0, -_REACH, 0, _REACH).contains(at)]
    return min(inside, key=lambda card: abs((card.start_us + card.end_us) / 2 - time), default=None)


def drag_at(scene: Scene, originals: CardIndex, dubs: CardIndex, at: QPointF) -> Drag | None:
    """What a press here would take hold of, if anything."""
    time = scene.scale.time(at.y())
    for column in (scene.columns.original, scene.columns.original_wave):
        card = card_at(scene, originals, column, at)
        if card is not None:
            rect = card_rect(scene, card, column)
            for grip, edge in ((Grip.START, rect.top()), (Grip.END, scene.scale.y(card.end_us))):
                if abs(at.y() - edge) <= _REACH:
                    return Drag(grip, card.segment.id, time, card.start_us, card.end_us)
    card = card_at(scene, dubs, scene.columns.dub_wave, at)
    if card is not None and scene.desk.placed(card.segment.id):
        return Drag(Grip.TAKE, card.segment.id, time, card.start_us, card.end_us)
    return None
