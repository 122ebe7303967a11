"""X-SAMPA, which writes the signs of the IPA in plain letters (J. C. Wells, 1995)."""

from __future__ import annotations

import re
from typing import Final

_SIGNS: Final = {
    "A": "ɑ", "B": "β", "C": "ç", "D": "ð", "E": "ɛ", "F": "ɱ", "G": "ɣ", "H": "ɥ", "I": "ɪ", "J": "ɲ", "K": "ɬ",
    "L": "ʎ", "M": "ɯ", "N": "ŋ", "O": "ɔ", "P": "ʋ", "Q": "ɒ", "R": "ʁ", "S": "ʃ", "T": "θ", "U": "ʊ", "V": "ʌ",
    "W": "ʍ", "X": "χ", "Y": "ʏ", "Z": "ʒ", "1": "ɨ", "2": "ø", "3": "ɜ", "4": "ɾ", "5": "ɫ", "6": "ɐ", "7": "ɤ",
    "8": "ɵ", "9": "œ", "@": "ə", "{": "æ", "}": "ʉ", "&": "ɶ", "?": "ʔ", '"': "ˈ", "%": "ˌ", ":": "ː",
    "b_<": "ɓ", "d`": "ɖ", "d_<": "ɗ", "g_<": "ɠ", "h\\": "ɦ", "j\\": "ʝ", "l`": "ɭ", "l\\": "ɺ", "n`": "ɳ",
    "p\\": "ɸ", "r`": "ɽ", "r\\": "ɹ", "r\\`": "ɻ", "s`": "ʂ", "s\\": "ɕ", "t`": "ʈ", "v\\": "ʋ", "x\\": "ɧ",
    "z`": "ʐ", "z\\": "ʑ", "B\\": "ʙ", "G\\": "ɢ", "H\\": "ʜ", "I\\": "ᵻ", "J\\": "ɟ", "K\\": "ɮ", "L\\": "ʟ",
    "M\\": "ɰ", "N\\": "ɴ", "O\\": "ʘ", "R\\": "ʀ", "X\\": "ħ", "?\\": "ʕ", "3\\": "ɞ", "@`": "ɚ", "@\\": "ɘ",
    "_~": "\u0303", "~": "\u0303", "_h": "ʰ", "_j": "ʲ", "'": "ʲ", "_w": "ʷ", "=": "\u0329", "_=": "\u0329",
    "_0": "\u0325", "_d": "\u032a", ":\\": "ˑ", ".": ".",
}  # fmt: skip
_LONGEST_FIRST: Final = re.compile("|".join(re.escape(sign) for sign in sorted(_SIGNS, key=len, reverse=True)))


def ipa_of(text: str) -> str:
    """X-SAMPA in the signs of the IPA; letters that are the same in both stay.

    >>> ipa_of('"vA:nhOlm'), ipa_of("S2:n")
    ('ˈvɑːnhɔlm', 'ʃøːn')
    """
    return _LONGEST_FIRST.sub(lambda match: _SIGNS[match.group()], text)
