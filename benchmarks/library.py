"""The usual media library's own filters, for figures to stand beside: they are never used by the product."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

import av
import numpy as np

from zweistimme.project.times import RATE
from zweistimme.sound.arrays import Sound


def through(blocks: Iterable[Sound], name: str, settings: str) -> int:
    """Blocks of shape ``(channels, n)`` at 48 kHz through one filter; how many samples came out."""
    count, graph = 0, None
    place = 0
    for block in blocks:
        layout = "mono" if len(block) == 1 else "stereo"
        if graph is None:
            graph = _graph(name, settings, layout)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), "fltp", layout)
        frame.sample_rate, frame.pts, frame.time_base = RATE, place, Fraction(1, RATE)
        place += block.shape[1]
        graph.push(frame)
        count += _pulled(graph)
    if graph is not None:
        graph.push(None)
        count += _pulled(graph)
    return count


def through_two(blocks: Iterable[Sound], beside: Iterable[Sound], name: str, settings: str) -> int:
    """The same through a filter that hears a second sound beside the first."""
    count = place = 0
    graph = av.filter.Graph()
    ends = [
        graph.add_abuffer(sample_rate=RATE, format="fltp", layout="stereo", time_base=Fraction(1, RATE))
        for _ in range(2)
    ]
    step, sink = graph.add(name, settings), graph.add("abuffersink")
    for number, end in enumerate(ends):
        end.link_to(step, 0, number)
    step.link_to(sink)
    graph.configure()
    for pair in zip(blocks, beside, strict=True):
        for end, block in zip(ends, pair, strict=True):
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), "fltp", "stereo")
            frame.sample_rate, frame.pts, frame.time_base = RATE, place, Fraction(1, RATE)
            end.push(frame)
        place += pair[0].shape[1]
        count += _pulled(graph)
    for end in ends:
        end.push(None)
    return count + _pulled(graph)


def seen_through(path: str, name: str, settings: str) -> int:
    """All pictures of a file, decoded and put through one filter; how many came out."""
    count = 0
    with av.open(path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        graph = av.filter.Graph()
        source, step, sink = graph.add_buffer(template=stream), graph.add(name, settings), graph.add("buffersink")
        source.link_to(step)
        step.link_to(sink)
        graph.configure()
        for frame in container.decode(stream):
            graph.push(frame)
            graph.pull()
            count += 1
    return count


def _graph(name: str, settings: str, layout: str) -> av.filter.Graph:
    graph = av.filter.Graph()
    source = graph.add_abuffer(sample_rate=RATE, format="fltp", layout=layout, time_base=Fraction(1, RATE))
    step, sink = graph.add(name, settings), graph.add("abuffersink")
    source.link_to(step)
    step.link_to(sink)
    graph.configure()
    return graph


def _pulled(graph: av.filter.Graph) -> int:
    count = 0
    while True:
        try:
            count += graph.pull().samples
        except (av.BlockingIOError, av.EOFError):
            return count


def decoded(path: str) -> Iterable[Sound]:
    """The library's own way through a file of sound."""
    with av.open(path) as container:
        for frame in container.decode(container.streams.audio[0]):
            array = frame.to_ndarray()
            planar = array if frame.format.is_planar else array.reshape(-1, len(frame.layout.channels)).T
            yield planar.astype(np.float32) / np.float32(2**31) if planar.dtype == np.int32 else planar
