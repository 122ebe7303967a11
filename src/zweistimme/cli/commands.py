"""Every command, where it is and what it does in a sentence: read before anything else of the command line is, so that
help is there at once, and each command loads what it needs and no more.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Entry:
    """A command or a group of them: the module that has it, and what it does."""

    module: str
    about: str


COMMANDS: Final[Mapping[str, Entry]] = {
    "dub": Entry("dub", "Dub a programme into other languages and hand it over."),
    "new": Entry("project_commands", "Make a project and bring in its programme."),
    "fit": Entry("project_commands", "Fit all takes to the timeline."),
    "mix": Entry("mix_commands", "Write the mix and the voice stem of each version."),
    "mix-settings": Entry(
        "mix_commands", "Say how versions are mixed, or set it: for all of them, or with --to for some alone."
    ),
    "by-hand": Entry(
        "fit_commands", "Say by hand how lines are fitted and heard: tempo, pauses, level, fades, words held to a time."
    ),
    "remedies": Entry(
        "fit_commands",
        "Say which lines do not stand well, who binds them by how much, and what would help; or do it.",
    ),
    "limits": Entry("fit_commands", "Say to which limits versions are planned, or set them; fit them afterwards."),
    "heard-fits": Entry(
        "mix_commands",
        "Write a version in several fits to listen to: stretched to its slots, by line, by phrase; dry and in the "
        "room.",
    ),
    "place": Entry(
        "mix_commands", "Say where lines are heard: as-seen, near, far, telephone, loudspeaker; in every version."
    ),
    "presets": Entry(
        "presets_command",
        "List the forms in which sound is handed over; make or change one, or say which versions are handed over so.",
    ),
    "handover": Entry("project_commands", "Write everything a client gets."),
    "status": Entry("status_command", "Say how far every step of every version is."),
    "media": Entry("intake_commands", "Say what a file holds, and which of its sound would be used."),
    "bring-in": Entry("intake_commands", "Bring the programme in again, use another of its tracks, or give it a bed."),
    "compose-bed": Entry(
        "intake_commands", "Have a bed composed by a plan of sections, and lay it under the programme."
    ),
    "listen": Entry(
        "intake_commands",
        "Listen to the programme and say what will hurt: level, noise, clipping, another language than was said.",
    ),
    "transcribe": Entry("transcript_commands", "Make the transcript."),
    "transcript": Entry("transcript_commands", "Write the transcript to a file."),
    "recut": Entry("transcript_commands", "Cut the transcript into segments anew; lines and takes go along."),
    "replace": Entry("transcript_commands", "Find and replace in the original or in versions."),
    "translate": Entry("step_commands", "Translate what is missing or stale, or some lines anew."),
    "cast": Entry(
        "cast_commands",
        "Cast voices: propose one for everybody who has none, or set them, and how they speak, by hand.",
    ),
    "voices": Entry(
        "cast_commands", "Say which voices there are for each version, find one, and keep a list of those you like."
    ),
    "audition": Entry(
        "audition_command", "Hear a person's lines in voices before one is cast, beside the original and equally loud."
    ),
    "sample": Entry(
        "sample_command",
        "Make a voice from samples of a person, with consent: clean stretches of the programme, or files.",
    ),
    "voice": Entry(
        "step_commands", "Make takes for what is missing or stale, other takes of some lines, or import them."
    ),
    "takes": Entry(
        "takes_command", "Hear takes back: is every word there, and is the sound in order? The worst come first."
    ),
    "directions": Entry(
        "directions_command",
        "Propose directions from how the original is said: whispered, shouted, hurried, asking; or from the wordings.",
    ),
    "pronounce": Entry(
        "pronounce_command", "Say how words are said, list that, and read or write it as a lexicon (PLS 1.0)."
    ),
    "estimate": Entry(
        "step_commands", "Say what transcribing, translating and voicing will ask of the engines, and cost."
    ),
    "versions": Entry("version_commands", "List a project's versions; add, remove, name or restyle them."),
    "captions": Entry("caption_command", "Say what captions are held to, language by language, or set it."),
    "undo": Entry("version_commands", "Take back what was done last."),
    "redo": Entry("version_commands", "Do again what was taken back last."),
    "lines": Entry("line_commands", "List what a version says, line by line, with its takes."),
    "line": Entry("line_commands", "Change one line: its wording, state, notes, direction, manner, take or place."),
    "ledger": Entry(
        "ledger_commands", "Say what engines that cost something were asked, and what they charged, day by day."
    ),
    "runs": Entry("ledger_commands", "Say what was run on a project, how it ended, and what it said and cost."),
    "pack": Entry("pack_commands", "Write a project as one file, to keep it or to send it."),
    "unpack": Entry("pack_commands", "Make a packed project a folder again."),
    "clean": Entry("pack_commands", "Say what of a project's folder can go, and how much that is; or remove it."),
    "stretch": Entry("sound_commands", "Change the tempo of a sound file, keeping its pitch."),
    "loudness": Entry("sound_commands", "Measure integrated loudness, loudness range and true peak (ITU-R BS.1770)."),
    "use": Entry(
        "engine_commands", "Choose which engine is asked for what, by a project or by some versions of it alone."
    ),
    "serve": Entry("engine_commands", "Offer an engine over HTTP (docs/engine-protocol.md)."),
    "settings": Entry("settings_command", "Say what is set for the whole desk, or set it."),
    "window": Entry("window_command", "Open the window (also: zweistimme PROJECT)."),
    "export": Entry(
        "exchange_commands", "Write a version for people who have no desk: XLIFF 2.1, a Word table, a workbook, or CSV."
    ),
    "import": Entry(
        "exchange_commands", "Take back a version that somebody looked over: wordings, states and notes, line by line."
    ),
    "choose": Entry(
        "choose_command",
        "Choose among the wordings on offer, for the whole version at once, the fullest that can be placed well.",
    ),
    "compare": Entry(
        "compare_command",
        "Have the same lines put by several engines, and say how long, how alike and how dear each is.",
    ),
    "say-back": Entry(
        "say_back_command",
        "Have wordings put back into the language of the original, and say how alike they are, the worst first.",
    ),
    "check": Entry(
        "check_command", "Say what is noticed about the wordings: numbers, names, marks, language, length and the like."
    ),
    "terms": Entry(
        "term_commands", "The names and terms of a project: say what they are elsewhere, find and exchange them."
    ),
    "brief": Entry("brief_command", "Say what whoever translates has to know of the programme, or set it."),
    "memory": Entry("memory_commands", "Look through the translation memory, change it, bring in or write TMX."),
    "engines": Entry("engine_commands", "Connect, test and remove engines."),
    "try": Entry("try_commands", "Ask an engine one thing, outside of any project."),
}
