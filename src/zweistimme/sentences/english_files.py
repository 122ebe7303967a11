"""What is said of a file that was read: what was mended in it, and what of it is not kept."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

FILES: Final[Mapping[str, str]] = {
    "row-repaired": (
        "A row of the project broke a rule and was put right: {kind} {key} ({why}). What it was is kept beside it."
    ),
    "row-set-aside": (
        "A row of the project could not be read and was set aside: {kind} {key} ({why}). It is kept, and not used."
    ),
    "file-written": "{file} is written.",
    "rows-without-line": "{rows:row|rows} of {file} left out: of no line.",
    "own-timecode": "{file} counts from the timecode {timecode}; so do we.",
    "file-in-other-language": "{file} says it is in {says:language}; the programme is in {programme:language}.",
    "before-the-beginning": "{segments:segment|segments} of {file} before the beginning left out.",
    "no-such-line": "{file}: there is no line {line} (lines go from 1 to {lines}); it is left out.",
    "line-without-wording": "{file}: line {line} has no wording in {version} yet; it is left out.",
    "clip-of-line": "{file} is taken for line {line}: “{text}” is heard in it.",
    "clip-of-no-line": "{file}: “{text}” is heard in it, which is no line, or as much one as another; it is left out.",
    "clips-without-number": (
        "{clips:clip has|clips have} no number in {clips:its name and is|their names and are} left out: {names}{more}. "
        "Have them told by what is heard in them, or name them by their lines."
    ),
    "file-unusable": "{file}: {why}",
    "lines-without-clip": "No clip for {lines:line|lines} in {version}: {numbers}{more}.",
    "number-chosen": "{file} is taken for line {line}: that number tells the clips apart.",
    "number-unclear": (
        "{file} could be line {lines}: neither what is missing nor its length tells which, so no clip of the folder is "
        "taken. Name clips by the line's number alone, such as 012.wav, or import them at their line."
    ),
    "mixed-to-one": "{file}: its two channels are mixed to one.",
    "no-segment": "{file}: no segment at {at_us:clock} for “{text}”; it is left out.",
    "segments-without-caption": "{file}: {segments:segment has|segments have} no caption ({places}).",
    "no-times": "{file} has no times; align it as a script instead.",
    "caption-split": "{people} people speak in one caption; it is split, check who says what",
    "words-cut": "{words:,} words were cut into {segments:,} segments",
    "other-clock": "its clock is not the programme's own; check where it starts",
    "line-inside-caption": "an empty line stood inside the caption; its words are kept",
    "broadcast-clock": "its clock is tied to a broadcast's (X-TIMESTAMP-MAP); if it lies apart, give an offset",
    "stray-line": "“{words}” belongs to no caption and is left out",
    "word-times-left-out": "the times of its words are not in order, or not for one speaker; left out",
    "comma-kept": "its words have a comma and no quotation marks; all of them are kept",
    "behind-last-column": "“{words}” stands behind the last column and is left out",
    "utf-16-unmarked": "the file is UTF-16 without a mark",
    "not-utf-8": (
        "the file is not UTF-8; it was read as {encoding}. If letters are wrong, say which it is (--encoding)"
    ),
    "other-recording": "{words:word|words} of another recording, “{name}”, left out",
    "alternatives-left-out": "{words:word|words} of second alternatives left out",
    "turn-without-time": "the turn of {speaker} lasts no time and is left out",
    "page-left-out": "{letters:,} of {all:,} letters of the page are not its article and left out",
    "caption-without-words": "a caption without words is left out",
    "caption-before": "“{text}” lies before the beginning and is left out",
    "started-before": "it started before the beginning; it now starts with it",
    "out-of-order": "captions were out of order at {places:place|places}; they are sorted",
    "end-guessed": "“{text}” {what}; its end is guessed from its length",
    "twin-left-out": "“{text}” stands there twice; the second is left out",
    "overlap-mended": "the one above overlapped it by {by_ms} ms; that one ends earlier",
    "tags-left-out": "{count:tag|tags} for type and colour left out",
    "places-left-out": "the place on the picture of {count:caption|captions} left out",
    "style-left-out": "{count:block of styles|blocks of styles} left out",
    "region-left-out": "{count:region|regions} left out",
    "note-left-out": "{count:note|notes} left out",
    "blocks-left-out": "{count:heading, table or block of code|headings, tables and blocks of code} left out",
    "headings-left-out": "{count:heading|headings} left out",
    "no-speakers-in-ctm": "speakers are not in CTM; write RTTM beside it",
    "rttm-type-unknown": "“{type}” is no type of line that RTTM has; the line is left out. Was SPEAKER meant?",
    "no-words-in-rttm": "words are not in RTTM; write CTM beside it",
    "no-confidences": "confidences are not in {kind}; write JSON or CTM for them",
    "no-word-times": "times of single words are not in {kind}; write JSON or CTM for them",
    "wordless-left-out": "{stretches:stretch|stretches} of speech without words left out",
    "more-of-these": "and {count:,} more of these",
    "behind-the-end": "{segments:segment that starts|segments that start} after the programme ends left out",
    "cut-at-the-end": "{segments:segment ended late and now ends|segments ended late and now end} with the programme",
}
