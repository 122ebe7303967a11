"""The Mix page as hands use it: lanes, meters, settings, presets, places."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from driving import handover_of, notices_of, view_of
from zweistimme.project.delivery_edits import set_mix
from zweistimme.project.edits import set_version_style
from zweistimme.project.mix_settings import Beneath, Place
from zweistimme.project.model import Style
from zweistimme.project.sound_delivery import PRESETS, Channels, SoundForm
from zweistimme.sound.loudness import measure
from zweistimme.stages.mix.gain import HOUSE, keep_gains, presets_for
from zweistimme.stages.mix.heard import Listening
from zweistimme.stages.mix.mix_picture import known_picture, out_of_band
from zweistimme.window.desk_view import DeskView
from zweistimme.window.heard_meter import HeardLoudness, HeardMeter
from zweistimme.window.main_window import MainWindow
from zweistimme.window.mix.page import MixPage
from zweistimme.window.mix.painting import HEAD
from zweistimme.window.theme import px

RATE = 48_000


@pytest.fixture
def page(window: MainWindow, qtbot: QtBot) -> MixPage:
    """The Mix page of the demo, measured."""
    view = view_of(window)
    window.resize(1280, 800)
    view.navigation.show_page("Mix")
    made = mix_of_view(view)
    qtbot.waitUntil(lambda: made.view.columns is not None, timeout=10_000)
    made.measure.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and drawn(made), timeout=60_000)
    return made


def mix_of_view(view: DeskView) -> MixPage:
    page = view.pages.page("Mix")
    assert isinstance(page, MixPage)
    return page


def drawn(page: MixPage) -> bool:
    return page.view.columns is not None and len(page.view.columns.loud) > 0


def press(page: MixPage, x: float, y: float, *, shift: bool = False) -> None:
    keys = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    left = Qt.MouseButton.LeftButton
    page.view.mousePressEvent(QMouseEvent(QEvent.Type.MouseButtonPress, QPointF(x, y), left, left, keys))


def head_of(page: MixPage, lane: str) -> float:
    columns = page.view.columns
    assert columns is not None
    boxes = page.view.view().columns(len(columns.lanes))[1:]
    return next(box.center().x() for box, one in zip(boxes, columns.lanes, strict=True) if one.id == lane)


def test_lanes_stand_for_everybody_and_say_how_loud_it_is(page: MixPage, window: MainWindow) -> None:
    columns, desk = page.view.columns, view_of(window).desk
    assert columns is not None
    assert [lane.name for lane in columns.lanes] == ["Original", "Bed", "Mira", "Tobin", "Juna", "Room"]
    picture = known_picture(desk.document.cache, desk.project, desk.tag)
    assert picture is not None
    found = picture.loudness(HOUSE, columns.preset)
    assert found.integrated_lufs == pytest.approx(-23.0, abs=0.2)
    assert f"{found.integrated_lufs:.1f} LUFS" in page._state.text()
    first = desk.project.segments[0]
    mira = next(lane for lane in columns.lanes if lane.name == "Mira")
    assert mira.lufs[(first.start_us + first.end_us) // 200_000] > -35
    assert "Hz" in mira.about
    words = page.view.words_at(head_of(page, mira.id), page.view.view().y((first.start_us + 5e5) / 1e6))
    assert "LUFS" in words


def test_pressing_plays_from_there_and_names_leave_lanes_out(page: MixPage, window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    press(page, 300, page.view.view().y(40.0))
    assert view.playback.player.playing
    assert view.playback.player.position_us == pytest.approx(40e6, abs=1e6)
    view.playback.player.pause()
    people = [lane.id for lane in page.view.columns.lanes if lane.speaker >= 0]  # type: ignore[union-attr]
    press(page, head_of(page, people[1]), px(HEAD) / 2)
    assert people[1] in page.unheard()
    assert view.playback.listening.people == {one.removeprefix("person:") for one in (people[0], people[2])}
    press(page, head_of(page, people[1]), px(HEAD) / 2)
    assert view.playback.listening == Listening()
    press(page, head_of(page, people[2]), px(HEAD) / 2, shift=True)
    assert view.playback.listening.people == {people[2].removeprefix("person:")}
    press(page, head_of(page, people[2]), px(HEAD) / 2, shift=True)
    press(page, head_of(page, "Bed"), px(HEAD) / 2)
    assert not view.playback.mixer.line_up.factors()["Bed"]
    qtbot.waitUntil(lambda: "Bed" in page.view.unheard, timeout=5_000)
    press(page, head_of(page, "Bed"), px(HEAD) / 2)
    press(page, head_of(page, "Room"), px(HEAD) / 2)
    assert not view.playback.listening.room


def test_what_is_heard_is_what_a_preset_hands_over(page: MixPage, window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    choice = handover_of(view).presets
    choice._list()
    menu = choice.menu()
    assert menu is not None
    next(one for one in menu.actions() if one.text().startswith("podcast-mono")).trigger()
    assert view.desk.version is not None
    assert view.desk.version.presets == ("podcast-mono",)
    page.measure.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy and page.heard_as.count() == 2, timeout=60_000)
    page.heard_as.setCurrentIndex(1)
    page.heard_as.activated.emit(1)
    qtbot.waitUntil(
        lambda: view.playback._mix is not None and view.playback._mix.mono and view.playback._mix.gain_fits,
        timeout=30_000,
    )
    mix = view.playback._mix
    assert mix is not None
    stems = mix.read(0, 30 * RATE)
    assert np.array_equal(stems[0], stems[1])
    whole = mix.read(0, mix.length)
    assert measure(whole[:1] + whole[2:3]).integrated_lufs == pytest.approx(-19.0, abs=0.3)
    qtbot.waitUntil(lambda: page.view.columns is not None and page.view.columns.preset == PRESETS["podcast-mono"])
    page.untreated.click()
    assert not view.playback.listening.treated
    view.desk.show_version(next(one for one in view.desk.project.versions if one != view.desk.tag))
    assert view.playback.listening.treated
    assert not page.untreated.isChecked(), "another version is heard as it is"


def test_settings_are_made_for_all_or_for_one(page: MixPage, window: MainWindow) -> None:
    desk, controls = view_of(window).desk, page.controls
    tag, other = desk.tag, next(one for one in desk.project.versions if one != desk.tag)
    controls.beneath.setCurrentIndex(1)
    controls.beneath.activated.emit(1)
    controls.boxes["duck_db"].setValue(-12.0)
    assert desk.project.mix.duck_db == -12.0
    controls.own.click()
    controls.boxes["hold_us"].setValue(0.4)
    controls.steps["tone"].click()
    controls.sides.click()
    controls.beneath.setCurrentIndex(2)
    controls.beneath.activated.emit(2)
    own = desk.project.versions[tag].mix
    assert own is not None
    assert (own.giving.hold_us, own.treatment.tone, own.beneath) == (400_000, False, Beneath.ROOM_TONE)
    assert isinstance(own.beneath, Beneath)
    assert own.giving.sides_db == -12.0
    assert desk.project.mix.giving.hold_us == 900_000
    box = controls.boxes["release_us"]
    box.setFocus()
    box.lineEdit().setText("1.5 s")  # type: ignore[union-attr]
    desk.show_version(other)
    page.refresh()
    assert desk.project.versions[tag].mix.giving.release_us == 1_500_000, "it was begun for the one before"  # type: ignore[union-attr]
    assert desk.project.versions[other].mix is None
    assert not controls.own.isChecked()
    desk.show_version(tag)
    page.refresh()
    controls.own.click()
    assert desk.project.versions[tag].mix is None


def test_who_looks_at_a_mix_whose_gain_alone_is_known_sees_it_measured(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, tag, cache = view.desk, view.desk.tag, view.desk.document.cache
    keep_gains(cache, desk.project, tag, dict.fromkeys(presets_for(desk.project, desk.project.versions[tag]), 0.0))
    assert known_picture(cache, desk.project, tag) is None, "as behind a hand-over by command"
    view.playback._idle.setInterval(10)
    view.playback.load()
    qtbot.waitUntil(lambda: view.playback._mix is not None and view.playback._mix.gain_fits, timeout=20_000)
    view.navigation.show_page("Mix")
    page = mix_of_view(view)
    qtbot.waitUntil(lambda: "LUFS" in page._state.text(), timeout=60_000)


def test_figures_that_change_nothing_are_off(page: MixPage, window: MainWindow) -> None:
    desk, controls = view_of(window).desk, page.controls

    def on() -> set[str]:
        page.refresh()
        return {name for name, box in controls.boxes.items() if box.isEnabled()}

    always = {"loudness_lufs", "true_peak_dbtp", "room_db"}
    giving = {"look_ahead_us", "attack_us", "hold_us", "release_us"}
    assert on() == {*always, "bed_db"}, "there is a bed"
    desk.apply("Mix", lambda p: set_mix(p, replace(p.mix, beneath=Beneath.ORIGINAL)))
    assert on() == always | giving | {"duck_db"}
    other = next(one for one in desk.project.versions if one != desk.tag)
    desk.apply("Style", lambda p: set_version_style(p, other, Style.VOICE_OVER, p.versions[other].preference))
    assert on() == always | giving | {"duck_db", "voice_over_duck_db"}, "all versions are mixed so"
    controls.own.click()
    assert on() == always | giving | {"duck_db"}
    desk.apply("Mix", lambda p: set_mix(p, replace(p.mix, beneath=Beneath.ROOM_TONE), desk.tag))
    assert on() == always


def test_a_figure_that_is_shown_rounded_is_not_changed_by_passing_through_it(page: MixPage, window: MainWindow) -> None:
    desk = view_of(window).desk
    desk.apply("Mix", lambda project: set_mix(project, replace(project.mix, loudness_lufs=-23.04)))
    page.refresh()
    page.controls._set()
    assert desk.project.mix.loudness_lufs == -23.04


def test_a_closer_look_keeps_the_time_under_the_pointer(page: MixPage) -> None:
    y = page.view.view().y(50.0)
    page.view.look_at(50.0, 4.0)
    view = page.view.view()
    assert view.last - view.first == pytest.approx(page.view.columns.seconds / 4, rel=0.01)  # type: ignore[union-attr]
    assert view.seconds(y) == pytest.approx(50.0, abs=0.1)
    page.view.grab()
    page.view.look_at(50.0, 0.01)
    assert page.view.view().first == 0.0


def test_what_is_in_sight_is_written(page: MixPage, window: MainWindow, qtbot: QtBot) -> None:
    import soundfile

    view = view_of(window)
    page.view.look_at(20.0, 5.0)
    sight = page.view.view()
    page.write.click()
    qtbot.waitUntil(lambda: not view.desk.jobs.busy, timeout=60_000)
    (mix,) = (view.desk.document.folder / "mixes").glob("*.mix.wav")
    assert soundfile.info(mix).frames == pytest.approx((sight.last - sight.first) * RATE, abs=2)


def test_presets_are_looked_at_and_made(window: MainWindow) -> None:
    view = view_of(window)
    view.navigation.show_page("Hand-over")
    page = handover_of(view)
    page.presets.edit_wanted.emit()
    editor = page.editor
    assert editor.isVisible()
    assert editor.chosen() == "ebu-r128"
    assert not editor.remove.isEnabled()
    editor.name.setText("house")
    editor.loudness.setValue(-20.0)
    editor.form.setCurrentIndex(editor.form.findData(SoundForm.FLAC))
    editor.channels.setCurrentIndex(editor.channels.findData(Channels.SURROUND))
    editor.keep.click()
    made = view.desk.project.presets["house"]
    assert (made.loudness_lufs, made.form, made.channels) == (-20.0, SoundForm.FLAC, Channels.SURROUND)
    assert all(type(one) is kind for one, kind in ((made.form, SoundForm), (made.channels, Channels)))
    assert editor.chosen() == "house"
    editor.name.setText("a/b")
    editor.keep.click()
    assert editor.problem.text()
    assert "a/b" not in view.desk.project.presets
    editor.remove.click()
    assert not view.desk.project.presets
    page.presets.edit_wanted.emit()
    assert not editor.isVisible()


def test_a_scene_is_given_a_place(window: MainWindow) -> None:
    view = view_of(window)
    desk, button = view.desk, view.page.line.heard
    ids = [segment.id for segment in desk.project.segments[2:5]]
    desk.select(ids[0])
    desk.choose(ids)
    button.give(Place.TELEPHONE)
    assert [segment.place for segment in desk.project.segments[1:6]] == [
        Place.AS_SEEN, Place.TELEPHONE, Place.TELEPHONE, Place.TELEPHONE, Place.AS_SEEN,
    ]  # fmt: skip
    assert button.text() == "telephone"
    desk.undo()
    assert desk.project.segments[2].place is Place.AS_SEEN
    assert not [words for words in notices_of(desk) if "rror" in words]


def test_the_meters_measure_what_they_hear() -> None:
    meter = HeardMeter()
    random = np.random.default_rng(0)
    sound = (0.1 * random.standard_normal((2, 8 * RATE))).astype(np.float32)
    meter.feed(sound)
    assert meter.read() == HeardLoudness(), "nobody looks"
    meter.on = True
    for start in range(0, sound.shape[1], 480):
        meter.feed(sound[:, start : start + 480])
    wanted, heard = measure(sound), meter.read()
    assert heard.integrated_lufs == pytest.approx(wanted.integrated_lufs, abs=0.05)
    assert heard.true_peak_dbtp == pytest.approx(wanted.true_peak_dbtp, abs=0.05)
    assert heard.short_term_lufs == pytest.approx(wanted.integrated_lufs, abs=0.1)
    meter.begin()
    assert meter.read() == HeardLoudness()


def test_what_is_out_of_the_band_is_told() -> None:
    loud = np.array([-23.0] * 10 + [-15.0] * 5 + [-40.0] * 10)
    dub = np.array([-24.0] * 20 + [-90.0] * 5)
    assert out_of_band(loud, dub, -23.0, (10.0, 5.0)) == [(10, 20)]
    assert out_of_band(np.empty(0), np.empty(0), -23.0, (10.0, 5.0)) == []


def test_without_a_mix_the_page_says_so(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    desk, tag = view.desk, view.desk.tag
    desk.apply("x", lambda p: replace(p, versions={tag: replace(p.versions[tag], placements={})}))
    view.navigation.show_page("Mix")
    page = mix_of_view(view)
    qtbot.waitUntil(lambda: "not been measured" in page._state.text(), timeout=10_000)
    page.view.grab()


def test_it_opens_where_the_desk_is(window: MainWindow, qtbot: QtBot) -> None:
    view = view_of(window)
    player = view.playback.player
    qtbot.waitUntil(lambda: player.end_us > 0, timeout=10_000)
    player.seek(19_000_000)
    view.navigation.show_page("Mix")
    assert mix_of_view(view).view._playhead_s == pytest.approx(19.0)


def test_a_bed_is_composed_by_a_plan(window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    view = view_of(window)
    view.navigation.show_page("Mix")
    button, desk = mix_of_view(view).controls.compose, view.desk
    before, said = desk.project.programme, notices_of(desk)
    for text, ok in (("4:calm\n5 calm", True), ("4:calm:0.4", False), ("", True)):
        monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_args, plan=(text, ok): plan)
        button.click()
        assert not desk.jobs.busy
    assert "“5 calm” is no section" in " ".join(said)
    assert desk.project.programme == before
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *_args: ("4:calm\n\n3:tense:0.8", True))
    button.click()
    qtbot.waitUntil(lambda: desk.project.programme != before and not desk.jobs.busy, timeout=30_000)
    programme = desk.project.programme
    assert programme is not None
    assert programme.bed is not None
    assert "beds" in programme.bed.path
