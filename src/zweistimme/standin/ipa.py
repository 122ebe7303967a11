"""The International Phonetic Alphabet as far as the bundled voices have its sounds."""

from __future__ import annotations

from typing import Final

from zweistimme.project.errors import EngineError
from zweistimme.standin.phones import is_vowel

_SOUNDS: Final[dict[str, str]] = {
    # affricates and diphthongs first: the longest match counts
    "t͡ʃ": "tS", "tʃ": "tS", "d͡ʒ": "dZ", "dʒ": "dZ", "t͡s": "ts", "ts": "ts", "p͡f": "pf", "pf": "pf",
    "eɪ": "eI", "aɪ": "aI", "ɔɪ": "OI", "əʊ": "oU", "oʊ": "oU", "aʊ": "aU", "ɪə": "i@", "eə": "e@", "ʊə": "u@",
    "ɔʏ": "OY", "ɔø": "OY", "aɪ̯": "aI", "aʊ̯": "aU", "ɔʏ̯": "OY",
    # vowels
    "i": "i", "ɪ": "I", "e": "e", "ɛ": "E", "æ": "ae", "a": "a", "ɑ": "A", "ɒ": "Q", "ɔ": "O", "o": "o", "ʊ": "U",
    "u": "u", "ʌ": "V", "ɜ": "3", "ə": "@", "ɐ": "6", "y": "y", "ʏ": "Y", "ø": "2", "œ": "9",
    # consonants
    "p": "p", "b": "b", "t": "t", "d": "d", "k": "k", "g": "g", "ɡ": "g", "ʔ": "?", "m": "m", "n": "n", "ŋ": "N",
    "ɲ": "J", "f": "f", "v": "v", "θ": "T", "ð": "D", "s": "s", "z": "z", "ʃ": "S", "ʒ": "Z", "ç": "C", "x": "x",
    "χ": "x", "β": "B", "ɣ": "G", "h": "h", "j": "j", "w": "w", "l": "l", "ɹ": "r", "r": "r", "ʁ": "R", "ʀ": "R",
    "ɾ": "4", "ʎ": "L",
}  # fmt: skip
_LENGTHS: Final = sorted({len(symbol) for symbol in _SOUNDS}, reverse=True)
_SILENT: Final = set(" .ˌːˑ͡‿|-\u032f\u0329")


def from_ipa(text: str) -> str:
    """A transcription of our own from one in IPA; the stress mark stands before its syllable.

    >>> from_ipa("ˈvaːnhɒlm")
    'v a1 n h Q l m'
    """
    sounds: list[str] = []
    stressed, place = False, 0
    while place < len(text):
        if text[place] in "ˈ'":
            stressed, place = True, place + 1
            continue
        found = next((text[place : place + n] for n in _LENGTHS if text[place : place + n] in _SOUNDS), None)
        if found is None:
            if text[place] not in _SILENT:
                raise EngineError(
                    "The bundled voices have no sound for “{sign}” in /{text}/.", sign=text[place], text=text
                )
            place += 1
            continue
        sound = _SOUNDS[found]
        if stressed and is_vowel(sound):
            sound, stressed = sound + "1", False
        sounds.append(sound)
        place += len(found)
    return " ".join(sounds)
