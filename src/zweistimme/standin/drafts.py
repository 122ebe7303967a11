"""The drafting stand-in: a frame of ready sentences around a subject, or the sentences of a material dealt out among
the people. It writes nothing of its own; it lets what uses drafts be tried.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import cycle
from typing import Final

from zweistimme.engines.extra_roles import Draft, DraftRequest, DraftTurn
from zweistimme.project.errors import EngineError
from zweistimme.project.writing import sentences, syllables
from zweistimme.standin.text import language_of

_SYLLABLES_A_SECOND: Final = 4.5
_FRAMES: Final = {
    "en": (
        "Today it is about {subject}.",
        ("What should one know of it?", "Let us begin where everybody begins.", "There is more to {subject} than that.",
         "That is often overlooked.", "And what follows from it?", "One can look at it another way."),
        "So much for {subject}.",
    ),
    "de": (
        "Heute geht es um {subject}.",
        ("Was sollte man darüber wissen?", "Fangen wir dort an, wo alle anfangen.", "Zu {subject} gehört noch mehr.",
         "Das wird oft übersehen.", "Und was folgt daraus?", "Man kann es auch anders sehen."),
        "So viel zu {subject}.",
    ),
    "es": (
        "Hoy hablamos de {subject}.",
        ("¿Qué conviene saber?", "Empecemos por donde empiezan todos.", "Hay más que decir de {subject}.",
         "Eso se olvida a menudo.", "¿Y qué se sigue de ello?", "También se puede ver de otro modo."),
        "Hasta aquí {subject}.",
    ),
}  # fmt: skip
LANGUAGES: Final = tuple(_FRAMES)


def drafted(request: DraftRequest) -> Draft:
    """Turns that take about as long as was asked for."""
    frame = _FRAMES.get(language_of(request.language))
    if frame is None:
        raise EngineError(
            "The bundled engine drafts nothing in {language}; it knows {there}.",
            language=request.language,
            there=", ".join(LANGUAGES),
        )
    if not request.subject and not request.material.strip():
        raise EngineError("There is nothing to write about. Give a subject or some material.")
    opening, middle, closing = frame
    subject = request.subject or sentences(request.material)[0].rstrip(".!?…")
    first, last = opening.format(subject=subject), closing.format(subject=subject)
    room = _SYLLABLES_A_SECOND * request.seconds - sum(syllables(t, request.language) for t in (first, last))
    texts = [first]
    for text in _between(request, tuple(sentence.format(subject=subject) for sentence in middle)):
        room -= syllables(text, request.language)
        if room < 0:
            break
        texts.append(text)
    people = cycle(request.people)
    turns = tuple(DraftTurn(person, text) for person, text in zip(people, [*texts, last], strict=False))
    return Draft(turns, subject[:1].upper() + subject[1:])


def _between(request: DraftRequest, ready: tuple[str, ...]) -> Iterator[str]:
    """The sentences of the material once; without material the ready ones, over and over."""
    return iter(sentences(request.material)) if request.material.strip() else cycle(ready)
