"""Packets of a source on the way into another file: on one clock from zero, each with the time it is decoded at."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Mapping
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from zweistimme.media.clock import StampClock, may_jump
from zweistimme.media.coded_picture import PictureChecksum

if TYPE_CHECKING:
    from av.container import InputContainer

Timed = tuple[int, Any]
"""When a packet is due, in microseconds, and the packet."""


def due_us(packet: Any) -> int:
    """When a packet is decoded, on the clock of its file."""
    base = packet.time_base
    return int((packet.dts or 0) * base.numerator * 1_000_000 // base.denominator)


def copied(
    given: InputContainer,
    targets: Mapping[int, Any],
    origin: Fraction,
    checksum: PictureChecksum | None = None,
    until_s: float | None = None,
) -> Iterator[Timed]:
    """The packets of all tracks in *targets* (source index to track of the copy), in order of time.

    Some files give no decoding times for their first pictures; they are worked out from those that follow, for a
    picture that is left out takes all with it that build on it.
    """
    clock = StampClock(origin, may_jump(given))
    lanes = {index: _Lane(targets[index]) for index in targets}
    shifts: dict[int, Fraction] = {}
    picture = next((index for index in targets if given.streams[index].type == "video"), None)
    latest, until_us = 0, None if until_s is None else round(until_s * 1_000_000)
    for packet in given.demux():
        lane, base = lanes.get(packet.stream_index), packet.time_base
        if packet.size == 0 or base is None:
            continue
        stamp = packet.dts if packet.dts is not None else packet.pts
        if stamp is not None and packet.stream.type in ("audio", "video"):
            base_s = float(base)
            duration_s = (packet.duration or 0) * base_s
            shifts[packet.stream_index] = clock.shift(packet.stream_index, stamp * base_s, duration_s)
        if lane is None or (stamp is None and packet.stream.type == "subtitle"):
            continue
        if checksum is not None and packet.stream_index == picture:
            checksum.add(packet)
        shift = shifts.get(packet.stream_index)
        if shift is None:
            shift = next(iter(shifts.values()), -origin)
        for ready in lane.add(packet, lane.in_steps(shift, base)):
            latest = max(latest, due_us(ready))
            yield latest, ready
            if until_us is not None and latest > until_us:
                return
    yield from heapq.merge(*(_timed(lane.finish(), latest) for lane in lanes.values()), key=lambda timed: timed[0])


def _timed(packets: Iterator[Any], latest: int) -> Iterator[Timed]:
    for packet in packets:
        latest = max(latest, due_us(packet))
        yield latest, packet


class _Lane:
    """The packets of one track, held back until it is known when the first is decoded."""

    def __init__(self, target: Any) -> None:
        self._target = target
        self._shift: Fraction | None = None
        self._steps = 0
        self._waiting: list[Any] = []
        self._last: int | None = None

    def in_steps(self, shift: Fraction, base: Fraction) -> int:
        """A shift in steps of the track's clock; it is nearly always that of the packet before."""
        if shift is not self._shift:
            self._shift, self._steps = shift, round(shift / base)
        return self._steps

    def add(self, packet: Any, shift: int) -> Iterator[Any]:
        packet.pts = None if packet.pts is None else packet.pts + shift
        packet.dts = None if packet.dts is None else packet.dts + shift
        packet.stream = self._target
        if packet.dts is None and self._last is None:
            self._waiting.append(packet)
            return
        first, step = packet.dts, max(1, packet.duration or 1)
        for behind, early in enumerate(reversed(self._waiting), 1):
            early.dts = first - behind * step if first is not None else None
        yield from map(self._in_order, [*self._waiting, packet])
        self._waiting = []

    def finish(self) -> Iterator[Any]:
        """What is left of a track of which no packet says when it is decoded: in order of what is shown."""
        shown = sorted(packet.pts for packet in self._waiting if packet.pts is not None)
        delay = max(
            (place - shown.index(p.pts) for place, p in enumerate(self._waiting) if p.pts is not None), default=0
        )
        step = max(1, self._waiting[0].duration or 1) if self._waiting else 1
        for packet, time in zip(self._waiting, shown, strict=False):
            packet.dts = time - delay * step
            yield self._in_order(packet)

    def _in_order(self, packet: Any) -> Any:
        """Decoding times rise, and nothing is shown before it is decoded."""
        wanted = packet.dts if packet.dts is not None else (packet.pts if packet.pts is not None else self._last or 0)
        if self._last is not None and wanted <= self._last:
            wanted = self._last + 1
        self._last = packet.dts = wanted
        if packet.pts is not None and packet.pts < wanted:
            packet.pts = wanted
        return packet
