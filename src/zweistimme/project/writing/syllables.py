"""How much there is to say: syllables, or morae in Japanese, counted by the rules of each script.

The counts are approximations that serve a gauge, within some ten percent on running text; numbers are counted as
they are read.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Final

from zweistimme.project.languages import language_of
from zweistimme.project.writing.numbers import said_number
from zweistimme.project.writing.scripts import HAN, KANA
from zweistimme.project.writing.sentences import spoken_text

_LATIN_VOWELS: Final = "aeiouyäöüáéíóúýàèìòùâêîôûåæøœãõāēīōūąęėįųůűőăıơưạảấầẩẫậắằẳẵặẹẻẽếềểễệỉịọỏốồổỗộớờởỡợụủứừửữựỳỵỷỹ"
_CYRILLIC_VOWELS: Final = "аеёиоуыэюяіїєөүұә"
_GREEK_VOWELS: Final = "αεηιουωάέήίόύώϊϋΐΰ"
_VOWELS: Final = re.compile(f"[{_LATIN_VOWELS}]+")
_CYRILLIC: Final = re.compile(f"[{_CYRILLIC_VOWELS}]")
_GREEK: Final = re.compile(r"αι|ει|οι|ου|υι|αί|εί|οί|ού|αυ|ευ|ηυ|αύ|εύ|ι[αάοόεέ]|" + f"[{_GREEK_VOWELS}]")
_SILENT_E: Final = re.compile(r"[^aeiouyl]e$|[^aeiouycghsxz]es$|[^aeioudt]ed$")
_FRENCH_SILENT: Final = re.compile(r"(?<=[^aeiouyéèêàâîôûù])(?:e|es|ent)$")
_HIATUS: Final = re.compile(r"[íú][aeo]|[aeo][íú]|[aeoáéó][aeoáéó]")
_SLAVIC_LIQUID: Final = re.compile(r"(?<=[^aeiouyáéíóúůěý])[rl](?=[^aeiouyáéíóúůěýrl]|$)")
_MARKS: Final = (
    r"\u0300-\u036f\u0591-\u05c7\u064b-\u0652\u0900-\u0dff\u0e31-\u0e4e\u0eb1-\u0ecd\u102b-\u109d\u17b4-\u17d3"
    r"\u200c\u200d'’"
)
_WORD: Final = re.compile(rf"\d+(?:[.,]\d+)*|[^\W\d_]+(?:[{_MARKS}]*[^\W\d_]*)*")
_PART: Final = re.compile(
    rf"[{HAN}]+|[{KANA}]+|[\uac00-\ud7af]+|[\u0e00-\u0e7f]+|[\u0e80-\u0eff]+|[\u1000-\u109f]+|[\u1780-\u17ff]+|"
    r"[\u0900-\u0dff\u200c\u200d]+|[\u1200-\u139f]+|[\u0f00-\u0fff]+|[\u0590-\u05ff\ufb1d-\ufb4f]+|"
    r"[\u0600-\u06ff\u0750-\u077f\ufb50-\ufdff\ufe70-\ufefc]+|[Ͱ-Ͽἀ-῿]+|[\u0400-\u052f]+|[\u10a0-\u10ff]+|"
    r"[\u0530-\u058f]+|.[^\W\d_]*"
)
_SMALL_KANA: Final = re.compile("[ぁぃぅぇぉゃゅょゎァィゥェォャュョヮ]")
_MORAE_A_KANJI: Final = 1.9
_INDIC: Final = tuple(range(0x0900, 0x0D80, 0x80))
"""Where the blocks of the scripts of India begin; they are laid out alike, Sinhala apart."""


def _of_indic(first: int, last: int) -> str:
    """The same stretch of every block, for a pattern."""
    return "".join(f"{chr(block + first)}-{chr(block + last)}" for block in _INDIC)


_VIRAMA: Final = _of_indic(0x4D, 0x4D) + "\u0dca"
_INDIC_CONSONANT: Final = _of_indic(0x15, 0x39) + "\u0958-\u095f\u0d9a-\u0dc6"
_INDIC_INITIAL: Final = re.compile(f"[{_of_indic(0x05, 0x14)}\u0d85-\u0d96]")
_INDIC_HEAD: Final = re.compile(f"[{_INDIC_CONSONANT}]\u093c?(?![{_VIRAMA}])")
_INDIC_BARE_END: Final = re.compile(f"[{_INDIC_CONSONANT}]\u093c?$")
_INDIC_BARE_INNER: Final = re.compile(
    f"(?<=[\u093e-\u094c\u0962\u0963])[{_INDIC_CONSONANT}]\u093c?(?=[{_INDIC_CONSONANT}][\u093e-\u094c])"
)
_DROPS_SCHWA: Final = ("hi", "mr", "pa", "gu", "bn", "as", "ne", "ur", "bho", "mai")
_THAI: Final = re.compile(
    "เ[\u0e01-\u0e2e]{1,2}ี[่-๋]?ย|เ[\u0e01-\u0e2e]{1,2}ื[่-๋]?อ|"
    "[เแโ][\u0e01-\u0e2e]{1,2}[\u0e31-\u0e37\u0e47่-๋]*[าะ]?|[ใไ]|ั[่-๋]?ว|[ะัาำิีึืฺุู็]"
)
_THAI_BARE: Final = re.compile("(?<![ะ-ูเ-ๆ็-๎])[\u0e01-\u0e2e][่-๋]?[\u0e01-\u0e2e](?![ะ-ู็-๎])")
_LAO: Final = re.compile("ເ[\u0e81-\u0eae]{1,2}[ັ-ົ]*[ຍອາະ]?|[ແໂໃໄ]|[ະັາຳິີຶືຸູົ]|ໍ")
_BURMESE: Final = re.compile("[\u1000-\u102a](?!\u103a|\u1039)(?![\u1037\u1038]*\u103a)")
_KHMER_BASE: Final = re.compile("(?<!\u17d2)[\u1780-\u17b3]")
_BASES_A_SYLLABLE: Final = 1.55
_HEBREW_VOWEL: Final = re.compile("[\u05b0-\u05bb\u05c7]")
_HEBREW_LETTER: Final = re.compile("[א-ת]")
_ARABIC_VOWEL: Final = re.compile("[\u064b-\u0650]")
_ARABIC_LETTER: Final = re.compile("[\u0621-\u064a\u066e-\u06d3]")
_ABJAD_SHARE: Final = {"arabic": 0.58, "hebrew": 0.5}
_GEORGIAN: Final = re.compile("[აეიოუ]")
_ARMENIAN: Final = re.compile("ու|[աեէըիոօ]")


@lru_cache(maxsize=200_000)
def syllables(text: str, tag: str = "") -> int:
    """Syllables (in Japanese morae) of a text. Directions before the words are not spoken.

    >>> syllables("Und der ganze Hafen", "de-DE"), syllables("(whispering) the wheel", "en-GB")
    (6, 2)
    >>> syllables("時計は毎日", "ja"), syllables("潮汐钟", "zh"), syllables("바다가", "ko"), syllables("Да", "ru")
    (9, 3, 3, 1)
    """
    language = language_of(tag)
    count = sum(_of_word(word, language) for word in _WORD.findall(spoken_text(text.lower())))
    return max(round(count), 1 if any(sign.isalnum() for sign in text) else 0)


def _of_word(word: str, language: str) -> float:
    if word[0].isdigit():
        said = said_number(word, language)
        return sum(_of_word(part, language) for part in _WORD.findall(said) if not part[0].isdigit()) or 2 * len(word)
    return sum(_of_part(part, language) for part in _PART.findall(word))


def _of_part(part: str, language: str) -> float:
    """Syllables of a run of one script."""
    first = part[0]
    for low, high, count in _COUNTERS:
        if low <= first <= high:
            return count(part, language)
    return _latin(part, language)


def _latin(word: str, language: str) -> float:
    if language == "vi":
        return 1
    if language == "fr":
        word = _FRENCH_SILENT.sub("", word)
    groups = len(_VOWELS.findall(word))
    if language == "en" and groups > 1 and _SILENT_E.search(word):
        groups -= 1
    if language in ("es", "ca", "gl", "it", "pt"):
        groups += len(_HIATUS.findall(word))
    if language in ("cs", "sk", "hr", "sr", "bs", "sl"):
        groups += len(_SLAVIC_LIQUID.findall(word))
    return max(1, groups)


def _cyrillic(word: str, _language: str) -> float:
    return max(len(_CYRILLIC.findall(word)), 0 if len(word) == 1 else 1)


def _greek(word: str, _language: str) -> float:
    return max(1, len(_GREEK.findall(word)))


def _han(run: str, language: str) -> float:
    return len(run) * (_MORAE_A_KANJI if language == "ja" else 1.0)


def _kana(run: str, _language: str) -> float:
    return len(run) - len(_SMALL_KANA.findall(run))


def _one_each(run: str, _language: str) -> float:
    return len(run)


def _indic(word: str, language: str) -> float:
    """Aksharas; languages that drop the inherent vowel at a word's end, and between two others, lose those."""
    count = len(_INDIC_INITIAL.findall(word)) + len(_INDIC_HEAD.findall(word))
    if language in _DROPS_SCHWA and count > 1:
        count -= bool(_INDIC_BARE_END.search(word)) + len(_INDIC_BARE_INNER.findall(word))
    return max(1, count)


def _thai(run: str, _language: str) -> float:
    return max(1, len(_THAI.findall(run)) + len(_THAI_BARE.findall(_THAI.sub("ะ", run))))


def _lao(run: str, _language: str) -> float:
    return max(1, len(_LAO.findall(run)))


def _burmese(run: str, _language: str) -> float:
    return max(1, len(_BURMESE.findall(run)))


def _khmer(run: str, _language: str) -> float:
    return max(1.0, len(_KHMER_BASE.findall(run)) / _BASES_A_SYLLABLE)


def _tibetan(run: str, _language: str) -> float:
    return len([part for part in re.split("[་།]+", run) if part])


def _hebrew(word: str, _language: str) -> float:
    if _HEBREW_VOWEL.search(word):
        return max(1, len(_HEBREW_VOWEL.findall(word)))
    inner = word[1:]
    long = inner.count("ו") + inner.count("י") + word.endswith("ה")
    return _skeleton(len(_HEBREW_LETTER.findall(word)) - long, long, _ABJAD_SHARE["hebrew"])


def _arabic(word: str, _language: str) -> float:
    if len(_ARABIC_VOWEL.findall(word)) * 3 > len(word):
        return max(1, len(_ARABIC_VOWEL.findall(word)))
    article = word.startswith("ال") and len(word) > 3
    inner = word[2:] if article else word
    long = sum(inner[1:].count(sign) for sign in "اويىیۍے") + inner.endswith(("ة", "ه"))
    bare = len(_ARABIC_LETTER.findall(inner)) - long
    return article + _skeleton(bare, long, _ABJAD_SHARE["arabic"])


def _skeleton(consonants: int, long: int, share: float) -> float:
    """Syllables of letters without vowels: each long one carries one, and takes a consonant to it; of the others,
    every second or so has a short vowel behind it that nobody writes."""
    return max(1.0, long + share * max(0, consonants - long))


def _georgian(word: str, _language: str) -> float:
    return max(1, len(_GEORGIAN.findall(word)))


def _armenian(word: str, _language: str) -> float:
    return max(1, len(_ARMENIAN.findall(word)))


_COUNTERS: Final = (
    ("\u0370", "\u03ff", _greek), ("\u1f00", "\u1fff", _greek), ("\u0400", "\u052f", _cyrillic),
    ("\u0530", "\u058f", _armenian), ("\u0590", "\u05ff", _hebrew), ("\u0600", "\u077f", _arabic),
    ("\u0900", "\u0dff", _indic), ("\u0e00", "\u0e7f", _thai), ("\u0e80", "\u0eff", _lao),
    ("\u0f00", "\u0fff", _tibetan), ("\u1000", "\u109f", _burmese), ("\u10a0", "\u10ff", _georgian),
    ("\u1200", "\u139f", _one_each), ("\u1780", "\u17ff", _khmer), ("\u3005", "\u3007", _han),
    ("\u3041", "\u31ff", _kana), ("\u3400", "\u9fff", _han), ("\uac00", "\ud7af", _one_each),
    ("\uf900", "\ufaff", _han), ("\U00020000", "\U0003ffff", _han),
)  # fmt: skip
