"""CTM, the time-marked words of NIST's scoring tools: ``file channel start duration word [confidence]`` a line."""

from __future__ import annotations

from dataclasses import dataclass

from zweistimme.project.errors import FormatError
from zweistimme.project.times import seconds_to_us


@dataclass(frozen=True, slots=True)
class MarkedWord:
    """A word and its time."""

    text: str
    start_us: int
    end_us: int
    confidence: float = 1.0


def parse_ctm(text: str, where: str) -> list[MarkedWord]:
    """Words in order of time. Lines that begin with ``;;`` are comments; a wrong line is named.

    >>> parse_ctm("demo 1 0.50 0.25 tide 0.9", "x.ctm")
    [MarkedWord(text='tide', start_us=500000, end_us=750000, confidence=0.9)]
    """
    words = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.startswith(";;"):
            continue
        fields = line.split()
        try:
            start, length = float(fields[2]), float(fields[3])
            confidence = float(fields[5]) if len(fields) > 5 else 1.0
            word = fields[4]
        except (IndexError, ValueError):
            raise FormatError(
                f"{where}, line {number}: “{line[:60]}” is not CTM (file channel start duration word confidence)."
            ) from None
        if not (0 <= start < 1e6 and 0 <= length < 1e6):
            raise FormatError(f"{where}, line {number}: the time of “{word}” makes no sense.")
        share = min(max(confidence, 0.0), 1.0)
        words.append(MarkedWord(word, seconds_to_us(start), seconds_to_us(start + length), share))
    return sorted(words, key=lambda word: (word.start_us, word.end_us))
