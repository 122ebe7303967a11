"""Edits of terms: pure functions ``Project -> Project``, each total."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Final

from zweistimme.project.access import without_keys
from zweistimme.project.errors import EditError
from zweistimme.project.facts import fingerprint
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project
from zweistimme.project.row_changes import with_rows
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.project.writing import ends_sentence, one_line, words_in

LONGEST_TERM: Final = 500
LONGEST_NOTE: Final = 2_000
_LONGEST_NAME: Final = 4
MOST_TERMS: Final = 20_000
_MOST_WORDS: Final = 50
_AROUND_IPA: Final = re.compile(r"^[/\[]\s*|\s*[/\]]$")


def key_for(project: Project, source: str) -> str:
    """The key a new term is kept by: of its words, and a number where there are several of the same."""
    return _free(project.terms, source)


def _free(terms: Mapping[str, Term], source: str) -> str:
    key, number = fingerprint("term", source), 1
    while key in terms:
        number += 1
        key = fingerprint("term", source, number)
    return key


def put_term(project: Project, key: str, term: Term) -> Project:
    """Keep a term, a new one or another in the place of the one that had the key."""
    return put_terms(project, {key: term})


def put_terms(project: Project, terms: Mapping[str, Term]) -> Project:
    """Keep several at once."""
    clean = {key: cleaned(term) for key, term in terms.items()}
    changed = {key: term for key, term in clean.items() if project.terms.get(key) != term}
    if not changed:
        return project
    after = with_rows(project.terms, changed)
    if len(after) > MOST_TERMS:
        raise EditError(
            "These are {count:,} names and terms; a project has {most_terms:,} at most.",
            count=len(after),
            most_terms=MOST_TERMS,
        )
    return replace(project, terms=after)


def remove_terms(project: Project, keys: Iterable[str]) -> Project:
    """Take terms away."""
    keys = set(keys)
    if not keys <= project.terms.keys():
        raise EditError("This term is not in the project any more.")
    return replace(project, terms=without_keys(project.terms, keys)) if keys else project


def set_terms_said(project: Project, words: Iterable[str]) -> Project:
    """Say which names and terms are said in the programme. Those that are known stay as they are; new ones are kept as
    they are written, in every language, until somebody says what they are there, but for whole sentences; the others
    go."""
    wanted = list(dict.fromkeys(filter(None, map(one_line, words))))
    known = {term.source for term in project.terms.values()}
    gone = [key for key, term in project.terms.items() if term.source not in set(wanted)]
    project = remove_terms(project, gone)
    return put_terms(project, {key_for(project, one): _said(one) for one in wanted if one not in known})


def _said(words: str) -> Term:
    """Something that is said: a name or a term stays as it is, a sentence does not."""
    count = len(words_in(words))
    return Term(words, kept=count <= _LONGEST_NAME and not (count > 1 and ends_sentence(words)))


def merged(project: Project, terms: Iterable[Term]) -> tuple[Project, int, int]:
    """Take in terms from elsewhere; how many are new, and how many say more of one that is here. What is here stays:
    of the same words with the same part of speech, what is missing is added, and nothing is replaced."""
    there = dict(project.terms)
    by_words = {(term.source.casefold(), term.part): key for key, term in there.items()}
    new, more = set[str](), set[str]()
    for term in map(cleaned, terms):
        key = by_words.get((term.source.casefold(), term.part))
        key = key or by_words.get((term.source.casefold(), PartOfSpeech.UNKNOWN))
        if key is None:
            key = _free(there, term.source)
            by_words[term.source.casefold(), term.part] = key
            there[key] = term
            new.add(key)
        elif (both := _added(there[key], term)) != there[key]:
            there[key] = both
            more.add(key)
    return put_terms(project, {key: there[key] for key in new | more}), len(new), len(more - new)


def with_terms_of(project: Project, terms: Iterable[Term]) -> Project:
    """Take in terms from elsewhere."""
    return merged(project, terms)[0]


def _added(known: Term, other: Term) -> Term:
    renderings = dict(known.renderings)
    for tag, rendering in other.renderings.items():
        mine = renderings.get(tag, Rendering())
        used = _all((mine.text,), mine.also, (rendering.text,), rendering.also, but=mine.forbidden)
        unused = _all(mine.forbidden, rendering.forbidden, but=used)
        said = mine.pronunciation or rendering.pronunciation
        renderings[tag] = Rendering(used[0] if used else "", used[1:], unused, said)
    return replace(
        known,
        renderings=renderings,
        note=known.note or other.note,
        part=known.part or other.part,
        pronunciation=known.pronunciation or other.pronunciation,
        kept=known.kept or other.kept,
    )


def _all(*words: Iterable[str], but: Iterable[str] = ()) -> tuple[str, ...]:
    """Words of all, each once and in order, *but* some."""
    return tuple(dict.fromkeys(one for several in words for one in several if one and one not in set(but)))


def cleaned(term: Term) -> Term:
    """A term as it is kept: one line each, nothing that says nothing. EditError where it cannot be one."""
    source = _short(term.source)
    if not source:
        raise EditError("A term has no words. Say what it is in the original.")
    renderings = {}
    for tag, rendering in term.renderings.items():
        clean = _clean_rendering(rendering)
        if clean != Rendering():
            renderings[language_tag(tag)] = clean
    return replace(
        term,
        source=source,
        renderings=renderings,
        note=_short(term.note, LONGEST_NOTE),
        pronunciation=bare_ipa(term.pronunciation),
    )


def _clean_rendering(rendering: Rendering) -> Rendering:
    text = _short(rendering.text)
    also = _all(map(_short, rendering.also), but=(text,))
    if also and not text:
        text, also = also[0], also[1:]
    forbidden = _all(map(_short, rendering.forbidden))
    if max(len(also), len(forbidden)) > _MOST_WORDS:
        raise EditError("“{text}” has more than {most} words that may or may not be used.", text=text, most=_MOST_WORDS)
    unused = {word.casefold() for word in forbidden}
    both = next((word for word in (text, *also) if word.casefold() in unused), None)
    if both is not None:
        raise EditError("“{text}” is to be used and not to be used at once. Leave it out of one of them.", text=both)
    return Rendering(text, also, forbidden, bare_ipa(rendering.pronunciation))


def bare_ipa(text: str) -> str:
    """IPA without the strokes or brackets around it.

    >>> bare_ipa(" /ˈmɪərə/ ")
    'ˈmɪərə'
    """
    return _AROUND_IPA.sub("", _short(text))


def _short(text: str, longest: int = LONGEST_TERM) -> str:
    line = one_line(text)
    if len(line) > longest:
        raise EditError(
            "“{too_long}…” is longer than {longest_term} letters. Give names and terms, one a line.",
            too_long=line[:40],
            longest_term=longest,
        )
    return line
