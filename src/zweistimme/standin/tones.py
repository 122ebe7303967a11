"""The tone stand-in: a small lexicon and the marks at the end of a sentence. It reads no feelings; it lets what uses
tones be tried.
"""

from __future__ import annotations

from typing import Final

from zweistimme.engines.extra_roles import Tone, ToneRequest, Tones
from zweistimme.project.errors import EngineError
from zweistimme.project.writing import words_in
from zweistimme.standin.text import language_of

_WORDS: Final = {
    "en": {
        "whispering": "whisper quiet quietly hush secret softly",
        "angry": "never enough stop damn hate wrong liar furious",
        "sad": "lost gone sorry alone miss cried tears goodbye",
        "lively": "great wonderful hurry look quick come finally",
        "calm": "slowly easy breathe rest fine evening",
        "laughing": "haha funny joke laugh ridiculous",
    },
    "de": {
        "whispering": "leise flüstern still heimlich psst",
        "angry": "nie genug halt verdammt hasse falsch lügner wütend",
        "sad": "verloren fort leid allein fehlt weinte tränen leb",
        "lively": "großartig wunderbar schnell schau endlich los komm",
        "calm": "langsam ruhig atme gut abend",
        "laughing": "haha witzig scherz lachen lächerlich",
    },
    "es": {
        "whispering": "susurra bajo silencio secreto",
        "angry": "nunca basta maldita odio mentiroso furioso",
        "sad": "perdido solo siento lágrimas adiós",
        "lively": "genial rápido mira ven corre",
        "calm": "despacio tranquilo respira bien tarde",
        "laughing": "jaja gracioso broma risa ridículo",
    },
}
LANGUAGES: Final = tuple(_WORDS)
_A_WORD, _A_MARK = 0.5, 0.3


def tones_of(request: ToneRequest) -> Tones:
    """The tone of each text: the one most of its words and marks speak for."""
    lexicon = _WORDS.get(language_of(request.language))
    if lexicon is None:
        raise EngineError(
            "The bundled engine tells no tones in {language}; it knows {there}.",
            language=request.language,
            there=", ".join(LANGUAGES),
        )
    known = {word: tone for tone, words in lexicon.items() for word in words.split()}
    return Tones(tuple(_tone(item.id, item.text, request.language, known) for item in request.items))


def _tone(item_id: str, text: str, tag: str, known: dict[str, str]) -> Tone:
    weights: dict[str, float] = {}
    for word in words_in(text, tag):
        tone = known.get(word.strip(".,!?…:;“”\"'¡¿»«").lower())
        if tone:
            weights[tone] = weights.get(tone, 0.0) + _A_WORD
    if "!" in text:
        loudest = "angry" if weights.get("angry") else "lively"
        weights[loudest] = weights.get(loudest, 0.0) + _A_MARK * min(3, text.count("!"))
    if text.rstrip().endswith(("…", "...")):
        weights["sad"] = weights.get("sad", 0.0) + _A_MARK
    if not weights:
        return Tone(item_id, "", 0.0)
    best = max(weights, key=lambda tone: weights[tone])
    return Tone(item_id, best, min(1.0, weights[best]))
