"""What every action does: a table, put together of what the parts of the desk can do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Final, Protocol

from zweistimme.messages import msg_act, tr
from zweistimme.project.edits import use_best_takes
from zweistimme.project.fit_edits import free_pins
from zweistimme.project.manner_edits import speak_like
from zweistimme.project.model import Pin, Project
from zweistimme.project.times import SECOND_US
from zweistimme.project.wordings import LineState
from zweistimme.window.actions import ACTIONS
from zweistimme.window.folds import HISTORY, JOBS
from zweistimme.window.line_up import LANES

if TYPE_CHECKING:
    from zweistimme.window.desk_view import DeskView
    from zweistimme.window.outfit import Outfit

_IN_TRANSCRIBING: Final = frozenset(
    ["from_word", "slower", "faster", "next_word", "previous_word", "next_doubt", "previous_doubt", "next_wordless",
     "choose_next", "choose_previous", "choose_all"]
)  # fmt: skip
"""Actions of other groups whose handlers are the transcript's."""
Handler = Callable[[], object]


class Shell(Protocol):
    """The window around the desk, as far as actions need it."""

    view: DeskView | None
    outfit: Outfit

    def ask_media(self) -> None: ...
    def ask_project(self) -> None: ...
    def open_demo(self) -> None: ...
    def close_project(self) -> None: ...
    def close(self) -> bool: ...
    def show_manual(self) -> None: ...
    def show_sheet(self) -> None: ...
    def find_command(self) -> None: ...
    def show_about(self) -> None: ...


def handlers(shell: Shell) -> dict[str, Handler]:
    """What is done by each action. Those of the desk are done to the texts as they stand."""

    def on_desk(act: Callable[[DeskView], object]) -> Handler:
        def handler() -> None:
            if shell.view is not None:
                shell.view.desk.writing.keep()
                act(shell.view)

        return handler

    desk = {action_id: on_desk(act) for action_id, act in (_LISTENING | _MOVING | _WRITING | _WORKING | _FILES).items()}
    return {
        **{spec.id: on_desk(_of_transcript(spec.id)) for spec in ACTIONS if _is_of_transcript(spec.id, spec.group)},
        **{spec.id: on_desk(_showing(spec.id.removeprefix("page_"))) for spec in ACTIONS if spec.group == "Pages"},
        **desk,
        "new": shell.ask_media,
        "open": shell.ask_project,
        "demo": shell.open_demo,
        "close": shell.close_project,
        "quit": shell.close,
        "settings": shell.outfit.show_settings,
        "theme": shell.outfit.flip_theme,
        "manual": shell.show_manual,
        "sheet": shell.show_sheet,
        "finder": shell.find_command,
        "about": shell.show_about,
    }


def _is_of_transcript(action_id: str, group: str) -> bool:
    return group.startswith("Transcript") or action_id in _IN_TRANSCRIBING


def _of_transcript(action_id: str) -> Callable[[DeskView], object]:
    return lambda view: {**view.transcribing.handlers(), **view.files.handlers()}[action_id]()


def _showing(page: str) -> Callable[[DeskView], object]:
    return lambda view: view.navigation.show_page(page)


def _flipping_lane(name: str) -> Callable[[DeskView], object]:
    return lambda view: view.transport.flip_lane(name)


def _flipping_alone(name: str) -> Callable[[DeskView], object]:
    return lambda view: view.transport.flip_alone(name)


def _taking_offer(number: int) -> Callable[[DeskView], object]:
    return lambda view: view.page.line.use_offer(number)


def _hearing_way(number: int) -> Callable[[DeskView], object]:
    return lambda view: view.page.closeup.ways.hear(number)


def _helping(number: int) -> Callable[[DeskView], object]:
    return lambda view: view.page.line.helps.take(number)


def _inserting_term(number: int) -> Callable[[DeskView], object]:
    return lambda view: view.page.insert_term(number)


def _to_selection(view: DeskView) -> None:
    view.playback.to_selection()
    view.pages.show_segment(view.desk.segment_id)


def _pin(view: DeskView) -> None:
    from zweistimme.stages.fit import pin_and_plan

    desk = view.desk
    line, placed, tag = desk.line(), desk.placed(), desk.tag
    if line is None or placed is None:
        desk.notice("note", tr("Only a placed take can be pinned. Fit this version first."))
        return
    pin, label = (None, msg_act("Unpin a take")) if line.pin else (Pin(placed[0].start_us), msg_act("Pin a take"))
    desk.apply(label, partial(pin_and_plan, tag=tag, segment_id=desk.segment_id, pin=pin))


def _hold_word(view: DeskView) -> None:
    from zweistimme.window.held_word import hold_at_marker

    hold_at_marker(view.desk, round(view.playback.player.position_us))


def _free_pins(view: DeskView) -> None:
    from zweistimme.stages.fit import change_and_plan

    desk = view.desk
    ids, tag, before = desk.chosen_ids(), desk.tag, desk.project

    def free(project: Project) -> Project:
        for segment_id in ids:
            project = change_and_plan(project, tag, segment_id, partial(free_pins, tag=tag, segment_ids=[segment_id]))
        return project

    desk.apply(msg_act("Free pins"), free)
    if desk.project is before:
        desk.notice("note", tr("Nothing of what is chosen is pinned."))


def _scoring(score: int) -> Callable[[DeskView], object]:
    return lambda view: view.page.line.takes.score_chosen(score)


def _best_takes(view: DeskView) -> None:
    desk, ids = view.desk, view.desk.chosen_ids()
    tag, before = desk.tag, desk.project
    desk.apply(msg_act("Use the best scored takes"), lambda project: use_best_takes(project, tag, ids))
    if desk.project is before:
        desk.notice("note", tr("No take of what is chosen is scored better than the one in use."))


def _spread_manner(view: DeskView) -> None:
    desk = view.desk
    ids, tag, like = desk.chosen_ids(), desk.tag, desk.segment_id
    if len(ids) < 2 or desk.line() is None:
        desk.notice("note", tr("Choose several lines first; they are spoken as the selected one is."))
        return
    label = msg_act("Speak lines alike")
    desk.apply(label, lambda project: speak_like(project, tag, ids, like))


_LISTENING: Final[dict[str, Callable[[DeskView], object]]] = {
    "play": lambda v: v.playback.player.toggle(),
    "loop": lambda v: v.transport.loop.toggle(),
    "play_take": lambda v: v.playback.hear_take(),
    "play_original": lambda v: v.playback.hear_original(),
    "before": lambda v: v.transport.before.toggle(),
    "second_back": lambda v: v.playback.player.step(-SECOND_US),
    "second_on": lambda v: v.playback.player.step(SECOND_US),
    "frame_back": lambda v: v.playback.step_frames(-1),
    "frame_on": lambda v: v.playback.step_frames(1),
    "follow": lambda v: v.transport.follow.toggle(),
    "select_along": lambda v: v.transport.along.toggle(),
    "to_selection": _to_selection,
    **{f"lane_{name}": _flipping_lane(name) for name in LANES},
    **{f"alone_{name}": _flipping_alone(name) for name in LANES},
}
_MOVING: Final[dict[str, Callable[[DeskView], object]]] = {
    "next_line": lambda v: v.desk.step_selection(1),
    "previous_line": lambda v: v.desk.step_selection(-1),
    "next_open": lambda v: v.navigation.next_open(),
    "next_unsettled": lambda v: v.settling.next_below(LineState.TRANSLATED),
    "next_noticed": lambda v: v.settling.next_noticed(v.page.line.noticing),
    "sift": lambda v: v.page.flip_sieve(),
    "by_text": lambda v: v.page.flip_scale(),
    "fold_panel": lambda v: v.page.fold_panel(),
    "fold_closeup": lambda v: v.page.fold_closeup(),
    "closer": lambda v: v.page.score.zoom(1.25),
    "wider": lambda v: v.page.score.zoom(0.8),
    "next_version": lambda v: v.navigation.next_version(),
    "timecode": lambda v: v.flip_timecode(),
    "pitch": lambda v: v.page.closeup.pitch.flip(),
}


def _pronounce(view: DeskView) -> None:
    """How the word is said that was pointed at, in a take; else any."""
    view.navigation.open_panel("How words are said")
    view.page.pronouncing.open_word(view.page.closeup.sounding)
    view.page.closeup.sounding = ""


_WRITING: Final[dict[str, Callable[[DeskView], object]]] = {
    "take_earlier": lambda v: v.transcribing.edges.move_take(-1),
    "take_later": lambda v: v.transcribing.edges.move_take(1),
    "take_shorter": lambda v: v.transcribing.edges.lengthen_take(-1),
    "take_longer": lambda v: v.transcribing.edges.lengthen_take(1),
    "recut": lambda v: v.navigation.open_panel("Cut anew"),
    "find": lambda v: v.navigation.open_panel("Find and replace"),
    "recognise": lambda v: v.navigation.open_panel("Have the speech recognised"),
    "record": lambda v: v.navigation.record(),
    "edit_line": lambda v: v.page.edit("dub"),
    "edit_source": lambda v: v.page.edit("original"),
    "shorter": lambda v: v.page.line.use_shorter(),
    "another_take": lambda v: v.again.takes(),
    "five_takes": lambda v: v.again.takes(5),
    "other_wordings": lambda v: v.again.wordings(),
    **{f"offer_{n}": _taking_offer(n - 1) for n in range(1, 10)},
    **{f"way_{n}": _hearing_way(n - 1) for n in range(1, 6)},
    **{f"help_{n}": _helping(n - 1) for n in range(1, 6)},
    **{f"term_{n}": _inserting_term(n - 1) for n in range(1, 6)},
    "brief": lambda v: v.navigation.open_panel("Notes on the programme"),
    "terms": lambda v: v.navigation.open_panel("Terms"),
    "choose_fitting": lambda v: v.navigation.open_panel("Choose what fits"),
    "follow_original": lambda v: v.following.flip(),
    "compare": lambda v: v.navigation.open_panel("Engines compared"),
    "pronounce": _pronounce,
    "directions": lambda v: v.navigation.open_panel("Directions proposed"),
    "hear_back": lambda v: v.navigation.open_panel("Takes heard back"),
    "say_back": lambda v: v.navigation.open_panel("Said back"),
    **{f"score_{n}": _scoring(n) for n in range(1, 6)},
    "best_takes": _best_takes,
    "next_take": lambda v: v.page.line.takes.use_next(),
    "hear_along": lambda v: v.hear_along.flip(),
    "before_after": lambda v: v.navigation.open_panel("Takes before and after"),
    "spread_manner": _spread_manner,
    "sampling": lambda v: v.show_sampling(),
    "audition": lambda v: v.navigation.audition(""),
    "concordance": lambda v: v.navigation.search_memory(),
    "mend": lambda v: v.page.line.noticing.mend(),
    "copy_original": lambda v: v.settling.copy_original(),
    "settle": lambda v: v.settling.settle(LineState.TRANSLATED),
    "review": lambda v: v.settling.settle(LineState.REVIEWED),
    "make_final": lambda v: v.settling.settle(LineState.FINAL),
    "reopen": lambda v: v.settling.settle(LineState.INITIAL),
    "lock": lambda v: v.settling.flip_lock(),
    "note": lambda v: v.page.line.standing.begin_note(),
    "pin": _pin,
    "free_pins": _free_pins,
    "hold_word": _hold_word,
    "screen": lambda v: v.page.line.flip_screen(),
}
_WORKING: Final[dict[str, Callable[[DeskView], object]]] = {
    "continue": lambda v: v.steps.go_on(),
    "stop": lambda v: v.navigation.close_or_stop(),
    JOBS: lambda v: v.folds.flip(JOBS),
    HISTORY: lambda v: v.folds.flip(HISTORY),
    "undo": lambda v: v.desk.undo(),
    "redo": lambda v: v.desk.redo(),
}
_FILES: Final[dict[str, Callable[[DeskView], object]]] = {
    "programme": lambda v: v.programme.ask(),
    "pack": lambda v: v.programme.pack(),
    "add_version": lambda v: v.versions.ask(),
    "remove_version": lambda v: v.versions.ask_to_remove(),
    "bring_translation": lambda v: v.files.ask_translation(),
    "send_version": lambda v: v.files.ask_to_send(),
    "take_back": lambda v: v.navigation.take_back(v.files.ask_what_came_back()),
    "import_takes": lambda v: v.files.ask_takes(),
}
