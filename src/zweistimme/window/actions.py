"""Actions are data: the menu, the tooltips and the shortcut sheet are made from one list."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

from zweistimme.messages import tr

_given: dict[str, str] = {}
"""Keys that somebody has given to actions, by their ids."""


@dataclass(frozen=True, slots=True)
class ActionSpec:
    """What a person can do: a name for the code, words for the person, keys, and the part of the work it is for."""

    id: str
    text: str
    keys: str
    group: str
    number: int = 0
    """Where several differ by a number alone; only the first of them stands on the shortcut sheet."""

    @property
    def key(self) -> str:
        """Its keys as they are now: those it comes with, or those somebody has given it."""
        return _given.get(self.id, self.keys)

    @property
    def listed(self) -> bool:
        """Whether it stands on the shortcut sheet."""
        return self.number < 2

    @property
    def words(self) -> str:
        """What it is called, in the language of whoever reads it."""
        return tr(self.text, number=self.number) if self.number else tr(self.text)


_SPEAKERS: Final = (
    ActionSpec("speaker_1", "Give to speaker 1 … 9", "1", "Transcript", 1),
    *(ActionSpec(f"speaker_{n}", "Give to speaker {number}", str(n), "Transcript", n) for n in range(2, 10)),
)
_LANES: Final = (
    ActionSpec("lane_Original", "Hear the original, or leave it out", "Alt+1", "Listening"),
    ActionSpec("lane_Bed", "Hear the bed, or leave it out", "Alt+2", "Listening"),
    ActionSpec("lane_Dub", "Hear the dub, or leave it out", "Alt+3", "Listening"),
    ActionSpec("alone_Original", "Hear the original alone", "Alt+Shift+1", "Listening"),
    ActionSpec("alone_Bed", "Hear the bed alone", "Alt+Shift+2", "Listening"),
    ActionSpec("alone_Dub", "Hear the dub alone", "Alt+Shift+3", "Listening"),
)
_OFFERS: Final = (
    ActionSpec("offer_1", "Take wording 1 … 9 on offer", "Ctrl+Alt+1", "Writing", 1),
    *(ActionSpec(f"offer_{n}", "Take wording {number} on offer", f"Ctrl+Alt+{n}", "Writing", n) for n in range(2, 10)),
)
_TERMS: Final = (
    ActionSpec("term_1", "Put term 1 … 5 into the line", "Ctrl+Shift+1", "Writing", 1),
    *(ActionSpec(f"term_{n}", "Put term {number} into the line", f"Ctrl+Shift+{n}", "Writing", n) for n in range(2, 6)),
)
_SCORES: Final = (
    ActionSpec("score_1", "Score the take 1 … 5", "Ctrl+F5", "Writing", 1),
    *(ActionSpec(f"score_{n}", "Score the take {number} of 5", f"Ctrl+F{n + 4}", "Writing", n) for n in range(2, 6)),
)
_HELPS: Final = (
    ActionSpec("help_1", "Take remedy 1 … 5 for the line", "Ctrl+Shift+F1", "Writing", 1),
    *(
        ActionSpec(f"help_{n}", "Take remedy {number} for the line", f"Ctrl+Shift+F{n}", "Writing", n)
        for n in range(2, 6)
    ),
)
_WAYS: Final = (
    ActionSpec("way_1", "Hear the line in fit 1 … 5", "Alt+5", "Listening", 1),
    *(ActionSpec(f"way_{n}", "Hear the line in fit {number}", f"Alt+{n + 4}", "Listening", n) for n in range(2, 6)),
)
ACTIONS: Final = (
    ActionSpec("new", "New project from a programme …", "Ctrl+N", "Project"),
    ActionSpec("open", "Open a project …", "Ctrl+O", "Project"),
    ActionSpec("demo", "Open the demo", "", "Project"),
    ActionSpec("programme", "The programme's file, sound and bed …", "Ctrl+Shift+I", "Project"),
    ActionSpec("add_version", "Add a version …", "Ctrl+L", "Project"),
    ActionSpec("remove_version", "Remove the version on the desk …", "", "Project"),
    ActionSpec("bring_translation", "Bring in a translation of the version …", "", "Project"),
    ActionSpec("send_version", "Write the version for others to look over …", "Ctrl+Shift+E", "Project"),
    ActionSpec("take_back", "Take the version back …", "Ctrl+Shift+T", "Project"),
    ActionSpec("import_takes", "Import takes of the version …", "", "Project"),
    ActionSpec("pack", "Write the project as one file …", "", "Project"),
    ActionSpec("close", "Close the project", "Ctrl+W", "Project"),
    ActionSpec("quit", "Leave the desk", "Ctrl+Q", "Project"),
    ActionSpec("play", "Play or pause", "Space", "Listening"),
    ActionSpec("loop", "Repeat the selected line", "R", "Listening"),
    ActionSpec("from_word", "Hear from the word under the cursor on", "H", "Listening"),
    ActionSpec("slower", "Listen more slowly", ",", "Listening"),
    ActionSpec("faster", "Listen less slowly", ".", "Listening"),
    ActionSpec("play_original", "Hear the line's original alone", "Shift+H", "Listening"),
    ActionSpec("play_take", "Hear the line's take alone", "Shift+Space", "Listening"),
    *_LANES,
    *_WAYS,
    ActionSpec("before", "Hear the programme as it was, or as it will be", "V", "Listening"),
    ActionSpec("second_back", "A second back", "Alt+Left", "Listening"),
    ActionSpec("second_on", "A second on", "Alt+Right", "Listening"),
    ActionSpec("frame_back", "A picture back (held: on and on)", "Ctrl+Left", "Listening"),
    ActionSpec("frame_on", "A picture on (held: on and on)", "Ctrl+Right", "Listening"),
    ActionSpec("follow", "The Score follows the playhead, or not", "F", "Listening"),
    ActionSpec("select_along", "The line that is heard is selected, or not", "L", "Listening"),
    ActionSpec("to_selection", "Move the playhead to the selected line", "Home", "Listening"),
    ActionSpec("next_line", "Next line", "Down", "Moving"),
    ActionSpec("previous_line", "Previous line", "Up", "Moving"),
    ActionSpec("next_open", "Next line that needs something", "N", "Moving"),
    ActionSpec("next_unsettled", "Next line nobody has settled", "Shift+N", "Moving"),
    ActionSpec("next_noticed", "Next line of which checks notice something", "Alt+N", "Moving"),
    ActionSpec("next_word", "Next word", "Right", "Moving"),
    ActionSpec("previous_word", "Word before", "Left", "Moving"),
    ActionSpec("next_doubt", "Next doubtful word", "D", "Moving"),
    ActionSpec("previous_doubt", "Doubtful word before", "Shift+D", "Moving"),
    ActionSpec("next_wordless", "Next speech without words", "G", "Moving"),
    ActionSpec("choose_next", "Choose the next line as well", "Shift+Down", "Moving"),
    ActionSpec("choose_previous", "Choose the line before as well", "Shift+Up", "Moving"),
    ActionSpec("choose_all", "Choose all lines", "Ctrl+A", "Moving"),
    ActionSpec("timecode", "Times as timecode, or from the beginning", "T", "Moving"),
    ActionSpec("sift", "Look at some lines alone, or at all again", "Ctrl+Shift+F", "Moving"),
    ActionSpec("by_text", "The Score by text, or by time", "F6", "Moving"),
    ActionSpec("fold_panel", "Fold the line's panel away, or bring it back", "F8", "Moving"),
    ActionSpec("fold_closeup", "Fold the close-up away, or bring it back", "F7", "Moving"),
    ActionSpec("closer", "Show more detail", "Ctrl++", "Moving"),
    ActionSpec("wider", "Show more of the programme", "Ctrl+-", "Moving"),
    ActionSpec("next_version", "Next version", "Ctrl+Tab", "Moving"),
    ActionSpec("page_Score", "Show the Score", "Ctrl+1", "Pages"),
    ActionSpec("page_Speakers", "Show the speakers", "Ctrl+2", "Pages"),
    ActionSpec("page_Cast", "Show the cast", "Ctrl+3", "Pages"),
    ActionSpec("page_Fit", "Show the whole fit", "Ctrl+4", "Pages"),
    ActionSpec("page_Mix", "Show the mix", "Ctrl+5", "Pages"),
    ActionSpec("page_Hand-over", "Show the hand-over", "Ctrl+6", "Pages"),
    ActionSpec("page_Engines", "Show the engines", "Ctrl+7", "Pages"),
    ActionSpec("split", "Split before the word under the cursor", "S", "Transcript"),
    ActionSpec("merge", "Merge with the next, or all that are chosen", "M", "Transcript"),
    ActionSpec("insert", "Write down the speech at the playhead", "I", "Transcript"),
    ActionSpec("delete", "Delete what is chosen", "Del", "Transcript"),
    ActionSpec("start_here", "Begin at the playhead", "B", "Transcript"),
    ActionSpec("end_here", "End at the playhead", "E", "Transcript"),
    ActionSpec("start_earlier", "Start earlier", "Alt+Up", "Transcript"),
    ActionSpec("start_later", "Start later", "Alt+Down", "Transcript"),
    ActionSpec("end_earlier", "End earlier", "Alt+Shift+Up", "Transcript"),
    ActionSpec("end_later", "End later", "Alt+Shift+Down", "Transcript"),
    ActionSpec("word_earlier", "The word under the cursor begins earlier", "Alt+Shift+Left", "Transcript"),
    ActionSpec("word_later", "The word under the cursor begins later", "Alt+Shift+Right", "Transcript"),
    ActionSpec("step", "Move edges by 10 ms or by a frame", "Alt+F", "Transcript"),
    ActionSpec("snap", "Put the edges where the speech is", "X", "Transcript"),
    *_SPEAKERS,
    ActionSpec("new_speaker", "Give to somebody new", "0", "Transcript"),
    ActionSpec("accept", "Take the word as certain, go to the next", "A", "Transcript"),
    ActionSpec("accept_all", "Take all words of the line as certain", "Shift+A", "Transcript"),
    ActionSpec("fillers", "Put hesitations aside, or back", "U", "Transcript"),
    ActionSpec("realign", "Find the words' times in the sound", "W", "Transcript"),
    ActionSpec("recut", "Cut what is chosen anew …", "C", "Transcript"),
    ActionSpec("find", "Find and replace …", "Ctrl+F", "Transcript"),
    ActionSpec("pitch", "Show the pitch in the close-up", "Y", "Transcript"),
    ActionSpec("record", "Record the line … (again: begin, stop)", "Ctrl+R", "Transcript"),
    ActionSpec("recognise", "Have the speech recognised …", "Ctrl+Shift+R", "Transcript files"),
    ActionSpec("find_speech", "Find speech and speakers in the sound", "", "Transcript files"),
    ActionSpec("bring_transcript", "Bring in a transcript …", "Ctrl+I", "Transcript files"),
    ActionSpec("align", "Align a script …", "", "Transcript files"),
    ActionSpec("write_transcript", "Write the transcript to a file …", "Ctrl+E", "Transcript files"),
    ActionSpec("edit_line", "Write the line", "Return", "Writing"),
    ActionSpec("edit_source", "Correct the original", "Shift+Return", "Writing"),
    ActionSpec("shorter", "Take the next shorter wording", "K", "Writing"),
    ActionSpec("other_wordings", "Ask for other wordings of what is chosen", "Shift+K", "Writing"),
    ActionSpec("five_takes", "Ask for five takes of what is chosen", "Shift+J", "Writing"),
    ActionSpec("another_take", "Ask for another take of what is chosen", "J", "Writing"),
    *_SCORES,
    *_HELPS,
    ActionSpec("best_takes", "Use the best scored takes of what is chosen", "Shift+B", "Writing"),
    ActionSpec("next_take", "Use the next take of the line, and hear it", "Shift+T", "Writing"),
    ActionSpec("hear_along", "Hear takes as they are made, or not", "", "Writing"),
    ActionSpec("before_after", "Takes before and after …", "Ctrl+Shift+J", "Writing"),
    *_OFFERS,
    ActionSpec("choose_fitting", "Choose what fits, for the whole version …", "Ctrl+Shift+K", "Writing"),
    ActionSpec("follow_original", "Follow corrections of the original, or hold", "", "Writing"),
    ActionSpec("compare", "Compare engines …", "Ctrl+Shift+B", "Writing"),
    ActionSpec("say_back", "Have wordings said back in the original's language …", "Ctrl+B", "Writing"),
    ActionSpec("hear_back", "Hear takes back and look at their sound …", "Ctrl+H", "Writing"),
    ActionSpec("pronounce", "How words are said …", "Ctrl+Shift+W", "Writing"),
    ActionSpec("directions", "Propose directions from the original …", "Ctrl+Shift+D", "Writing"),
    ActionSpec("audition", "Hear auditions of a person …", "Ctrl+Shift+A", "Writing"),
    ActionSpec("sampling", "Make a voice from samples …", "", "Writing"),
    ActionSpec("spread_manner", "Speak all that are chosen as this line is", "Ctrl+Shift+M", "Writing"),
    ActionSpec("concordance", "Search the translation memory …", "Ctrl+K", "Writing"),
    *_TERMS,
    ActionSpec("terms", "Names and terms …", "Ctrl+T", "Writing"),
    ActionSpec("brief", "Notes on the programme …", "Ctrl+Shift+N", "Writing"),
    ActionSpec("mend", "Mend what checks notice", "Alt+M", "Writing"),
    ActionSpec("copy_original", "Put the original's words into the line", "Shift+C", "Writing"),
    ActionSpec("settle", "Let the line stand, go to the next nobody has settled", "Q", "Writing"),
    ActionSpec("review", "Reviewed; go to the next to be reviewed", "Shift+Q", "Writing"),
    ActionSpec("make_final", "Final: no run and no file changes it", "", "Writing"),
    ActionSpec("reopen", "Not settled after all", "", "Writing"),
    ActionSpec("lock", "Lock the words of what is chosen, or unlock them", "Z", "Writing"),
    ActionSpec("note", "Write a note about the line", "Ctrl+M", "Writing"),
    ActionSpec("free_pins", "Free all pins of the chosen lines", "Shift+P", "Writing"),
    ActionSpec("pin", "Pin the take where it stands, or unpin it", "P", "Writing"),
    ActionSpec("hold_word", "Hold the nearest word of the take at the marker, or let it go", "Ctrl+Shift+P", "Writing"),
    ActionSpec("take_earlier", "Pin the take earlier", "Ctrl+Up", "Writing"),
    ActionSpec("take_later", "Pin the take later", "Ctrl+Down", "Writing"),
    ActionSpec("take_shorter", "Pin the take, shorter", "Ctrl+Shift+Up", "Writing"),
    ActionSpec("take_longer", "Pin the take, longer", "Ctrl+Shift+Down", "Writing"),
    ActionSpec("screen", "On screen or off screen", "O", "Writing"),
    ActionSpec("continue", "Continue with what is missing", "Ctrl+Return", "Working"),
    ActionSpec("stop", "Close a panel, or stop the running job", "Escape", "Working"),
    ActionSpec("jobs", "Show what runs and what was run, or no more", "Ctrl+J", "Working"),
    ActionSpec("undo", "Undo", "Ctrl+Z", "Working"),
    ActionSpec("redo", "Do again", "Ctrl+Shift+Z", "Working"),
    ActionSpec("history", "Show what was done, or no more", "Ctrl+Shift+H", "Working"),
    ActionSpec("finder", "Find a command …", "F2", "Working"),
    ActionSpec("settings", "Settings …", "Ctrl+,", "Working"),
    ActionSpec("theme", "Day or night", "Ctrl+D", "Working"),
    ActionSpec("manual", "The manual, where one is", "F1", "Working"),
    ActionSpec("sheet", "All shortcuts", "Ctrl+F1", "Working"),
    ActionSpec("about", "About Zweistimme", "", "Working"),
)
BY_ID: Final = {spec.id: spec for spec in ACTIONS}
_ON_THE_SCORE: Final = frozenset(["Moving", "Transcript", "Writing"])
_EVERYWHERE: Final = frozenset(["next_version", "next_open", "find", "record", "timecode"])
"""Of these groups, what goes to the Score by itself, or is of no page."""
_WITHOUT_PROJECT: Final = frozenset(
    ["new", "open", "demo", "quit", "finder", "settings", "theme", "manual", "sheet", "about"]
)


def holds_on(spec: ActionSpec, page: str) -> bool:
    """Whether an action can be meant while a page is seen: nobody changes lines that are not in sight. *page* is empty
    while no project is open.

    >>> holds_on(BY_ID["merge"], "Cast"), holds_on(BY_ID["merge"], "Score"), holds_on(BY_ID["undo"], "Cast")
    (False, True, True)
    """
    if not page:
        return spec.id in _WITHOUT_PROJECT
    return page == "Score" or spec.group not in _ON_THE_SCORE or spec.id in _EVERYWHERE


def key_words(keys: str) -> str:
    """A shortcut as it is called in the language of the desk."""
    return QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText)


def tip(action_id: str) -> str:
    """A tooltip that names the shortcut.

    >>> tip("pin")
    'Pin the take where it stands, or unpin it (P)'
    """
    spec = BY_ID[action_id]
    return f"{spec.words} ({key_words(spec.key)})" if spec.key else spec.words


def give_keys(given: Mapping[str, str]) -> None:
    """Have actions on the keys somebody has given them, and the others on those they come with. Of two that have the
    same, as a newer desk may bring, the given one keeps it."""
    _given.clear()
    _given.update((action_id, key) for action_id, key in given.items() if action_id in BY_ID)
    taken = {key for key in _given.values() if key}
    _given.update({spec.id: "" for spec in ACTIONS if spec.id not in _given and spec.keys in taken})


def holder_of(key: str, besides: str = "") -> ActionSpec | None:
    """The action that is on a key, if there is one *besides* this."""
    return next((spec for spec in ACTIONS if key and spec.key == key and spec.id != besides), None)


def bind(owner: QWidget, handlers: Mapping[str, Callable[[], object]]) -> dict[str, QAction]:
    """Make the actions of *owner*; every action must have a handler and the other way round."""
    if set(handlers) != set(BY_ID):
        raise KeyError(f"actions and handlers differ: {set(handlers) ^ set(BY_ID)}")
    made = {}
    for spec in ACTIONS:
        action = QAction(spec.words, owner)
        action.setShortcut(QKeySequence(spec.key))
        action.setToolTip(tip(spec.id))
        action.setData(spec.group)
        handler = handlers[spec.id]
        action.triggered.connect(lambda _checked=False, handler=handler: handler())
        owner.addAction(action)
        made[spec.id] = action
    return made
