"""Language tags (BCP 47) and the names people read."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final

import langcodes
from langcodes.tag_parser import LanguageTagError

from zweistimme.messages import language
from zweistimme.project.errors import TagError

_NAMED: Final = "-x-"
_NAME_WORD: Final = re.compile("[a-z0-9]{1,8}")


def language_tag(tag: str) -> str:
    """The tag in its standard form, or a TagError that says what a tag looks like.

    >>> language_tag("de-de")
    'de-DE'
    """
    try:
        standard = langcodes.standardize_tag(tag)
        valid = langcodes.tag_is_valid(tag)
    except LanguageTagError:
        standard, valid = tag, False
    if not valid:
        raise TagError("“{tag}” is not a language tag. Give one such as en-GB, de-DE or es-ES (BCP 47).", tag=tag)
    return standard


def language_of(tag: str) -> str:
    """The language of a tag, without script, region or anything else; empty for an empty tag.

    >>> language_of("pt-BR"), language_of("zh-Hant-TW")
    ('pt', 'zh')
    """
    return tag.replace("_", "-").split("-")[0].lower()


@lru_cache(maxsize=512)
def region_of(tag: str) -> str:
    """The region of a tag; empty where it names none.

    >>> region_of("zh-Hant-TW"), region_of("es-419"), region_of("gl")
    ('TW', '419', '')
    """
    parts = spoken_tag(tag).split("-")[1:]
    return next((part.upper() for part in parts if len(part) == 2 or (len(part) == 3 and part.isdigit())), "")


def same_language(first: str, second: str) -> bool:
    """Whether two tags, or the three letters of a media file, name one language.

    >>> same_language("ger", "de-AT"), same_language("en", "en-GB"), same_language("", "de")
    (True, True, False)
    """
    first, second = language_of(first), language_of(second)
    if not first or not second:
        return False
    if first == second:
        return True
    try:
        return langcodes.get(first).to_alpha3() == langcodes.get(second).to_alpha3()
    except (LanguageTagError, LookupError):
        return False


SUBSTITUTES: Final = {
    # a language without a voice: related ones that its speakers understand, the closest first
    "gl": ("pt", "es"), "ast": ("es",), "an": ("es",), "ca": ("es",), "ext": ("es",), "lad": ("es",), "pt": ("gl",),
    "nds": ("de",), "gsw": ("de",), "bar": ("de",), "lb": ("de",), "ksh": ("de",), "pdc": ("de",), "yi": ("de",),
    "sco": ("en",), "af": ("nl",), "fy": ("nl",), "li": ("nl",), "nn": ("nb", "no"), "nb": ("no", "da"),
    "no": ("nb", "da"), "da": ("nb", "no"), "fo": ("da",), "bs": ("hr", "sr"), "hr": ("bs", "sr"), "sr": ("hr", "bs"),
    "cnr": ("sr", "hr"), "mk": ("bg",), "be": ("ru",), "sk": ("cs",), "cs": ("sk",), "oc": ("ca", "fr"), "wa": ("fr",),
    "co": ("it",), "scn": ("it",), "vec": ("it",), "ms": ("id",), "id": ("ms",),
}  # fmt: skip


def substitutes_for(tag: str) -> tuple[str, ...]:
    """Languages whose voices may stand in for that of *tag*, the closest first.

    >>> substitutes_for("gl-ES")
    ('pt', 'es')
    """
    return SUBSTITUTES.get(language_of(tag), ())


def spoken_tag(tag: str) -> str:
    """What is spoken in a version: its tag without the name it has been given.

    >>> spoken_tag("de-DE-x-lip-sync"), spoken_tag("de-DE")
    ('de-DE', 'de-DE')
    """
    return tag.partition(_NAMED)[0]


def given_name(tag: str) -> str:
    """The name a version has been given, in small letters; empty if it has none.

    >>> given_name("de-DE-x-lip-sync")
    'lip sync'
    """
    return tag.partition(_NAMED)[2].replace("-", " ")


def named_tag(tag: str, name: str) -> str:
    """A version's tag with a name, so that a language can be there twice: as a private subtag (RFC 5646, 2.2.7), whose
    words have up to eight Latin letters and digits. Without a name, the tag alone.

    >>> named_tag("de-DE-x-old", "Lip sync"), named_tag("de-DE-x-old", "")
    ('de-DE-x-lip-sync', 'de-DE')
    """
    words = name.lower().split()
    if not all(_NAME_WORD.fullmatch(word) for word in words):
        raise TagError(
            "“{name}” is no name for a version. Use words of up to eight letters from a to z and digits.", name=name
        )
    return _NAMED.join([spoken_tag(tag), "-".join(words)]) if words else spoken_tag(tag)


@lru_cache(maxsize=256)
def own_name(tag: str, *, region: bool = True) -> str:
    """A language by its own name, and that which a version has been given.

    >>> own_name("de-DE"), own_name("es-ES", region=False), own_name("de-DE-x-kids", region=False)
    ('Deutsch (Deutschland)', 'Español', 'Deutsch · kids')
    """
    name = langcodes.get(spoken_tag(tag) if region else language_of(tag)).autonym()
    return " · ".join(filter(None, (name[:1].upper() + name[1:], given_name(tag))))


@lru_cache(maxsize=512)
def name_in(tag: str, language: str) -> str:
    """A language by its name in another.

    >>> name_in("en-GB", "de")
    'Englisch (Vereinigtes Königreich)'
    """
    return langcodes.get(tag).display_name(language)


def language_name(tag: str) -> str:
    """A language by its name in the language of the desk.

    >>> language_name("en-GB")
    'English (United Kingdom)'
    """
    return name_in(tag, language())


def english_name(tag: str) -> str:
    """A language by its English name, as files have it."""
    return name_in(tag, "en")


_CODE_LETTERS: Final = 3
_IN_QUICKTIME: Final = {"fre": "fra", "cze": "ces", "rum": "ron", "slo": "slk"}
"""What the QuickTime File Format calls by the terminological code: Macintosh language codes, as ISO 639-2 has them."""


@lru_cache(maxsize=256)
def track_code(tag: str, *, quicktime: bool = False) -> str:
    """The three letters that media containers want: the bibliographic code of ISO 639-2, or, for *quicktime*, that
    of the two which its list of languages has. What is three letters already, as a file has it, is taken as it is.

    >>> track_code("de-DE"), track_code("es-ES"), track_code("fr-FR"), track_code("fr-FR", quicktime=True)
    ('ger', 'spa', 'fre', 'fra')
    >>> track_code("x7x"), track_code("fre", quicktime=True)
    ('x7x', 'fra')
    """
    code = tag if len(tag) == _CODE_LETTERS else langcodes.get(tag).to_alpha3(variant="B")  # a file may have any three
    return _IN_QUICKTIME.get(code, code) if quicktime else code
