"""From written to spoken words: numbers, years, times, units and abbreviations spelled out, marks as pauses."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

PAUSES_MS: Final = {",": 190, ";": 260, ":": 260, "–": 220, "—": 220, "…": 320, ".": 380, "!": 380, "?": 380}
_KNOWN: Final = ("en", "de", "es")
_ABBREVIATIONS: Final[dict[str, dict[str, str]]] = {
    "en": {
        "mr": "mister", "mrs": "missis", "ms": "miz", "dr": "doctor", "st": "saint", "no": "number", "etc": "et cetera",
        "e.g": "for example", "i.e": "that is", "a.m": "a m", "p.m": "p m", "vs": "versus", "approx": "about",
    },
    "de": {
        "dr": "Doktor", "nr": "Nummer", "usw": "und so weiter", "z.b": "zum Beispiel", "hr": "Herr", "fr": "Frau",
        "d.h": "das heißt", "u.a": "unter anderem", "ca": "circa", "bzw": "beziehungsweise", "str": "Straße",
        "prof": "Professor", "u": "und",
    },
    "es": {
        "sr": "señor", "sra": "señora", "dr": "doctor", "dra": "doctora", "núm": "número", "ud": "usted",
        "uds": "ustedes", "etc": "etcétera", "p.ej": "por ejemplo", "d": "don", "aprox": "aproximadamente",
    },
}  # fmt: skip
_UNITS: Final[dict[str, dict[str, str]]] = {
    "en": {"%": "percent", "€": "euros", "£": "pounds", "$": "dollars", "km": "kilometres", "kg": "kilograms",
           "cm": "centimetres", "mm": "millimetres", "m": "metres", "°C": "degrees", "°": "degrees", "&": "and"},
    "de": {"%": "Prozent", "€": "Euro", "£": "Pfund", "$": "Dollar", "km": "Kilometer", "kg": "Kilogramm",
           "cm": "Zentimeter", "mm": "Millimeter", "m": "Meter", "°C": "Grad", "°": "Grad", "&": "und"},
    "es": {"%": "por ciento", "€": "euros", "£": "libras", "$": "dólares", "km": "kilómetros", "kg": "kilos",
           "cm": "centímetros", "mm": "milímetros", "m": "metros", "°C": "grados", "°": "grados", "&": "y"},
}  # fmt: skip
_LETTERS: Final = {
    "en": "ay bee see dee ee eff gee aitch eye jay kay ell em en oh pee cue ar ess tee you vee double-you ex why zed",
    "de": "ah beh zeh deh eh eff geh hah ih jott kah ell emm enn oh peh kuh err ess teh uh vau weh iks üpsilon zett",
    "es": "a be ce de e efe ge hache i jota ka ele eme ene o pe cu erre ese te u uve doble-uve equis igriega zeta",
}
_CLOCK_WORDS: Final = {"en": ("", ""), "de": (" Uhr ", ""), "es": (" y ", "")}
_MONEY: Final = "€£$"
_ORDINAL: Final = re.compile(r"^(\d+)(st|nd|rd|th|º|ª)$", re.IGNORECASE)
_CLOCK: Final = re.compile(r"^([01]?\d|2[0-3]):([0-5]\d)$")
_MEASURED: Final = re.compile(r"^([€£$]?)(\d+(?:[.,]\d+)*)(%|€|£|\$|°C|°|km|kg|cm|mm|m)?$")
_TOKEN: Final = re.compile(
    r"[€£$]?\d+(?:[.,:]\d+)*(?:%|€|£|\$|°C|°|km\b|kg\b|cm\b|mm\b|m\b|st\b|nd\b|rd\b|th\b|º|ª)?"
    r"|(?:[^\W\d_]\.){2,}|[^\W\d_]+(?:['’\-][^\W\d_]+)*\.?|[,;:–—…!?.]|[%€£$&°]"
)


@dataclass(frozen=True, slots=True)
class SpokenWord:
    """A written word, the words said for it, and the pause that follows it in ms (0: none).

    *ends* is the mark that ended the phrase, or empty.
    """

    written: str
    said: tuple[str, ...]
    pause_ms: int = 0
    ends: str = ""


def language_of(tag: str) -> str:
    """The language part of a tag.

    >>> language_of("de-DE")
    'de'
    """
    return tag.split("-")[0].lower()


def spoken_words(text: str, language: str) -> list[SpokenWord]:
    """Words of *text* as they are said in *language* ("en", "de", "es").

    >>> [word.said for word in spoken_words("In 1884, yes.", "en")]
    [('in',), ('eighteen', 'eighty', 'four'), ('yes',)]
    """
    words: list[SpokenWord] = []
    for piece in text.split():
        said: list[str] = []
        pause, ends = 0, ""
        for token in _TOKEN.findall(piece):
            if token in PAUSES_MS:
                pause, ends = max(pause, PAUSES_MS[token]), token
                continue
            if token == "Uhr" and words and _CLOCK.match(words[-1].written):  # it was said with the time already
                before = words.pop()
                piece, words_of_token, stops = f"{before.written} {piece}", list(before.said), False
            else:
                measured = bool(words) and words[-1].written[-1:].isdigit()
                words_of_token, stops = _said(token, language, measured=measured)
            if stops:
                pause, ends = PAUSES_MS["."], "."
            said += words_of_token
        if said:
            words.append(SpokenWord(piece, tuple(said), pause, ends))
        elif words and pause:
            last = words[-1]
            words[-1] = SpokenWord(last.written, last.said, max(pause, last.pause_ms), ends)
    return words


def _said(token: str, language: str, *, measured: bool) -> tuple[list[str], bool]:
    """What is said for a token, and whether its full stop ends the sentence; a unit stands behind a number."""
    bare = token.rstrip(".")
    short = _ABBREVIATIONS.get(language, {}).get(bare.lower()) if token.endswith(".") else None
    unit = _UNITS.get(language, {}).get(bare)
    text = short or (unit if measured or not bare.isalpha() else None) or _number(bare, language) or bare
    return text.lower().replace("-", " ").replace(".", " ").split(), token.endswith(".") and short is None


def _number(token: str, language: str) -> str | None:
    """Numbers with what clings to them: units and money, clock times, ordinals, years."""
    known = language if language in _KNOWN else "en"
    clock = _CLOCK.match(token)
    if clock:
        return _clock(int(clock.group(1)), int(clock.group(2)), known)
    ordinal = _ORDINAL.match(token)
    if ordinal:
        return _words(int(ordinal.group(1)), known, "ordinal")
    measured = _MEASURED.match(token)
    if not measured:
        return None
    figure, unit = measured.group(2), measured.group(1) or measured.group(3) or ""
    price = re.fullmatch(r"(.*\d)[.,](\d\d)", figure) if unit in _MONEY else None
    if price:
        return f"{_cardinal(price.group(1), known)} {_UNITS[known][unit]} {_words(int(price.group(2)), known)}"
    return f"{_cardinal(figure, known)} {_UNITS[known].get(unit, '')}".strip()


def _clock(hours: int, minutes: int, language: str) -> str:
    between = _CLOCK_WORDS[language][0] or (" oh " if 0 < minutes < 10 else " ")
    tail = _words(minutes, language) if minutes else {"en": "o'clock", "de": "", "es": "en punto"}[language]
    return f"{_words(hours, language)}{between if minutes or language == 'de' else ' '}{tail}"


def _words(number: float, language: str, to: str = "cardinal") -> str:
    from num2words import num2words

    return str(num2words(number, lang=language, to=to)).replace(",", " ")


def _cardinal(token: str, language: str) -> str:
    point = "." if language == "en" else ","
    group = "," if point == "." else "."
    grouped = re.fullmatch(rf"\d{{1,3}}(?:\{group}\d{{3}})+(?:\{point}\d+)?", token)
    plain = (token.replace(group, "") if grouped else token).replace(point, ".")
    if plain.isdigit():
        is_year = not grouped and len(plain) == 4 and 1100 <= int(plain) <= 1999 and language != "es"
        return _words(int(plain), language, "year" if is_year else "cardinal")
    if re.fullmatch(r"\d+\.\d+", plain):
        return _words(float(plain), language)
    return " ".join(_words(int(part), language) for part in re.findall(r"\d+", token))


def said_as(text: str, way: str, language: str) -> list[SpokenWord]:
    """*text* said the way SSML's ``say-as`` asks: characters, digits, telephone, cardinal, ordinal; else as usual.

    >>> said_as("3", "ordinal", "en")[0].said
    ('third',)
    """
    known = language if language in _KNOWN else "en"
    written = " ".join(text.split())
    digits = re.sub(r"\D", "", text)
    if way in ("characters", "spell-out", "digits", "telephone"):
        said = _spelled(written, known)
    elif way == "ordinal" and digits:
        said = _words(int(digits), known, "ordinal")
    elif way in ("cardinal", "number") and digits:
        said = _words(int(digits), known)
    else:
        return spoken_words(text, language)
    words = tuple(said.lower().replace("-", " ").split())
    return [SpokenWord(written, words)] if words else []


def _spelled(text: str, language: str) -> str:
    names = _LETTERS[language].split()
    said = []
    for letter in text.lower():
        if letter.isdigit():
            said.append(_words(int(letter), language))
        elif "a" <= letter <= "z":
            said.append(names[ord(letter) - ord("a")])
        elif letter.isalpha():
            said.append(letter)
    return " ".join(said)
