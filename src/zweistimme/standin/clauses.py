"""Where German puts its verbs, what Spanish calls being, and how somebody is said du to: the clauses of the bundled
translator."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

CONJUNCTIONS: Final = {"because": "weil", "if": "wenn", "when": "wenn", "that": "dass", "while": "während"}
"""English words that begin a clause whose verb comes last in German."""
_ENDS: Final = frozenset(",.;:!?…")
_STATES: Final = frozenset(
    ["wet", "dry", "cold", "warm", "open", "closed", "ready", "lost", "tired", "alone", "broken", "full", "empty",
     "quiet", "dead", "asleep", "awake", "late", "far", "near", "here", "there", "ill", "well"]
)  # fmt: skip
"""How something is just now, or where: estar; what it is: ser."""
_PLACES: Final = frozenset(["in", "on", "at", "under", "over", "behind", "before", "between", "near", "with", "from"])
_BETWEEN: Final = frozenset(["not", "very", "still", "again", "now", "always", "only", "already", "so"])
_SUBJECTS: Final = frozenset(
    ["i", "you", "he", "she", "it", "we", "they", "the", "a", "an", "my", "your", "his", "her", "our", "their"]
)
_SECOND: Final = {"ist": "bist", "wird": "wirst", "weiß": "weißt", "es": "eres"}


def second_person(third: str, target: str) -> str:
    """The form of a verb for one person who is said du or tú to, made of that for the third.

    >>> [second_person(form, "de") for form in ("geht", "findet", "liest", "muss", "ist")]
    ['gehst', 'findest', 'liest', 'musst', 'bist']
    >>> second_person("ve", "es"), second_person("es", "es")
    ('ves', 'eres')
    """
    if third in _SECOND:
        return _SECOND[third]
    if target == "es":
        return third + "s"
    base = third.removesuffix("t")
    return base + ("t" if base[-1:] in "sßzx" else "st")


def is_estar(words: Sequence[str], place: int) -> bool:
    """Whether *to be*, at a place among English words in small letters, says how or where something is just now.

    >>> is_estar("the steps are wet".split(), 2), is_estar("the clock is old".split(), 2)
    (True, False)
    >>> is_estar("where is the bell".split(), 1), is_estar("she is not in the house".split(), 1)
    (True, True)
    """
    if place and words[place - 1] == "where":
        return True
    after = next((word for word in words[place + 1 :] if word not in _BETWEEN), "")
    return after in _STATES or after in _PLACES


def begins_clause(words: Sequence[str], place: int, *, asks: bool) -> bool:
    """Whether a word, at a place among English words in small letters, begins a clause whose verb comes last: *that*
    and *when* do only where they are no pronoun and no question.

    >>> begins_clause("i know that he sings".split(), 2, asks=False)
    True
    >>> begins_clause("that man sings".split(), 0, asks=False)
    False
    """
    word = words[place]
    if word not in CONJUNCTIONS:
        return False
    if word == "when" and asks:
        return False
    follows = words[place + 1] if place + 1 < len(words) else ""
    return word != "that" or (place > 0 and follows in _SUBJECTS)


class GermanOrder:
    """Puts words in the order of German while they come: the verb last in a clause that a conjunction begins, and first
    in the main clause behind such a one."""

    def __init__(self) -> None:
        self.said: list[str] = []
        self._held = ""
        self._last = self._first = self._leads = False
        self._began = 0

    def begin_clause(self, word: str) -> None:
        """A conjunction comes."""
        if self.said and self.said[-1].isspace() and len(self.said) > 1 and self.said[-2] not in _ENDS:
            self.said[-1] = ", "
        self._leads = not "".join(self.said).strip()
        self.said.append(word)
        self._last = True

    def add(self, words: str, *, finite: bool) -> None:
        """Some words come, a *finite* verb or others."""
        if words in _ENDS:
            self._end(words)
        elif finite and self._last and not self._held:
            self._held = words
        elif finite and self._first:
            self.said[self._began : self._began] = [words, " "]
            self._first = False
        else:
            self.said.append(words)

    def _end(self, mark: str) -> None:
        led = self._last and self._leads
        self.finish()
        while self.said and self.said[-1].isspace():
            self.said.pop()
        self.said.append(mark)
        if led and mark == ",":
            self._first = True
            self.said.append(" ")
            self._began = len(self.said)

    def finish(self) -> None:
        """No more comes in this clause."""
        if self._held:
            while self.said and self.said[-1].isspace():
                self.said.pop()
            self.said += [" ", self._held]
        self._held, self._last, self._first = "", False, False
