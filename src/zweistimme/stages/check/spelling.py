"""Words that no dictionary has, where the system has one for the language: Enchant finds whatever is installed.

Names, terms and numbers are no matter of spelling, nor is what the original has letter for letter, such as a name
nobody has listed or a word that is quoted.
"""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any, Final

from zweistimme.project.kept_values import KeptValues
from zweistimme.project.languages import language_of, spoken_tag
from zweistimme.project.model import Project
from zweistimme.project.writing import is_unspaced, spoken_text
from zweistimme.project.writing.stems import bare_words
from zweistimme.stages.check.noticed import Looked, Noticed

_WORD: Final = re.compile(r"[^\W\d_]+(?:['’\-][^\W\d_]+)*")
_MOST: Final = 5
"""So many words of a line are noticed; a line with more is in another language, which another check says."""
_MOST_NEAR: Final = 3
_turn = threading.Lock()
_names: KeptValues[frozenset[str]] = KeptValues()


@lru_cache(maxsize=1)
def dictionaries() -> Mapping[str, str]:
    """The dictionaries of this machine, by the tag of their language in small letters; none where Enchant is not
    there."""
    try:
        import enchant
    except ImportError:
        return {}
    return {name.replace("_", "-").casefold(): name for name in enchant.list_languages()}


@lru_cache(maxsize=20)
def _dictionary(tag: str) -> Any:
    """The dictionary of a language and region, else of another region of it; None where there is none."""
    there, wanted, language = dictionaries(), spoken_tag(tag).casefold(), language_of(tag)
    key = wanted if wanted in there else next((one for one in sorted(there) if language_of(one) == language), None)
    return None if key is None else _opened(there[key])


def _opened(name: str) -> Any:
    import enchant

    return enchant.Dict(name)


@lru_cache(maxsize=50_000)
def _is_known(word: str, tag: str) -> bool:
    with _turn:
        return bool(_dictionary(tag).check(word))


def misspelt(looked: Looked) -> Iterator[Noticed]:
    """Words of the wording that the language's dictionary does not have."""
    if _dictionary(looked.tag) is None or is_unspaced(looked.text):
        return
    known = _own_names(looked.project) | {word for word, _, _ in bare_words(looked.source)}
    found = []
    for match in _WORD.finditer(spoken_text(looked.text)):
        word = match.group().replace("’", "'")
        parts = {part for part, _, _ in bare_words(word)}
        no_matter = len(word) < 2 or word.isupper() or parts <= known
        if no_matter or _is_known(word, looked.tag):
            continue
        found.append((word, match.group()))
    for word, written in found if len(found) <= _MOST else ():
        start = looked.text.find(written)
        with _turn:
            near = _dictionary(looked.tag).suggest(word)[:_MOST_NEAR]
        code = "word-unknown-near" if near else "word-unknown"
        more = {"near": ", ".join(near)} if near else {}
        yield looked.noticed(code, start, start + len(written), word=written, **more)


def _own_names(project: Project) -> frozenset[str]:
    """Words of the names of people and of all terms, which are spelled as they are."""

    def made() -> frozenset[str]:
        words = [speaker.name for speaker in project.speakers.values()]
        for term in project.terms.values():
            words.append(term.source)
            words += [text for one in term.renderings.values() for text in (one.text, *one.also)]
        return frozenset(part for text in words for part, _, _ in bare_words(text))

    return _names.get("", (project.speakers, project.terms), made)
