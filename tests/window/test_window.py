"""The real window, offscreen: what is seen, written, dragged, pressed."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QKeySequence, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import canvas_of, cast_of, handover_of, middle_of, view_of
from helpers import project_with, write_sound
from zweistimme.project import cast_edits, line_edits, transcript
from zweistimme.project.model import Style
from zweistimme.project.progress import Step, progress
from zweistimme.stages.intake import Intake
from zweistimme.store.document import Document
from zweistimme.window.actions import ACTIONS, bind, tip
from zweistimme.window.app import make_app
from zweistimme.window.bridge import Desk
from zweistimme.window.desk_view import DeskView
from zweistimme.window.main_window import MainWindow
from zweistimme.window.new_project import NewProject, NewProjectDialog
from zweistimme.window.read_ahead import Way
from zweistimme.window.recent import recent_projects
from zweistimme.window.sheet import ShortcutSheet
from zweistimme.window.strain import Strain, strain_of
from zweistimme.window.theme import CONTRAST, DAY, NIGHT, Theme


def wait_for_job(qtbot: QtBot, desk: Desk) -> None:
    qtbot.waitUntil(lambda: not desk.jobs.busy, timeout=60_000)


def test_the_welcome_page_says_what_to_do(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    assert window.welcome.demo.isVisible()
    window.open_path(tmp_path / "nothing.mp4")
    assert "There is no file" in window.welcome.words.text()
    window.open_path(tmp_path)
    assert "folder without a project" in window.welcome.words.text()
    window.open_project(tmp_path)
    assert "no Zweistimme project" in window.welcome.words.text()


def test_a_dropped_project_is_opened(qtbot: QtBot, demo_folder: Path) -> None:
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(demo_folder))])
    event = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.welcome.dropEvent(event)
    assert view_of(window).desk.project.title == "The Tide Clock of Varnholm"
    assert recent_projects() == [demo_folder]
    window.close_project()
    assert window.welcome.isVisibleTo(window)


def test_the_demo_from_the_first_press_to_the_hand_over(qtbot: QtBot) -> None:
    """Open the demo and press Continue until all is done, as a newcomer would."""
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    qtbot.mouseClick(window.welcome.demo, Qt.MouseButton.LeftButton)
    view = view_of(window)
    wait_for_job(qtbot, view.desk)
    words = []
    for _ in range(12):
        words.append(view.strip.go_on.text())
        if not view.strip.go_on.isEnabled():
            break
        qtbot.mouseClick(view.strip.go_on, Qt.MouseButton.LeftButton)
        wait_for_job(qtbot, view.desk)
    assert [text.split()[0] for text in words] == ["Transcribe", "Translate", "Cast", "Voice", "Fit", "Hand", "All"]
    assert handover_of(view).table.rowCount() >= 7
    assert "Voice 18" in words[3]
    window.close_project()


def test_selection_shows_the_line_everywhere(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    ids = [segment.id for segment in view.desk.project.segments]
    view.page.score.show_segment(ids[3])
    qtbot.mouseClick(canvas_of(view), Qt.MouseButton.LeftButton, pos=middle_of(view, ids[3], "original"))
    assert view.desk.segment_id == ids[3]
    assert view.page.line.source.toPlainText().startswith("Then the ferry")
    assert view.page.line.wording.toPlainText().startswith("Dann sitzt die Fähre")
    assert view.page.line.place.text() == "line 4 of 18"
    assert "Starts" in view.page.line.why.text()
    QTest.keyClick(window, Qt.Key.Key_Down)
    assert view.desk.segment_id == ids[4]
    view.page.score.show_segment(ids[2])
    qtbot.mouseClick(canvas_of(view), Qt.MouseButton.LeftButton, pos=middle_of(view, ids[2], "dub"))
    assert view.desk.segment_id == ids[2]


def test_writing_in_place_makes_one_take_stale(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment = view.desk.project.segments[1]
    view.desk.select(segment.id)
    view.page.score.show_segment(segment.id)
    before = view.page.line.gauge.words
    qtbot.mouseDClick(canvas_of(view), Qt.MouseButton.LeftButton, pos=middle_of(view, segment.id, "dub"))
    assert view.page.score.editor.isVisible()
    view.page.score.editor.selectAll()
    QTest.keyClicks(view.page.score.editor, "Die Uhr muss es viel frueher und genauer wissen als wir alle.")
    assert view.page.line.gauge.words != before, "the gauge moves while typing"
    assert view.desk.line(segment.id).text == "Die Uhr muss das vor uns wissen."  # type: ignore[union-attr]
    QTest.keyClick(view.page.score.editor, Qt.Key.Key_Return)
    assert view.desk.line(segment.id).text.startswith("Die Uhr muss es viel")  # type: ignore[union-attr]
    assert view.strip.go_on.text().startswith("Voice 1 ")
    takes = len(view.desk.version.takes)  # type: ignore[union-attr]
    view.steps.go_on()
    wait_for_job(qtbot, view.desk)
    assert len(view.desk.version.takes) == takes + 1  # type: ignore[union-attr]
    QTest.keySequence(window, QKeySequence("Ctrl+Z"))
    QTest.keySequence(window, QKeySequence("Ctrl+Z"))
    assert view.desk.line(segment.id).text == "Die Uhr muss das vor uns wissen."  # type: ignore[union-attr]


def test_escape_leaves_the_text_as_it_was(window: MainWindow) -> None:
    view = view_of(window)
    view.page.score.edit("original")
    QTest.keyClicks(view.page.score.editor, " and more")
    QTest.keyClick(view.page.score.editor, Qt.Key.Key_Escape)
    assert "and more" not in view.desk.segment().text  # type: ignore[union-attr]


def test_editing_the_source_marks_lines_stale_in_both_versions(window: MainWindow) -> None:
    view = view_of(window)
    segment_id = view.desk.segment_id
    view.desk.apply("Correct", lambda p: transcript.set_segment_text(p, segment_id, "Thrice a day the sea walks up."))
    for version in view.desk.project.versions.values():
        assert progress(view.desk.project, version)[Step.TRANSLATION].stale == 1
    assert view.page.line.standing.origin.text() == "the original has changed"
    assert "1 stale" in view.strip.steps[Step.TRANSLATION].words


def test_typing_in_the_panel_is_kept_once_the_line_is_left(window: MainWindow) -> None:
    view = view_of(window)
    first, second = (segment.id for segment in view.desk.project.segments[:2])
    view.page.line.wording.setFocus()
    view.page.line.wording.selectAll()
    QTest.keyClicks(view.page.line.wording, "Kurz.")
    view.desk.select(second)
    assert view.desk.line(first).text == "Kurz."  # type: ignore[union-attr]
    view.page.line.wording.selectAll()
    QTest.keyClicks(view.page.line.wording, "Auch kurz.")
    view.page.score.setFocus()
    assert view.desk.line(second).text == "Auch kurz."  # type: ignore[union-attr]


def test_a_shorter_wording_is_one_key_away(window: MainWindow) -> None:
    view = view_of(window)
    version = view.desk.version
    assert version is not None
    over = next(p.segment_id for p in version.placements.values() if p.overflow_us)
    assert strain_of(version.placements[over]) is Strain.HARD
    view.desk.select(over)
    QTest.keyClick(window, Qt.Key.Key_K)
    for wording in ("Und jetzt anheben.", "Jetzt anheben."):
        assert view.desk.line(over).text == wording  # type: ignore[union-attr]
        QTest.keyClick(window, Qt.Key.Key_K)
    assert "no shorter wording" in view.foot.words.text()


def test_dragging_a_take_pins_it_and_a_key_frees_it(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment_id = view.desk.project.segments[1].id
    view.page.score.show_segment(segment_id)
    placed = view.desk.placed(segment_id)
    assert placed is not None
    at = middle_of(view, segment_id, "dub_wave")
    canvas = canvas_of(view)
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, QPoint(at.x(), at.y() + 13))
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(at.x(), at.y() + 13))
    line = view.desk.line(segment_id)
    assert line is not None
    assert line.pin is not None
    assert abs(line.pin.start_us - placed[0].start_us - 13e6 / view.page.score.scale.pixels_per_second) < 60_000
    QTest.keyClick(window, Qt.Key.Key_P)
    assert view.desk.line(segment_id).pin is None  # type: ignore[union-attr]


def test_dragging_an_edge_retimes_the_segment(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment = view.desk.project.segments[1]
    view.page.score.show_segment(segment.id)
    centre = middle_of(view, segment.id, "original")
    edge = QPoint(centre.x(), int(view.page.score.scale.y(segment.end_us)))
    canvas = canvas_of(view)
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=edge)
    qtbot.mouseMove(canvas, QPoint(edge.x(), edge.y() + 9))
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(edge.x(), edge.y() + 9))
    after = view.desk.segment(segment.id)
    assert after is not None
    assert after.start_us == segment.start_us
    assert 200_000 < after.end_us - segment.end_us < 500_000


def test_the_close_up_is_dragged_too(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment_id = view.desk.project.segments[6].id
    view.desk.select(segment_id)
    QApplication.processEvents()
    close = view.page.closeup
    placed = view.desk.placed()
    assert placed is not None
    x = int(close.x_of(placed[0].start_us + placed[0].length_us / 2))
    qtbot.mousePress(close, Qt.MouseButton.LeftButton, pos=QPoint(x, 115))
    qtbot.mouseMove(close, QPoint(x + 12, 115))
    qtbot.mouseRelease(close, Qt.MouseButton.LeftButton, pos=QPoint(x + 12, 115))
    assert view.desk.line().pin is not None  # type: ignore[union-attr]


def test_zoom_keeps_the_time_under_the_pointer(window: MainWindow) -> None:
    view = view_of(window)
    view.page.score.centre_on(40_000_000)
    y = 200.0
    before = view.page.score.scale.time(y)
    canvas = canvas_of(view)
    event = QWheelEvent(
        QPointF(300, y), canvas.mapToGlobal(QPointF(300, y)), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.ControlModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(canvas, event)
    assert view.page.score.scale.pixels_per_second > 30
    assert abs(view.page.score.scale.time(y) - before) < 20_000


def test_playing_without_a_sound_device_says_so(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("zweistimme.window.clock.open_sound_out", lambda _mixer: None)
    view = view_of(window)
    view.playback.player.seek(3_000_000)
    QTest.keyClick(window, Qt.Key.Key_Space)
    assert view.playback.player.playing
    assert "no sound device" in view.foot.words.text()
    qtbot.waitUntil(lambda: view.playback.player.position_us > 3_300_000, timeout=3000)
    QTest.keyClick(window, Qt.Key.Key_Space)
    assert not view.playback.player.playing


def test_a_repeated_line_starts_over(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("zweistimme.window.clock.open_sound_out", lambda _mixer: None)
    view = view_of(window)
    view.desk.select(view.desk.project.segments[2].id)
    QTest.keyClick(window, Qt.Key.Key_R)
    assert view.playback.player.loop is not None
    start, end = view.playback.player.loop
    view.playback.player.seek(end - 60_000)
    view.playback.player.play()
    qtbot.waitUntil(lambda: start <= view.playback.player.position_us < start + 600_000, timeout=3000)
    view.playback.player.pause()


def test_lanes_are_mixed_and_muted(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    mixer, states = view.playback.mixer, view.playback.mixer.line_up.states
    qtbot.waitUntil(lambda: set(view.playback.lanes) == {"Original", "Bed", "Dub"}, timeout=5_000)

    def level_at(seconds: float) -> float:
        """The peak of the next second, waiting for what is not mixed yet."""
        mixer.go(Way(round(seconds * 48_000)))
        level, end = 0.0, time.monotonic() + 3.0
        while level == 0.0 and time.monotonic() < end:
            time.sleep(0.1)
            mixer.take(9600)  # what was heard before dies away
            level = float(abs(mixer.take(9600)).max())
        return level

    everything = level_at(15.0)
    for name in ("Original", "Bed"):
        states[name].mute = True
    dub_alone = level_at(15.0)
    assert 0 < dub_alone <= everything + 0.2
    states["Dub"].mute = True
    assert level_at(15.0) == 0
    states["Bed"].solo = True
    assert level_at(15.0) > 0


def test_the_cast_page_casts_and_renames(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    qtbot.mouseClick(view.rail.buttons["Cast"], Qt.MouseButton.LeftButton)
    assert view.pages.current == "Cast"
    row = next(row for row in cast_of(view).rows if row.key == "p2")
    row.voice.setCurrentIndex(row.voice.findData("dario"))
    row.voice.activated.emit(row.voice.currentIndex())
    assert view.desk.version.cast["p2"] == "dario"  # type: ignore[union-attr]
    assert view.strip.go_on.text().startswith("Voice 7")


def test_a_speaker_without_a_voice_is_said_before_voicing(window: MainWindow) -> None:
    view = view_of(window)
    view.desk.apply("Uncast", lambda p: cast_edits.cast_voice(p, "de-DE", "p2", None))
    view.navigation.show_page("Cast")
    assert "1 without a voice" in cast_of(view)._about.text()
    view.navigation.go_to_step(Step.CAST)
    assert view.pages.current == "Cast"


def test_versions_are_added_and_restyled(window: MainWindow) -> None:
    view = view_of(window)
    view.versions.add("es-mx")
    assert view.desk.tag == "es-MX"
    assert view.strip.go_on.text().startswith("Translate 18")
    view.versions.add("es-MX")
    assert "already has" in view.foot.words.text()
    cast_of(view).style_box.setCurrentText("lip-sync")
    cast_of(view)._restyle()
    assert view.desk.version.style is Style.LIP_SYNC  # type: ignore[union-attr]


def test_a_line_is_given_to_another_speaker(window: MainWindow) -> None:
    view = view_of(window)
    view.desk.select(view.desk.project.segments[7].id)
    view.page.line.speaker.setCurrentIndex(view.page.line.speaker.findText("Juna"))
    view.page.line._assign()
    segment = view.desk.segment()
    assert segment is not None
    assert view.desk.project.speakers[segment.speaker_id].name == "Juna"


def test_a_running_job_is_shown_and_stopped(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    QTest.keySequence(window, QKeySequence("Ctrl+Tab"))
    assert view.desk.tag == "es-ES"

    def slow(work) -> None:  # type: ignore[no-untyped-def]
        for step in range(2000):
            work.report(step / 2000)
            time.sleep(0.005)

    view.desk.jobs.start("Slow work", slow)
    qtbot.waitUntil(lambda: view.foot._bar.isVisible() and view.foot._bar.value() > 0, timeout=3000)
    assert not view.strip.go_on.isEnabled()
    assert not view.desk.jobs.start("Another", slow)
    assert "still running" in view.foot.words.text()
    began = time.monotonic()
    QTest.keyClick(window, Qt.Key.Key_Escape)
    wait_for_job(qtbot, view.desk)
    assert time.monotonic() - began < 3.0
    assert "Everything finished so far is kept" in view.foot.words.text()


def test_a_failing_job_leaves_a_sentence(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    view = view_of(window)
    blocked = tmp_path / "file"
    blocked.write_text("x")
    view.steps.hand_over(blocked / "out")
    wait_for_job(qtbot, view.desk)
    assert "cannot be made" in view.foot.words.text()


def test_every_action_has_keys_words_and_a_handler(window: MainWindow, qtbot: QtBot) -> None:
    assert set(window.actions_by_id) == {spec.id for spec in ACTIONS}
    keys = [spec.keys for spec in ACTIONS if spec.keys]
    assert len(set(keys)) == len(keys)
    assert "(Ctrl+Z)" in tip("undo")
    with pytest.raises(KeyError):
        bind(window, {})
    sheet = ShortcutSheet(window)
    qtbot.addWidget(sheet)
    assert sheet.sizeHint().height() > 200


def test_keyboard_reaches_every_control(window: MainWindow) -> None:
    view = view_of(window)
    for widget in (
        view.strip.go_on,
        *view.strip.steps.values(),
        view.transport.button,
        *view.rail.buttons.values(),
        view.page.line.wording,
    ):
        assert widget.focusPolicy() & Qt.FocusPolicy.TabFocus, widget
        assert widget.accessibleName() or widget.text(), widget  # type: ignore[attr-defined]


def contrast(first: str, second: str) -> float:
    """WCAG contrast of two colours."""

    def luminance(text: str) -> float:
        parts = [int(text[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    light, dark = sorted((luminance(first), luminance(second)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize(
    ("theme", "least"), [(DAY, 4.5), (NIGHT, 4.5), (CONTRAST, 7.0)], ids=["day", "night", "contrast"]
)
def test_text_stands_out_from_its_ground(theme: Theme, least: float) -> None:
    for ground in (theme.paper, theme.sheet, theme.card):
        for ink in (theme.ink, theme.faded, theme.original, theme.dub, theme.calm, theme.firm, theme.hard):
            assert contrast(ink, ground) >= least, (ink, ground)
    for tint in theme.speakers:
        assert contrast(tint, theme.card) >= least, tint
        assert contrast(tint, theme.chosen) >= 4.0, tint
    assert contrast(theme.ink, theme.chosen) >= least


def test_night_and_day_keep_the_place(window: MainWindow) -> None:
    view = view_of(window)
    chosen = view.desk.project.segments[5].id
    view.desk.select(chosen)
    window.outfit.flip_theme()
    assert view_of(window).desk.segment_id == chosen
    window.outfit.flip_theme()


def test_a_new_project_asks_what_it_needs(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    media = write_sound(tmp_path / "a.wav", 3.0)
    dialog = NewProjectDialog(media)
    assert "sound alone" in dialog.intake.facts.text()
    qtbot.addWidget(dialog)
    dialog.targets.setText("german please")
    dialog._check()
    assert "not a language tag" in dialog.words.text()
    dialog.targets.setText("")
    dialog._check()
    assert "at least one language" in dialog.words.text()
    dialog.targets.setText("de-de, fr-FR")
    dialog._check()
    assert dialog.answer is not None
    assert dialog.answer.tags == ("de-DE", "fr-FR")


def test_a_language_without_a_voice_is_said(qtbot: QtBot, tmp_path: Path) -> None:
    make_app()
    window = MainWindow()
    qtbot.addWidget(window)
    window.show()
    media = write_sound(tmp_path / "a.wav", 6.0)
    window.make_project(NewProject(tmp_path / "p", "en-GB", ("fr-FR",), Style.PHRASE_SYNC, Intake(media)))
    view = view_of(window)
    wait_for_job(qtbot, view.desk)
    with_lines = project_with([(1.0, 2.0, "Hello")], tag="fr-FR")
    view.desk.apply("Lines", lambda p: transcript.set_transcript(p, with_lines.speakers.values(), with_lines.segments))
    view.desk.apply("Line", lambda p: line_edits.set_line_text(p, "fr-FR", "s1", "Bonjour"))
    view.steps.go_on()
    wait_for_job(qtbot, view.desk)
    view.navigation.show_page("Cast")
    assert cast_of(view)._about.text().startswith("1 without a voice")
    assert "speaks fr-FR" in view.foot.words.text()
    window.close_project()


@pytest.mark.parametrize("count", [10_000])
def test_ten_thousand_segments_are_painted_quickly(qtbot: QtBot, tmp_path: Path, count: int) -> None:
    """Not a benchmark: only that painting does not look at what is not in sight."""
    make_app()
    project = project_with(
        [(k * 3.0, k * 3.0 + 2.5, f"Sentence number {k}") for k in range(count)], takes=[2.0] * count
    )
    document = Document.create(tmp_path / "many", project)
    view = DeskView(Desk(document))
    qtbot.addWidget(view)
    view.resize(1280, 800)
    view.show()
    asked: list[str] = []
    line_of: Callable[..., object] = view.desk.line
    view.desk.line = lambda segment_id=None: (asked.append(segment_id or ""), line_of(segment_id))[1]  # type: ignore[method-assign, assignment]
    view.page.score.centre_on(15_000_000_000)
    asked.clear()
    view.page.score.grab()
    assert 0 < len(asked) < 60
    view.close_parts()


def test_hover_shows_what_does_not_fit(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    segment_id = view.desk.project.segments[0].id
    view.page.score.show_segment(segment_id)
    at = middle_of(view, segment_id, "ribbon")
    qtbot.mouseMove(canvas_of(view), at)
    QApplication.sendEvent(canvas_of(view), QEvent(QEvent.Type.Enter))
    assert view.page.score.scene().columns.ribbon[0] < at.x()
