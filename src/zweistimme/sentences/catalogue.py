"""Every code and its English sentence."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Final

from zweistimme.project.findings import AS_WRITTEN, Figure, Finding

CATALOGUE: Final[Mapping[str, str]] = {
    AS_WRITTEN: "{text}",
    "by-hand": "Put here by hand.",
    "by-hand-late": "Put here by hand, {by_s:.2f} s late.",
    "by-hand-early": "Put here by hand, {by_s:.2f} s early.",
    "on-the-lip": "Starts on the lip.",
    "with-the-original": "Starts with the original.",
    "after-the-original": "Starts {by_s:.2f} s after the original.",
    "before-the-original": "Starts {by_s:.2f} s before the original.",
    "late": "Starts {by_s:.2f} s late.",
    "late-after-another": "Starts {by_s:.2f} s late, since the line before ends only then.",
    "early-for-its-length": "Starts {by_s:.2f} s early, to leave room for its length.",
    "ends-early": "Ends {by_s:.2f} s before the original does.",
    "ends-late-at-any-tempo": "Ends {by_s:.2f} s after the original: its words take longer at any "
    "tempo that is permitted.",
    "runs-on": "Runs {by_s:.2f} s on after the original.",
    "runs-into-pause": "Runs {by_s:.2f} s into the pause before {name}.",
    "clashes": "Speaks {by_s:.2f} s at once with {name}: a pin stands in the way.",
    "natural-tempo": "Natural tempo.",
    "faster": "{percent} % faster.",
    "slower": "{percent} % slower.",
    "pauses-shortened": "Inner pauses shortened by {by_s:.2f} s.",
    "pauses-lengthened": "Inner pauses lengthened by {by_s:.2f} s.",
    "too-long": "{by_s:.1f} s too long whatever is done: take away about {syllables}.",
    "too-long-pinned": "{by_s:.1f} s too long whatever is done: take away about {syllables} or move its pin.",
}
_COUNTED: Final[Mapping[str, tuple[str, str]]] = {"syllables": ("syllable", "syllables")}
"""Figures that are counts, with their words for one and for several."""


def sentence_of(finding: Finding) -> str:
    """A finding as a sentence. A code of a newer Zweistimme is shown as it is, with its figures."""
    template = CATALOGUE.get(finding.code)
    if template is None:
        return " ".join([finding.code, *(f"{name}={value}" for name, value in finding.figures.items())])
    return template.format(**{name: _counted(name, value) for name, value in finding.figures.items()})


def sentences_of(findings: Iterable[Finding]) -> str:
    """Findings as sentences one behind the other."""
    return " ".join(map(sentence_of, findings))


def _counted(name: str, value: Figure) -> Figure:
    words = _COUNTED.get(name)
    return f"{value} {words[value != 1]}" if words else value
