"""Every code and its English sentence. Sentences have places for their figures as all messages do; two
ways to write one are added: ``{t:clock}`` is a time on the timeline, ``{tag:language}`` a language.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Final

from zweistimme.messages import Places, tr
from zweistimme.project.findings import AS_WRITTEN, Finding
from zweistimme.project.languages import language_name
from zweistimme.project.times import clock
from zweistimme.sentences.english_checks import CHECKS
from zweistimme.sentences.english_files import FILES
from zweistimme.sentences.english_placements import PLACEMENTS
from zweistimme.sentences.english_sound import SOUND
from zweistimme.sentences.english_work import WORK

CATALOGUE: Final[Mapping[str, str]] = {AS_WRITTEN: "{text}", **PLACEMENTS, **SOUND, **FILES, **WORK, **CHECKS}
_ENDS: Final = (".", "!", "?", "…", "。")


class _Places(Places):
    """Fills the places of a sentence."""

    def format_field(self, value: Any, format_spec: str) -> str:
        if format_spec == "clock":
            return clock(int(value))
        if format_spec == "language":
            return language_name(str(value))
        return super().format_field(value, format_spec)


_PLACES: Final = _Places()


def sentence_of(finding: Finding) -> str:
    """A finding as a sentence. What is refused is known by its English sentence, so that is its own template; a code
    of a newer Zweistimme is shown as it is, with its figures.

    >>> sentence_of(Finding("lines-too-long", {"lines": 1, "version": "de-DE"}))
    'In de-DE 1 line is too long whatever is done; the Fit page, or the command remedies, says what would help.'
    >>> sentence_of(Finding("comma-kept", {}, "line 3"))
    'line 3: its words have a comma and no quotation marks; all of them are kept.'
    """
    template = CATALOGUE.get(finding.code, finding.code if " " in finding.code else None)
    if template is None:
        words = " ".join([finding.code, *(f"{name}={value}" for name, value in finding.figures.items())])
    else:
        words = _PLACES.vformat(tr(template), (), finding.figures)
    if finding.place:
        words = f"{finding.place}: {words}"
    elif template and not template.startswith("{"):  # what begins with a name is written as the name is
        words = words[:1].upper() + words[1:]
    return words if words.endswith(_ENDS) else f"{words}."


def sentences_of(findings: Iterable[Finding]) -> str:
    """Findings as sentences one behind the other."""
    return " ".join(map(sentence_of, findings))
