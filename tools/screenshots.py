"""Pictures of the main views, made from the demo: ``make screenshots``. An old project may be given to save time."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))  # where the lines in other languages are

import av
import numpy as np
import soundfile
from PyQt6.QtWidgets import QApplication, QWidget

from data.eighteen_lines import LINES as OTHER_LINES
from demo_project import make_demo_project, work_on
from zweistimme.demo.script import BED, MEDIA, TARGETS, TITLE, data_file
from zweistimme.engines.connections import Connection, Kind, connect, disconnect
from zweistimme.engines.offers import Limits, Price
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.microphone import FileMicrophone
from zweistimme.project.edits import add_version, cast_voice, choose_engine, set_line_text
from zweistimme.project.progress import Step
from zweistimme.project.times import RATE
from zweistimme.project.transcript import delete_segments
from zweistimme.server import Faults, Serving, Terms, running
from zweistimme.stages.fit import fit
from zweistimme.stages.pipeline import run_step
from zweistimme.stages.voice import import_takes
from zweistimme.store.document import Document
from zweistimme.store.names import DATABASE

if TYPE_CHECKING:
    from zweistimme.window.main_window import MainWindow

OUT = Path(__file__).parents[1] / "docs" / "screenshots"
LITTLE = OUT.parent / "examples" / "little-engine" / "little.toml"


def settle(app: QApplication, seconds: float = 0.8) -> None:
    """Let the window work for a while."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)


def grab(widget: QWidget, name: str) -> None:
    """Save a picture of a widget, without what it happened to say of the way here."""
    from zweistimme.window.notices import NoticeBar

    OUT.mkdir(parents=True, exist_ok=True)
    for notices in widget.findChildren(NoticeBar):
        if notices.kind != "error":
            notices.put_away()
    widget.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")


def picture_of_engines(app: QApplication, window: MainWindow) -> None:
    """The engines, with a priced service that fails for two lines, and a program; then those lines on the Score."""
    terms = Terms(Limits(characters=5000, requests_a_minute=600, at_once=4), Price(0.00002, 0.0, "EUR"), 25_000)
    view = window.view
    assert view is not None
    desk = view.desk
    connect(Connection("little", Kind.PROGRAM, str(LITTLE)))
    connect(Connection("old quay", Kind.SERVICE, "http://127.0.0.1:8799"))
    with running(Serving(port=8766, terms=terms, faults=Faults({"no-voice": 0.3}, seed=4))) as address:
        connect(Connection("north quay", Kind.SERVICE, address))
        desk.book.refresh()
        desk.apply("Engines", lambda p: choose_engine(p, "speak", "north quay", TARGETS[1]))
        desk.apply("Cast", lambda p: cast_voice(p, TARGETS[1], "p1", "north quay/edda"))
        settle(app, 3)
        from zweistimme.window.engines import EnginesPage

        view.pages.of("Engines", EnginesPage).cards["north quay"].click()
        view.navigation.show_page("Engines")
        settle(app)
        grab(window, "engines")
        view.navigation.show_page("Score")
        view.steps.go_on()
        settle(app, 20)
        failed = next(iter(desk.version.failures))
        desk.select(failed)
        view.page.score.show_segment(failed)
        settle(app)
        grab(window, "line-failed")
    for name in ("little", "old quay", "north quay"):
        disconnect(name)
    desk.book.refresh()
    for _ in range(12):
        if desk.project.versions[TARGETS[1]].cast["p1"] != "north quay/edda":
            break
        desk.undo()


ROUGH = """1
00:00:03,400 --> 00:00:07,900
<i>Mira: Twice a day the sea walks up these steps,</i>
and twice a day it leaves again.

2
00:00:13,500 --> 00:00:11,300
Tobin: Then the ferry sits on the mud, and the whole harbour blames the clockmaker.

3
00:00:09,000 --> 00:00:11,400
Tobin: The clock has to know that before we do.

4
00:00:11,300 --> 00:00:12,800
Tobin: And if it doesn’t?

5
00:00:19,200 --> 00:00:24,100

6
00:02:19,200 --> 00:02:24,100
Nobody is there any more.
"""


def pictures_of_the_transcript(app: QApplication, window: MainWindow) -> None:
    """The Score while transcribing, find and replace, speakers, and what an imported file had to say."""
    view = window.view
    assert view is not None
    desk = view.desk
    ids = [segment.id for segment in desk.project.segments]
    before = len(desk.project.segments)
    desk.apply("Delete", lambda p: delete_segments(p, [ids[3]]))
    desk.select(ids[4], 3)
    desk.choose([ids[4], ids[5]])
    view.page.closeup.pitch.flip()
    view.page.score.centre_on(19_000_000)
    settle(app, 2)
    grab(window, "transcribing")
    view.page.closeup.pitch.flip()
    desk.undo()
    view.navigation.open_panel("Find and replace")
    view.page.search.what.setText("steps")
    view.page.search.instead.setText("stairs")
    view.page.search.where.setCurrentIndex(view.page.search.where.count() - 1)
    view.page.search.look()
    settle(app)
    grab(window, "find-and-replace")
    picture_of_recording(app, window)
    view.page.drawer.shut()
    view.navigation.show_page("Speakers")
    settle(app)
    grab(window, "speakers")
    view.navigation.show_page("Score")
    with tempfile.TemporaryDirectory() as folder:
        rough = Path(folder) / "rough.srt"
        rough.write_bytes(ROUGH.encode("cp1252"))
        view.files.bring_in(rough)
        settle(app, 2)
        grab(window, "import-report")
    view.page.drawer.shut()
    desk.undo()
    assert len(desk.project.segments) == before


def picture_of_recording(app: QApplication, window: MainWindow) -> None:
    """A line said into a microphone, which here plays the line's own take."""
    view = window.view
    assert view is not None
    panel, placed = view.page.record, view.desk.placed()
    assert placed is not None
    said = view.desk.document.clips.get(placed[1].clip)
    with tempfile.TemporaryDirectory() as folder:
        booth = Path(folder) / "booth.wav"
        soundfile.write(booth, np.concatenate((np.zeros(2 * RATE), said)), RATE)
        view.navigation.open_panel("Record")
        panel.use_microphone(FileMicrophone(booth))
        panel.use.setCurrentIndex(1)
        panel.toggle()
        settle(app, 4.2)
        grab(window, "recording")
        panel.stop()


def file_with_many_tracks(folder: Path) -> Path:
    """The demo as a client may send it: a dub, a full mix in 5.1, music and effects, and a guide nobody recorded."""
    path = folder / "tide-clock-master.mkv"
    sound, bed = (np.concatenate(list(decoded_blocks(data_file(name), DecodeNotes())), axis=1) for name in (MEDIA, BED))
    length = min(sound.shape[1], bed.shape[1])
    stereo = np.resize(bed[:, :length], (2, length))
    mix = np.zeros((6, length), np.float32)
    mix[:2], mix[2] = stereo, sound[:, :length].mean(axis=0)
    tracks = (
        ("stereo", "fra", "Version française", stereo[:, ::-1]),
        ("5.1", "eng", "Full mix", mix),
        ("stereo", "", "Music and effects", stereo),
        ("mono", "eng", "Guide", np.zeros((1, length), np.float32)),
    )
    with av.open(str(data_file(MEDIA))) as given, av.open(str(path), "w") as out:
        picture = out.add_stream_from_template(given.streams.video[0])
        picture.metadata["TIMECODE"] = "10:00:00:00"
        streams = []
        for layout, language, title, _ in tracks:
            stream = out.add_stream("flac", rate=RATE, layout=layout)
            stream.metadata.update({"title": title, **({"language": language} if language else {})})
            streams.append(stream)
        out.start_encoding()
        for packet in given.demux(given.streams.video[0]):
            if packet.size:
                packet.stream = picture
                out.mux(packet)
        for stream, (layout, _, _, planar) in zip(streams, tracks, strict=True):
            for start in range(0, length, 4096):
                steps = (np.clip(planar[:, start : start + 4096], -1, 1) * 32767).astype(np.int16)
                frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(steps.T).reshape(1, -1), "s16", layout)
                frame.sample_rate, frame.pts, frame.time_base = RATE, start, Fraction(1, RATE)
                out.mux(stream.encode(frame))
            out.mux(stream.encode(None))
    return path


def picture_of_bringing_in(app: QApplication) -> None:
    """What a file with several tracks holds, and what of it is proposed."""
    from zweistimme.window.new_project import NewProjectDialog

    with tempfile.TemporaryDirectory() as folder:
        dialog = NewProjectDialog(file_with_many_tracks(Path(folder)))
        dialog.folder.setText("~/Documents/Zweistimme/tide-clock-master")
        dialog.show()
        settle(app, 6)
        grab(dialog, "bringing-in")
        dialog.reject()


def pictures_of_other_scripts(app: QApplication, window: MainWindow) -> None:
    """A Japanese and an Arabic version on the Score, with clips that somebody recorded."""
    view = window.view
    assert view is not None
    desk = view.desk
    ids = [segment.id for segment in desk.project.segments]
    takes = desk.project.versions[TARGETS[0]].takes
    with tempfile.TemporaryDirectory() as folder:
        for number, segment_id in enumerate(ids, 1):
            take = next(one for one in takes.values() if one.segment_id == segment_id)
            soundfile.write(Path(folder) / f"{number:03d}.wav", desk.document.clips.get(take.clip), RATE)
        for tag, name in (("ja-JP", "japanese"), ("ar-EG", "arabic")):
            desk.apply("Add a version", lambda p, t=tag: add_version(p, t))
            for segment_id, text in zip(ids, OTHER_LINES[tag], strict=True):
                desk.apply("Line", lambda p, t=tag, s=segment_id, x=text: set_line_text(p, t, s, x))
            work = work_on(desk.document)
            import_takes(work, tag, Path(folder))
            fit(work_on(desk.document), tag)
            desk.show_version(tag)
            desk.select(ids[3])
            view.playback.player.seek(15_200_000)
            view.page.score.centre_on(15_500_000)
            settle(app, 2)
            grab(window, name)
    desk.show_version(TARGETS[0])


def main() -> None:
    """Make every picture."""
    from zweistimme.window.app import make_app
    from zweistimme.window.main_window import MainWindow

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(tempfile.mkdtemp()) / TITLE
    for variable in ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME"):
        os.environ[variable] = tempfile.mkdtemp()
    os.environ["PYTHON_KEYRING_BACKEND"] = "keyring.backends.fail.Keyring"
    if not (folder / DATABASE).is_file():
        make_demo_project(folder)
        with Document.open(folder) as document:
            run_step(work_on(document), Step.HANDOVER, TARGETS[0], folder / "handover")
    app = make_app()
    window = MainWindow()
    window.show()
    settle(app)
    grab(window, "welcome")
    window.open_project(folder)
    view = window.view
    assert view is not None
    ids = [segment.id for segment in view.desk.project.segments]
    view.desk.select(ids[3])
    view.playback.player.seek(15_200_000)
    view.page.score.centre_on(15_500_000)
    settle(app)
    grab(window, "score")
    pictures_of_the_transcript(app, window)
    view.desk.select(ids[13])
    view.page.score.centre_on(56_000_000)
    settle(app)
    grab(window, "too-long")
    view.desk.show_version(TARGETS[1])
    view.page.score.zoom(2.2)
    view.desk.select(ids[12])
    view.page.score.centre_on(55_500_000)
    settle(app)
    grab(window, "cross-talk")
    view.navigation.show_page("Cast")
    settle(app)
    grab(window, "cast")
    view.navigation.show_page("Hand-over")
    settle(app)
    grab(window, "handover")
    picture_of_engines(app, window)
    picture_of_bringing_in(app)
    view.navigation.show_page("Score")
    view.page.score.zoom(1 / 2.2)
    window.flip_theme()
    view = window.view
    assert view is not None
    view.desk.select(ids[3])
    view.page.score.centre_on(15_500_000)
    settle(app)
    grab(window, "night")
    window.flip_theme()
    pictures_of_other_scripts(app, window)
    window.close()


if __name__ == "__main__":
    main()
