"""Sentences of what checks notice about a line's wording."""

from __future__ import annotations

from typing import Final

from zweistimme.messages import msg

CHECKS: Final = {
    "number-missing": "The original has {number}, the wording has not.",
    "number-added": "The wording has {number}, the original has not.",
    "date-other": "{date} is another day than {wanted}.",
    "unit-other": "{measure} is measured otherwise than {wanted}.",
    "term-missing": "“{term}” is “{wanted}” here, and that is not in the wording.",
    "word-forbidden": "“{word}” is not to be used.",
    "word-instead": "“{word}” is not to be used: it is “{instead}” here.",
    "word-regional": "“{word}” was put as “{instead}” here, {times:time|times}.",
    "placeholder-missing": "{placeholder} of the original is lost.",
    "placeholder-added": "{placeholder} is not in the original.",
    "word-unknown": "“{word}” is in no dictionary.",
    "word-unknown-near": "“{word}” is in no dictionary; near it: {near}.",
    "word-doubled": "“{word}” stands twice in a row.",
    "words-untranslated": "“{words}” was not translated.",
    "untranslated": "This is the original.",
    "other-language": "This seems to be {language:language}, not {said:language}.",
    "sentences-lost": "The original has {wanted} sentences, the wording {there}.",
    "sentences-added": "The wording has {there} sentences, the original {wanted}.",
    "address-not-formal": "“{word}” is familiar; {listener} is addressed formally.",
    "address-not-familiar": "“{word}” is formal; {listener} is addressed familiarly.",
    "address-mixed": "“{word}”: {listener} is addressed otherwise in {lines:line|lines}.",
    "length-over": (
        "About {spoken_s:.1f} s to say in {slot_s:.1f} s: {syllables:syllable|syllables} too many for any "
        "permitted tempo."
    ),
    "length-under": "About {spoken_s:.1f} s to say, where {slot_s:.1f} s are seen to be spoken.",
    "question-lost": "The original asks, the wording does not.",
    "question-added": "The wording asks, the original does not.",
    "question-unopened": "The question has no ¿.",
    "end-missing": "The sentence has no mark at its end.",
    "quotes-foreign": "This language quotes {marks}.",
    "quotes-open": "A quotation is not closed, or not opened.",
    "bracket-alone": "{bracket} stands alone.",
    "space-before-mark": "The space before a mark is not as this language has it.",
    "wordings-differ": "“{text}” is put in {ways} ways.",
    "originals-differ": "“{text}” stands for {ways} originals.",
}
KINDS: Final = {
    "number-missing": msg("numbers that are missing"),
    "number-added": msg("numbers that were added"),
    "date-other": msg("other dates"),
    "unit-other": msg("other units"),
    "words-untranslated": msg("words that were not translated"),
    "term-missing": msg("names and terms"),
    "word-forbidden": msg("words that are not to be used"),
    "word-instead": msg("words for which others are used"),
    "word-regional": msg("words that are others in this region"),
    "placeholder-missing": msg("placeholders that are lost"),
    "placeholder-added": msg("placeholders that were added"),
    "word-unknown": msg("words that are in no dictionary"),
    "word-unknown-near": msg("words that are in no dictionary, but for a letter or two"),
    "word-doubled": msg("doubled words"),
    "untranslated": msg("what is not translated"),
    "other-language": msg("other languages"),
    "sentences-lost": msg("sentences that are lost"),
    "sentences-added": msg("sentences that were added"),
    "address-not-formal": msg("familiar words for whom a formal address was agreed"),
    "address-not-familiar": msg("formal words for whom a familiar address was agreed"),
    "address-mixed": msg("forms of address that change"),
    "length-over": msg("lines that are too long"),
    "length-under": msg("lines that are too short"),
    "question-lost": msg("questions that are lost"),
    "question-added": msg("questions that were added"),
    "question-unopened": msg("questions without ¿"),
    "end-missing": msg("missing ends"),
    "quotes-foreign": msg("quotation marks"),
    "quotes-open": msg("open quotations"),
    "bracket-alone": msg("brackets"),
    "space-before-mark": msg("spaces before marks"),
    "wordings-differ": msg("one original put differently"),
    "originals-differ": msg("one wording for several originals"),
}
"""What a kind of them is called."""
