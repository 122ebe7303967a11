"""How somebody left the desk: the window's size, what is folded, levels, speed, page, and the version that was
worked on in each project. It belongs to the person, not to the project."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final

import msgspec
import platformdirs

from zweistimme.media.atomic import written_bytes

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QSplitter

    from zweistimme.window.desk_view import DeskView

_MOST_PROJECTS: Final = 200
_MOST_PIXELS: Final = 20_000


class Remembered(msgspec.Struct, omit_defaults=True):
    """*geometry* is Qt's own, in base 64; *splits* are the sizes of splitters in pixels, by name; *levels* those of
    lanes; *versions* the tag last on the desk by a project's id, *hidden* the versions that are not shown."""

    geometry: str = ""
    page: str = ""
    splits: dict[str, list[int]] = {}
    pixels_per_second: float = 0.0
    speed: float = 1.0
    levels: dict[str, float] = {}
    follow: bool = True
    select_along: bool = False
    by_text: bool = False
    versions: dict[str, str] = {}
    hidden: dict[str, list[str]] = {}


def _file() -> Path:
    return Path(platformdirs.user_state_dir("zweistimme")) / "desk.json"


def read_remembered() -> Remembered:
    """What was remembered last; the desk as it comes where nothing can be read."""
    with suppress(OSError, ValueError):
        return msgspec.json.decode(_file().read_bytes(), type=Remembered)
    return Remembered()


def write_remembered(remembered: Remembered) -> None:
    """Remember; a comfort, not worth an error."""
    for by_project in (remembered.versions, remembered.hidden):
        while len(by_project) > _MOST_PROJECTS:
            by_project.pop(next(iter(by_project)))
    with suppress(OSError):
        written_bytes(_file(), msgspec.json.encode(remembered))


def bring_back(view: DeskView, remembered: Remembered) -> None:
    """Make the desk as somebody left it."""
    page, transport, desk = view.page, view.transport, view.desk
    for name, splitter in _splitters(view).items():
        sizes = remembered.splits.get(name)
        if sizes is not None and len(sizes) == 2 and 0 < sizes[0] < _MOST_PIXELS and 0 <= sizes[1] < _MOST_PIXELS:
            splitter.setSizes(sizes)
    if remembered.pixels_per_second > 0:
        page.score.zoom(remembered.pixels_per_second / page.score.scale.pixels_per_second)
    for name, (_, slider) in transport.lanes.items():
        slider.setValue(round(100 * min(max(remembered.levels.get(name, 1.0), 0.0), 1.5)))
    from zweistimme.window.pages import PAGES
    from zweistimme.window.transport import SPEEDS

    if remembered.speed in SPEEDS:
        view.playback.player.set_speed(remembered.speed)
    transport.follow.setChecked(remembered.follow)
    transport.along.setChecked(remembered.select_along)
    if remembered.by_text:
        page.flip_scale()
    desk.hide_versions(remembered.hidden.get(desk.document.id, ()))
    desk.show_version(remembered.versions.get(desk.document.id, desk.tag))
    if desk.project.segments and remembered.page in {spec.id for spec in PAGES}:
        view.navigation.show_page(remembered.page)


def remember_desk(view: DeskView, remembered: Remembered) -> None:
    """Take over how the desk is now."""
    page, transport, desk = view.page, view.transport, view.desk
    remembered.splits = {name: splitter.sizes() for name, splitter in _splitters(view).items()}
    remembered.pixels_per_second = page.score.scale.pixels_per_second
    remembered.levels = {name: slider.value() / 100 for name, (_, slider) in transport.lanes.items()}
    remembered.speed = view.playback.player.speed
    remembered.follow, remembered.select_along = transport.follow.isChecked(), transport.along.isChecked()
    remembered.page, remembered.by_text = view.pages.current, page.by_text
    remembered.versions.pop(desk.document.id, "")
    remembered.versions[desk.document.id] = desk.tag
    remembered.hidden.pop(desk.document.id, None)
    if desk.hidden:
        remembered.hidden[desk.document.id] = sorted(desk.hidden)


@dataclass(frozen=True, slots=True)
class Spot:
    """Where somebody was in a project that is put on the desk anew."""

    folder: Path
    segment_id: str
    position_us: float
    panel: str
    errors: tuple[str, ...]
    """What still waits to be put away."""

    @classmethod
    def of(cls, view: DeskView) -> Spot:
        """Where somebody is."""
        place = view.desk.document.folder, view.desk.segment_id, view.playback.player.position_us
        return cls(*place, view.page.drawer.shown, tuple(view.foot.errors))

    def show(self, view: DeskView) -> None:
        """Go there again."""
        if view.desk.segment(self.segment_id) is not None:
            view.desk.select(self.segment_id)
        view.playback.player.seek(self.position_us)
        if self.panel:
            view.navigation.open_panel(self.panel)
        for sentence in self.errors:
            view.desk.notice("error", sentence)


def _splitters(view: DeskView) -> dict[str, QSplitter]:
    return {"score": view.page.split, "closeup": view.page.left}
