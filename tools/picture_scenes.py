"""Pictures that need files and lines of their own: a film with many tracks, lines in other scripts."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import av
import numpy as np
import soundfile
from PyQt6.QtWidgets import QApplication

from camera import grab, settle
from data.eighteen_lines import LINES as OTHER_LINES
from demo_project import work_on
from zweistimme.demo.script import BED, MEDIA, TARGETS, data_file
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.project.edits import add_version
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.times import RATE
from zweistimme.stages.fit import fit
from zweistimme.stages.voice import import_takes

if TYPE_CHECKING:
    from zweistimme.window.main_window import MainWindow


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
    view.foot.clear()  # what an engine refused belongs to another picture
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
