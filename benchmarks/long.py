"""The desk with ten thousand segments: opening, editing, painting. What an edit takes until it is painted."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from benchmarks.timing import Row, Rows
from zweistimme.demo.script import MEDIA, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.peaks import PEAKS_PER_SECOND, kept_peaks, peaks_of
from zweistimme.project.facts import source_fingerprint, take_fingerprint
from zweistimme.project.model import Line, Placement, Project, Segment, Speaker, Take, TakeKind, Version, Word
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.reshape import merge_segments, split_before
from zweistimme.project.speaker_edits import assign_speaker
from zweistimme.project.times import RATE
from zweistimme.project.transcript import delete_segments, nudge, set_segment_text
from zweistimme.stages.work import peaks_file
from zweistimme.store.document import Document

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from zweistimme.window.desk_view import DeskView
    from zweistimme.window.main_window import MainWindow

COUNT = 10_000
VERSIONS = ("de-DE", "es-ES", "fr-FR", "it-IT", "pt-BR", "nl-NL")
_SAID = "The ferryman has forgotten two heavy ropes near the harbour again."


def long_project(count: int = COUNT) -> Project:
    """A project of so many segments, voiced and placed in six versions."""
    texts = _SAID.split()
    segments, lines, takes, placements = [], {}, {}, {}
    for k in range(count):
        start = k * 3_600_000
        edges = np.linspace(start, start + 3_000_000, len(texts) + 1).astype(int).tolist()
        words = tuple(Word(text, edges[n], edges[n + 1]) for n, text in enumerate(texts))
        one = Segment(f"s{k + 1:05d}", f"p{k % 4 + 1}", start, start + 3_000_000, _SAID, words)
        line = Line(
            one.id, "Der Fährmann hat zwei schwere Seile am Hafen vergessen.", source_fingerprint(one), take_id=f"t{k}"
        )
        made_from = take_fingerprint(line, "brandt")
        take = Take(f"t{k}", one.id, TakeKind.SYNTHESIZED, "take 1", f"{k:064x}", 3 * RATE, 0, 3 * RATE, made_from)
        segments.append(one)
        lines[one.id], takes[take.id] = line, take
        placements[one.id] = Placement(one.id, take.id, start, 3_000_000, 1.0, (), "x")
    speakers = {f"p{n}": Speaker(f"p{n}", f"Speaker {n}") for n in range(1, 5)}
    cast = dict.fromkeys(speakers, "brandt")
    version = Version("de-DE", cast=cast, lines=lines, takes=takes, placements=placements)
    sound = SoundTrack("/nowhere.wav", 1, "0" * 32, count * 3_600_000 + 5_000_000, RATE, 1)
    versions = {tag: replace(version, tag=tag) for tag in VERSIONS}
    return Project("Long", "en-GB", Programme(sound), speakers, tuple(segments), versions)


def long() -> Rows:
    """Milliseconds, the median of several edits in the middle of the programme."""
    from zweistimme.window.app import make_app
    from zweistimme.window.main_window import MainWindow, load_the_rest
    from zweistimme.window.theme import NIGHT

    app = make_app()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_STATE_HOME"] = folder  # how the desk is left is whose it is
        place = Path(folder) / "p"
        with Document.create(place, long_project()) as document:
            _real_waveform(document)
        window = MainWindow()
        window.show()
        load_the_rest()  # as beside the welcome page
        app.processEvents()
        yield Row(f"open {COUNT:,} segments", f"{_milliseconds(lambda: _open(window, place)):.0f} ms", "wanted: 1 s")
        view = window.view
        assert view is not None
        app.processEvents()
        yield from _edits(app, view)
        yield _scrolling(view)
        yield _ticks(app, view)
        yield from _by_text(app, view)
        flipped = _milliseconds(lambda: (window.outfit.dress_in(NIGHT), app.processEvents()))
        yield Row("day to night", f"{flipped:.0f} ms", "wanted: 200 ms", flipped, "ms")
        closed = _milliseconds(window.close)
        yield Row("close", f"{closed:.0f} ms", "wanted: 500 ms", closed, "ms")


def _real_waveform(document: Document) -> None:
    """The demo's own peaks over the whole length, as if so much sound had been brought in."""
    programme = document.project.programme
    assert programme is not None
    once = peaks_of(np.concatenate(list(decoded_blocks(data_file(MEDIA), DecodeNotes())), axis=1))
    wanted = programme.sound.duration_us * PEAKS_PER_SECOND // 1_000_000
    kept_peaks(peaks_file(document.cache, programme.sound), np.tile(once, (wanted // len(once) + 1, 1))[:wanted])


def _milliseconds(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return 1000 * (time.perf_counter() - start)


def _open(window: MainWindow, place: Path) -> None:
    window.open_project(place)
    assert window.view is not None
    window.view.page.score.canvas().repaint()


def _edits(app: QApplication, view: DeskView) -> Rows:
    """Each from the key to the paint."""
    desk, score = view.desk, view.page.score

    def here(k: int) -> Segment:
        return desk.project.segments[COUNT // 2 + 3 * k]

    def shown(edit: Callable[[Project], Project]) -> float:
        return _milliseconds(lambda: (desk.apply("Edit", edit), score.canvas().repaint()))

    edits: dict[str, Callable[[int], Callable[[Project], Project]]] = {
        "write": lambda k: partial(set_segment_text, segment_id=here(k).id, text=f"Nobody heard it {k}."),
        "nudge": lambda k: partial(nudge, segment_ids=[here(k).id], start_us=10_000),
        "give": lambda k: partial(assign_speaker, segment_ids=[here(k).id], speaker_id="p4"),
        "split": lambda k: partial(split_before, segment_id=here(k + 20).id, place=4),
        "merge": lambda k: partial(merge_segments, segment_ids=[here(k + 40).id, here(k + 40 + 1).id]),
        "delete": lambda k: partial(delete_segments, segment_ids=[here(k + 60).id]),
    }
    desk.select(here(0).id)
    score.show_segment(here(0).id)
    app.processEvents()
    for name, make in edits.items():
        times = [shown(make(k)) for k in range(7)]
        app.processEvents()
        yield Row(
            name,
            f"{np.median(times):.0f} ms (longest {max(times):.0f})",
            "wanted: 50 ms",
            float(np.median(times)),
            "ms",
        )
    undone = _milliseconds(lambda: (desk.undo(), score.canvas().repaint()))
    yield Row("undo", f"{undone:.0f} ms", "wanted: 50 ms")


def _by_text(app: QApplication, view: DeskView) -> Rows:
    """Frames of scrolling the Score by text, the window painting what came into sight; and an edit there."""
    from PyQt6.QtCore import QEvent

    view.page.flip_scale()
    app.processEvents()
    bar, window = view.page.lines.verticalScrollBar(), view.window()
    assert bar is not None

    def frame(step: int) -> None:
        bar.setValue(bar.maximum() // 2 + 40 * step)  # type: ignore[union-attr]
        app.sendEvent(window, QEvent(QEvent.Type.UpdateRequest))

    times = [_milliseconds(partial(frame, step)) for step in range(60)]
    said = f"{np.median(times):.1f} ms (95 %: {np.percentile(times, 95):.1f})"
    yield Row("a frame of scrolling by text", said, "wanted: 8 ms", float(np.median(times)), "ms")
    one = view.desk.project.segments[COUNT // 2]
    edit = partial(set_segment_text, segment_id=one.id, text="Nobody has heard it yet.")
    took = _milliseconds(lambda: (view.desk.apply("Edit", edit), app.processEvents()))
    yield Row("write by text", f"{took:.0f} ms", "wanted: 40 ms", took, "ms")
    view.page.flip_scale()
    app.processEvents()


def _ticks(app: QApplication, view: DeskView) -> Row:
    """What one move of the playhead takes everywhere, painting included."""
    first = view.desk.project.segments[COUNT // 3]
    view.desk.select(first.id)
    view.page.score.show_segment(first.id)
    app.processEvents()
    ticks = []
    for k in range(100):
        start = time.perf_counter()
        view._show_playhead(first.start_us + k * 20_000)
        app.processEvents()
        ticks.append(1000 * (time.perf_counter() - start))
    figures = f"{np.median(ticks):.1f} ms (95 %: {np.percentile(ticks, 95):.1f})"
    return Row("a tick of the playhead", figures, "wanted: 4 ms", float(np.median(ticks)), "ms")


def _scrolling(view: DeskView) -> Row:
    frames = []
    for k in range(60):
        view.page.score.centre_on((COUNT // 3 + k * 0.2) * 3_600_000)
        frames.append(_milliseconds(view.page.score.canvas().repaint))
    figures = f"{np.median(frames):.1f} ms (95 %: {np.percentile(frames, 95):.1f})"
    return Row("a frame of scrolling", figures, "wanted: 10 ms", float(np.median(frames)), "ms")
