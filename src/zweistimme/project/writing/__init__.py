"""Writing systems: the one place that knows how text is cut, put together, counted, turned and said.

Nothing else splits at spaces or counts signs. Unicode text segmentation (UAX #29) and line breaking (UAX #14) come
from uniseg, the phrases of Japanese, Chinese and Thai from BudouX.
"""

from zweistimme.project.writing.duration import inner_marks, rate_for, spoken_us
from zweistimme.project.writing.scripts import (
    RTL_MARK,
    graphemes,
    is_rtl,
    is_unspaced,
    letters,
    runs_right_to_left,
    script_of,
)
from zweistimme.project.writing.sentences import (
    directed_parts,
    ends_clause,
    ends_sentence,
    head_direction,
    is_question,
    sentence_places,
    sentences,
    spoken_text,
    stands_between_words,
    without_parentheticals,
)
from zweistimme.project.writing.syllables import syllables
from zweistimme.project.writing.tokens import Span, joined, one_line, spans_of_words, word_spans, words_in

__all__ = [
    "RTL_MARK",
    "Span",
    "directed_parts",
    "ends_clause",
    "ends_sentence",
    "graphemes",
    "head_direction",
    "inner_marks",
    "is_question",
    "is_rtl",
    "is_unspaced",
    "joined",
    "letters",
    "one_line",
    "rate_for",
    "runs_right_to_left",
    "script_of",
    "sentence_places",
    "sentences",
    "spans_of_words",
    "spoken_text",
    "spoken_us",
    "stands_between_words",
    "syllables",
    "without_parentheticals",
    "word_spans",
    "words_in",
]
