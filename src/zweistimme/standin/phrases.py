"""Translating word by word, with the noun phrases of German and Spanish put right."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from zweistimme.standin.clauses import CONJUNCTIONS, GermanOrder, begins_clause, is_estar, second_person
from zweistimme.standin.grammar import (
    ARTICLES_BACK,
    DETERMINERS,
    Entry,
    entries,
    german_adjective,
    german_determiner,
    lookup,
    spanish_adjective,
    spanish_determiner,
    verbs,
)

_TOKEN: Final = re.compile("\ue000\\d+\ue001|\\d+(?:[.,:]\\d+)*|[^\\W\\d_]+(?:['’\\-][^\\W\\d_]+)*|\\s+|.")
_NUMBER: Final = re.compile(r"^\d+(?:[.,]\d+)*$")
_PERSONS: Final = {
    "en": {"i": 0, "we": 2, "they": 2, "you": 3},
    "de": {"ich": 0, "wir": 2, "sie": 2},
    "es": {"yo": 0, "nosotros": 2, "ellos": 2},
}


_SINGULAR: Final = {"en": {"he", "she", "it", "who"}, "de": {"er", "es", "wer"}, "es": {"él", "ella", "quién"}}
_POLITE: Final = {
    "de": [
        (re.compile(rf"\b{familiar}\b", re.IGNORECASE), polite)
        for familiar, polite in (("du", "Sie"), ("dich", "Sie"), ("dir", "Ihnen"), ("dein", "Ihr"), ("deine", "Ihre"),
                                 ("deinen", "Ihren"), ("deinem", "Ihrem"), ("deiner", "Ihrer"))
    ],
    "es": [
        (re.compile(rf"\b{familiar}\b", re.IGNORECASE), polite)
        for familiar, polite in (("tú", "usted"), ("tu", "su"), ("tus", "sus"))
    ],
}  # fmt: skip
_DEGREES: Final = frozenset({"very", "more", "still", "only"})
_OPENING: Final = frozenset('“„«"')


def key(text: str) -> str:
    """A text without what does not change its meaning here: case, quotes, marks, double spaces.

    >>> key("It turns!") == key("it  turns")
    True
    """
    return " ".join(re.sub(r"[^\w\s']", " ", text.replace("’", "'")).lower().split())


@dataclass(slots=True)
class _State:
    """What has been said so far: the case the next noun stands in, and who the subject is."""

    case: str = "nom"
    person: int = 1
    begun: bool = False
    gender: str = "m"
    """Of the subject, for what is said of it in Spanish."""
    finite: bool = False
    """Whether a verb was said just now that goes with the subject."""
    formal: bool = False
    """Whether whoever is spoken to is addressed formally."""
    awaits_verb: bool = False
    """Whether the subject was a pronoun just now, so that a word that could be a verb is one."""


def word_by_word(sentence: str, source: str, target: str, *, formal: bool = False) -> str:
    """A sentence, word for word, in the order of the source. Unknown words stand in ⟦brackets⟧; numbers, and names
    (capitals inside a sentence, unless the source is German), stay as they are. *formal* says Sie and usted."""
    tokens = _TOKEN.findall(sentence)
    state, order = _State(formal=formal), GermanOrder()
    german, place = source == "en" and target == "de", 0
    while place < len(tokens):
        small, at = _small_words(tokens, place)
        if german and at is not None and begins_clause(small, at, asks=sentence.rstrip().endswith("?")):
            order.begin_clause(_begun(CONJUNCTIONS[small[at]], state))
            state.case, place = "nom", place + 1
            continue
        state.finite = False
        taken, words = _phrase(tokens, place, source, target, state)
        order.add(_begun(words, state), finite=german and state.finite)
        place += taken
    order.finish()
    words = " ".join("".join(order.said).split())
    return _formally(words, target) if formal else words


def _small_words(tokens: list[str], place: int) -> tuple[list[str], int | None]:
    """The words of a sentence in small letters, and which of them stands at a place; None where it is none."""
    places = [k for k, token in enumerate(tokens) if token[0].isalpha()]
    return [tokens[k].lower().replace("’", "'") for k in places], places.index(place) if place in places else None


def _formally(text: str, target: str) -> str:
    """What is said to somebody formally, with the verb that stands there already."""
    for familiar, polite in _POLITE.get(target, ()):
        text = familiar.sub(lambda match, polite=polite: _cased(polite, match.group()), text)  # type: ignore[misc]
    return text


def _cased(word: str, like: str) -> str:
    return word[:1].upper() + word[1:] if like[:1].isupper() else word


def is_attribute(words: list[str], place: int, language: str) -> bool:
    """Whether a word is an adjective that stands before (Spanish: behind) a noun."""
    table = lookup(language)
    entry = table.get(words[place].strip(",.;:!?").lower())
    other = place - 1 if language == "es" else place + 1
    if entry is None or entry[0].kind != "adj" or not 0 <= other < len(words):
        return False
    beside = table.get(words[other].strip(",.;:!?").lower())
    return beside is not None and beside[0].kind == "n"


def _begun(words: str, state: _State) -> str:
    """The first word of a sentence, or of what is quoted, has a capital."""
    if words in _OPENING:
        state.begun, state.case = False, "nom"
    if state.begun or not words.strip() or not words[0].isalpha():
        state.begun = state.begun or words[:1] == "\ue000"
        return words
    state.begun = True
    return words[:1].upper() + words[1:]


def _phrase(tokens: list[str], place: int, source: str, target: str, state: _State) -> tuple[int, str]:
    """How many tokens were taken, and what is said for them."""
    token = tokens[place]
    if not token[0].isalpha():
        return 1, _figures(token, source, target)
    if source == "en" and target in ("de", "es"):
        verb = state.awaits_verb and token.lower() in verbs("en")
        noun_phrase = None if verb else _noun_phrase(tokens, place)
        if noun_phrase is not None:
            taken, determiner, adjectives, noun = noun_phrase
            make = _german if target == "de" else _spanish
            return taken, make(determiner, adjectives, noun, state)
        if token.lower() in DETERMINERS and token.lower() not in lookup("en"):
            alone = german_determiner(token.lower(), "m", state.case) if target == "de" else ""
            return 1, alone or spanish_determiner(token.lower(), "", "m", 0)
    if source == "es" and target == "en":
        swapped = _behind(tokens, place)
        if swapped is not None:
            return swapped
    estar = False
    if source == "en" and target == "es":
        small, at = _small_words(tokens, place)
        estar = at is not None and is_estar(small, at)
    return 1, _word(token, source, target, state, estar=estar)


def _noun_phrase(tokens: list[str], place: int) -> tuple[int, str, tuple[Entry, ...], tuple[Entry, int]] | None:
    """An English article (or none), adjectives and a noun, beginning at *place*."""
    table = lookup("en")
    words = [k for k in range(place, min(place + 9, len(tokens)))]
    determiner, adjectives = "", list[Entry]()
    for k in words:
        token = tokens[k].lower()
        if token.isspace():
            continue
        if k == place and token in DETERMINERS:
            determiner = token
            continue
        entry = table.get(token)
        if entry is None:
            return None
        if entry[0].kind == "adj" or (token in _DEGREES and k > place):
            adjectives.append(entry[0])
        elif entry[0].kind == "n":
            return k - place + 1, determiner, tuple(adjectives), entry
        else:
            return None
    return None


def _german(determiner: str, adjectives: tuple[Entry, ...], noun: tuple[Entry, int], state: _State) -> str:
    entry, number = noun
    singular, plural, own = entry.in_("de")
    gender = "p" if number else own
    case, state.case = state.case, "acc"
    words = [german_determiner(determiner, gender, case)] if determiner else []
    words += [
        german_adjective(word.in_("de")[0], gender, case, determiner) if word.kind == "adj" else word.in_("de")[0]
        for word in adjectives
    ]
    form = plural if number else singular
    if case == "dat" and number and form[-1] not in "ns":
        form += "n"
    if case == "nom":
        state.person = 2 if number else 1
    return " ".join(word for word in [*words, form] if word)


def _spanish(determiner: str, adjectives: tuple[Entry, ...], noun: tuple[Entry, int], state: _State) -> str:
    entry, number = noun
    gender = entry.in_("es")[2]
    form = entry.in_("es")[number]
    words = [spanish_determiner(determiner, form, gender, number)] if determiner else []
    words.append(form)
    words += [
        spanish_adjective(word.in_("es")[0], gender, number) if word.kind == "adj" else word.in_("es")[0]
        for word in adjectives
    ]
    if state.case == "nom":
        state.person, state.gender = 2 if number else 1, gender
    state.case = "acc"
    return " ".join(words)


def _behind(tokens: list[str], place: int) -> tuple[int, str] | None:
    """A Spanish noun with an adjective behind it, in English order."""
    table = lookup("es")
    noun = table.get(tokens[place].lower())
    after = table.get(tokens[place + 2].lower()) if place + 2 < len(tokens) and tokens[place + 1].isspace() else None
    if noun is None or after is None or noun[0].kind != "n" or after[0].kind != "adj":
        return None
    return 3, f"{after[0].in_('en')[0]} {noun[0].in_('en')[noun[1]]}"


def _word(token: str, source: str, target: str, state: _State, *, estar: bool = False) -> str:
    small = token.lower().replace("’", "'")
    article = ARTICLES_BACK.get(source, {}).get(small) if target == "en" else None
    entry = lookup(source).get(small)
    if article is not None and (entry is None or entry[0].kind != "n"):
        return article
    if entry is None:
        name = token[0].isupper() and state.begun and source != "de"
        return token if name else f"⟦{token}⟧"
    verb = verbs(source).get(small) if state.awaits_verb else None
    row, form = verb or entry
    state.awaits_verb = small in _PERSONS[source] or small in _SINGULAR[source]
    state.person = _PERSONS[source].get(small, state.person)
    if small == "you" and state.formal:
        state.person = 1 if target == "es" else 2
    if small == "not" and target == "de":
        return "nicht"
    if row.kind == "v":
        state.case, state.finite = "acc", True
        if estar and row.in_("en")[0] == "be":
            row = _estar()
        if source == "en" and form == 0 and not state.begun:  # no subject before it: somebody is asked to do it
            return f"{row.in_('de')[2]} Sie" if target == "de" else row.in_("es")[1]
        return _verb(row, form, source, target, state.person)
    forms = row.in_(target)
    if row.kind == "pre":
        state.case = forms[1] if len(forms) > 1 else "dat"
        return forms[0]
    if row.kind == "adj" and target == "es":
        return spanish_adjective(forms[0], state.gender, int(state.person == 2))
    return forms[min(form, 1)] if row.kind == "n" else forms[0]


@lru_cache(maxsize=1)
def _estar() -> Entry:
    return next(entry for entry in entries() if entry.kind == "v" and "estoy" in entry.in_("es"))


def _verb(row: Entry, form: int, source: str, target: str, person: int) -> str:
    """The form that fits the subject and the time; each language lists its own."""
    if form < 0:  # am, are, were
        if form == -2 and person == 3 and target != "en":
            return second_person(row.in_(target)[1], target)
        return row.in_(target)[{-1: 0, -2: 2 if target != "en" else 0, -3: -1}[form]]
    past = form == len(row.in_(source)) - 1 and row.in_(source)[-1] not in row.in_(source)[:-1]
    forms = row.in_(target)
    if past:
        return forms[-1]
    if target == "en":
        return forms[1] if (form == 1 if source != "en" else person == 1) else forms[0]
    if source == "en" and person == 3:
        return second_person(forms[1], target)
    return forms[person if source == "en" else min(form, 2)]


def _figures(token: str, source: str, target: str) -> str:
    """Numbers with the marks of the target: English points are commas elsewhere, and the other way round."""
    if not _NUMBER.match(token) or (source == "en") == (target == "en"):
        return token
    return token.translate(str.maketrans(".,", ",."))
