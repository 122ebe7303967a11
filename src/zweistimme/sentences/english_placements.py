"""Why a take stands where it stands."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

PLACEMENTS: Final[Mapping[str, str]] = {
    "by-hand": "Put here by hand.",
    "by-hand-late": "Put here by hand, {by_s:.2f} s late.",
    "by-hand-early": "Put here by hand, {by_s:.2f} s early.",
    "on-the-lip": "Starts on the lip.",
    "with-the-original": "Starts with the original.",
    "after-the-original": "Starts {by_s:.2f} s after the original.",
    "before-the-original": "Starts {by_s:.2f} s before the original.",
    "bound-by-the-one-before": "{name} before it holds it back by {by_s:.2f} s.",
    "bound-by-the-one-behind": "{name} behind it keeps it {by_s:.2f} s away from where it would be.",
    "well-if-shorter": "With {by_s:.2f} s less, about {syllables:syllable|syllables}, it would stand well.",
    "late": "Starts {by_s:.2f} s late.",
    "late-after-another": "Starts {by_s:.2f} s late, since the line before ends only then.",
    "early-for-its-length": "Starts {by_s:.2f} s early, to leave room for its length.",
    "ends-early": "Ends {by_s:.2f} s before the original does.",
    "ends-late-at-any-tempo": "Ends {by_s:.2f} s after the original: its words take longer at any "
    "tempo that is permitted.",
    "runs-on": "Runs {by_s:.2f} s on after the original.",
    "runs-into-pause": "Runs {by_s:.2f} s into the pause before {name}.",
    "clashes": "Speaks {by_s:.2f} s at once with {name}: a pin stands in the way.",
    "waits-for-its-word": "What is held of “{word}” waits: this take does not say it.",
    "natural-tempo": "Natural tempo.",
    "faster": "{percent}\u00a0% faster.",
    "slower": "{percent}\u00a0% slower.",
    "pauses-shortened": "Inner pauses shortened by {by_s:.2f} s.",
    "pauses-lengthened": "Inner pauses lengthened by {by_s:.2f} s.",
    "behind-end": "Its last {by_s:.2f} s lie behind the end of the programme and are not heard.",
    "too-long": "{by_s:.1f} s too long whatever is done: take away about {syllables:syllable|syllables}.",
    "too-long-pinned": "{by_s:.1f} s too long whatever is done: take away about {syllables:syllable|syllables} or "
    "move its pin.",
}
