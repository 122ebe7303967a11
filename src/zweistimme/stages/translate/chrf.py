"""How much of a text is in another one, by its letters: chrF (Popović 2015, WMT 10, section 2)."""

from __future__ import annotations

from collections import Counter
from typing import Final

_LONGEST: Final = 6
_BETA: Final = 2.0


def chrf(text: str, reference: str) -> float:
    """From 0 to 100: the F-score of runs of 1 to 6 letters, spaces left out, what is missing counted twice as much as
    what was added (beta 2); precision and recall are means over all lengths that both texts have.

    >>> chrf("Hand me the lantern.", "Hand me the lantern."), chrf("", "Hand me the lantern.")
    (100.0, 0.0)
    >>> round(chrf("Give me the lantern.", "Hand me the lantern."))
    72
    """
    said, wanted = "".join(text.split()), "".join(reference.split())
    precisions, recalls = [], []
    for length in range(1, _LONGEST + 1):
        there, asked = _runs(said, length), _runs(wanted, length)
        if there and asked:
            shared = (there & asked).total()
            precisions.append(shared / there.total())
            recalls.append(shared / asked.total())
    if not precisions:
        return 100.0 if said == wanted else 0.0
    precision, recall = sum(precisions) / len(precisions), sum(recalls) / len(recalls)
    weight = _BETA * _BETA
    return 100 * (1 + weight) * precision * recall / (weight * precision + recall) if precision + recall else 0.0


def _runs(text: str, length: int) -> Counter[str]:
    return Counter(text[k : k + length] for k in range(len(text) - length + 1))
