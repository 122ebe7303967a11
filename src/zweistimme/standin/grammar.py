"""Words with their forms, and the agreement of the bundled translator: articles, adjectives and verbs that fit.

English to German and Spanish builds noun phrases (article, adjectives, noun) with gender, number and case; the way
back finds the plain form of every word. It is a stand-in: word order stays that of the source.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Final

COLUMNS: Final = ("en", "de", "es")


@dataclass(frozen=True, slots=True)
class Entry:
    """A row of the dictionary: its kind (n, adj, v, pre, w), and the forms in each language."""

    kind: str
    forms: tuple[tuple[str, ...], ...]

    def in_(self, language: str) -> tuple[str, ...]:
        """The forms in a language."""
        return self.forms[COLUMNS.index(language)]


@lru_cache(maxsize=1)
def entries() -> tuple[Entry, ...]:
    """All rows."""
    text = (files("zweistimme.standin") / "data" / "dictionary.txt").read_text(encoding="utf-8")
    rows = (line.split("|") for line in text.splitlines() if line.strip() and not line.startswith("#"))
    return tuple(
        Entry(kind.strip(), tuple(tuple(form.strip() for form in cell.split(",")) for cell in cells))
        for kind, *cells in rows
    )


@lru_cache(maxsize=4)
def lookup(language: str) -> dict[str, tuple[Entry, int]]:
    """Every form of a language, in small letters, with the place of the form in its row. Earlier rows win, and
    nouns win over verbs."""
    table: dict[str, tuple[Entry, int]] = {}
    for entry in sorted(entries(), key=lambda e: e.kind == "v"):
        forms = entry.in_(language)
        for place, form in enumerate(forms[:2] if entry.kind == "n" else forms[:1] if entry.kind == "pre" else forms):
            for variant in _variants(entry.kind, form, language):
                table.setdefault(variant.lower(), (entry, place))
    return {**verbs(language), **table}


@lru_cache(maxsize=4)
def verbs(language: str) -> dict[str, tuple[Entry, int]]:
    """The forms of verbs alone; those of *to be* that its English row has no room for have negative places."""
    table: dict[str, tuple[Entry, int]] = {}
    for entry in entries():
        if entry.kind == "v":
            for place, form in enumerate(entry.in_(language)):
                table.setdefault(form.lower(), (entry, place))
    if language == "en":
        be = table["be"][0]
        table |= {"am": (be, -1), "are": (be, -2), "were": (be, -3)}
    return table


def _variants(kind: str, form: str, language: str) -> list[str]:
    """A form as it may stand in a text: adjectives with their endings."""
    if kind == "adj" and language == "de":
        stem = {"hoch": "hoh", "dunkel": "dunkl"}.get(form, form)
        return [form, *(stem + ending for ending in ("e", "en", "er", "es", "em"))]
    if kind == "adj" and language == "es":
        return list(dict.fromkeys(spanish_adjective(form, gender, plural) for gender in "mf" for plural in (0, 1)))
    return [form]


# German

_THE: Final = {
    "nom": {"m": "der", "f": "die", "n": "das", "p": "die"},
    "acc": {"m": "den", "f": "die", "n": "das", "p": "die"},
    "dat": {"m": "dem", "f": "der", "n": "dem", "p": "den"},
}  # fmt: skip
_ENDINGS: Final = {  # of ein, kein, mein …
    "nom": {"m": "", "f": "e", "n": "", "p": "e"},
    "acc": {"m": "en", "f": "e", "n": "", "p": "e"},
    "dat": {"m": "em", "f": "er", "n": "em", "p": "en"},
}  # fmt: skip
_MY: Final = {"my": "mein", "your": "dein", "his": "sein", "its": "sein", "her": "ihr", "our": "unser",
              "their": "ihr", "a": "ein", "an": "ein", "no": "kein"}  # fmt: skip
_THIS: Final = {"this": "dies", "these": "dies", "that": "jen", "those": "jen", "every": "jed"}


def german_determiner(word: str, gender: str, case: str) -> str:
    """The article or possessive *word* (English) before a noun; *gender* is m, f, n or p (plural).

    >>> german_determiner("the", "m", "acc"), german_determiner("my", "f", "nom"), german_determiner("this", "n", "dat")
    ('den', 'meine', 'diesem')
    """
    if word in _MY:
        return "" if word in ("a", "an") and gender == "p" else _MY[word] + _ENDINGS[case][gender]
    article = _THE[case][gender]
    if word in _THIS:
        ending = {"der": "er", "die": "e", "das": "es", "den": "en", "dem": "em"}[article]
        return _THIS[word] + ending
    return article


def german_adjective(form: str, gender: str, case: str, determiner: str) -> str:
    """An adjective with its ending after *determiner* (English, or empty).

    >>> german_adjective("alt", "f", "nom", "the"), german_adjective("alt", "m", "nom", "a")
    ('alte', 'alter')
    """
    stem = {"hoch": "hoh", "dunkel": "dunkl"}.get(form, form)
    strong = {
        "nom": {"m": "er", "f": "e", "n": "es", "p": "e"},
        "acc": {"m": "en", "f": "e", "n": "es", "p": "e"},
        "dat": {"m": "em", "f": "er", "n": "em", "p": "en"},
    }[case][gender]
    if not determiner:
        return stem + strong
    weak = "e" if (case == "nom" and gender != "p") or (case == "acc" and gender in "fn") else "en"
    mixed = determiner in _MY and (case, gender) in (("nom", "m"), ("nom", "n"), ("acc", "n"))
    return stem + (strong if mixed else weak)


# Spanish

_EL: Final = {"m": ("el", "los"), "f": ("la", "las")}
_UN: Final = {"m": ("un", "unos"), "f": ("una", "unas")}
_ESTE: Final = {"m": ("este", "estos"), "f": ("esta", "estas")}
_ESE: Final = {"m": ("ese", "esos"), "f": ("esa", "esas")}
_MI: Final = {"my": "mi", "your": "tu", "his": "su", "her": "su", "its": "su", "their": "su"}


def spanish_determiner(word: str, noun: str, gender: str, plural: int) -> str:
    """The article or possessive *word* (English) before *noun*.

    >>> spanish_determiner("the", "agua", "f", 0), spanish_determiner("these", "escalones", "m", 1)
    ('el', 'estos')
    """
    if word in _MI:
        return _MI[word] + ("s" if plural else "")
    if word == "our":
        return ("nuestro", "nuestra")[gender == "f"] + ("s" if plural else "")
    if word == "no":
        return {"m": "ningún", "f": "ninguna"}[gender]
    if word == "every":
        return "cada"
    if word in ("a", "an"):
        return _UN[gender][plural]
    if word in ("this", "these"):
        return _ESTE[gender][plural]
    if word in ("that", "those"):
        return _ESE[gender][plural]
    return "el" if noun == "agua" else _EL[gender][plural]


def spanish_adjective(form: str, gender: str, plural: int) -> str:
    """An adjective that agrees.

    >>> spanish_adjective("viejo", "f", 1), spanish_adjective("azul", "m", 1), spanish_adjective("grande", "f", 0)
    ('viejas', 'azules', 'grande')
    """
    if form.endswith("o") and gender == "f":
        form = form[:-1] + "a"
    if not plural:
        return form
    return form.replace("joven", "jóvenes") if form == "joven" else form + ("s" if form[-1] in "aeiou" else "es")


DETERMINERS: Final = frozenset(("the", *_MY, *_THIS))
"""English words that begin a noun phrase."""
ARTICLES_BACK: Final[dict[str, dict[str, str]]] = {
    "de": {
        **dict.fromkeys(("der", "die", "das", "den", "dem", "des"), "the"),
        **{f"ein{e}": "a" for e in ("", "e", "en", "em", "er", "es")},
        **{f"mein{e}": "my" for e in ("", "e", "en", "em", "er", "es")},
        **{f"dein{e}": "your" for e in ("", "e", "en", "em", "er", "es")},
        **{f"sein{e}": "his" for e in ("", "e", "en", "em", "er", "es")},
        **{f"ihr{e}": "her" for e in ("", "e", "en", "em", "er", "es")},
        **{f"unser{e}": "our" for e in ("", "e", "en", "em", "er", "es")},
        **{f"dies{e}": "this" for e in ("e", "en", "em", "er", "es")},
        **{f"jed{e}": "every" for e in ("e", "en", "em", "er", "es")},
        **{f"kein{e}": "no" for e in ("", "e", "en", "em", "er", "es")},
        "im": "in the", "am": "at the", "zum": "to the", "zur": "to the", "vom": "of the", "ins": "into the",
    },
    "es": {
        **dict.fromkeys(("el", "la", "los", "las"), "the"), "un": "a", "una": "a", "unos": "some", "unas": "some",
        "mi": "my", "mis": "my", "tu": "your", "tus": "your", "su": "his", "sus": "his", "nuestro": "our",
        "nuestra": "our", "este": "this", "esta": "this", "estos": "these", "estas": "these", "ese": "that",
        "esa": "that", "al": "to the", "del": "of the", "cada": "every",
    },
}  # fmt: skip
