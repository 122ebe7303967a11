"""An engine that is a Python object: of any installed package, or of a file. It needs only the methods of what it does.

Its factory is named ``module:factory`` or ``/path/file.py:factory``. Whatever it raises becomes a sentence; what it
answers is looked at as if it came from far away.
"""

from __future__ import annotations

import importlib
import importlib.util
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numpy as np

from zweistimme.engines.extra_roles import Answered, Asked, call_of
from zweistimme.engines.offers import UNDERSTOOD, EngineInfo, Usage
from zweistimme.engines.protocol import (
    DialogueRequest,
    Hear,
    Mono,
    Recognition,
    RecognitionQuestion,
    Report,
    SoundSource,
    Speech,
    SpeechRequest,
    Translation,
    TranslationRequest,
)
from zweistimme.engines.translations import checked_translation
from zweistimme.messages import tr
from zweistimme.project.errors import BadAnswer, EngineError, EngineFault, EngineRefused, ZweistimmeError
from zweistimme.project.times import RATE

T = TypeVar("T")


class PythonEngine:
    """A connection to an engine in this process, loaded when it is first asked."""

    def __init__(self, name: str, place: str) -> None:
        self.name, self._place = name, place
        self._made: Any = None

    @property
    def identity(self) -> str:
        """The factory; what it makes may say more of itself."""
        return f"python {self.name} {self._place} {getattr(self._engine, 'identity', '')}"

    @property
    def _engine(self) -> Any:
        if self._made is None:
            self._made = self._safely(loaded(self.name, self._place))
        return self._made

    def info(self, *, anew: bool = False) -> EngineInfo:
        """What it says of itself."""
        info = self._call("info", EngineInfo)
        if info.protocol not in UNDERSTOOD:
            raise EngineRefused(
                "{name} speaks version {protocol} of the protocol; this desk speaks {version}.",
                name=self.name,
                protocol=info.protocol,
                version=max(UNDERSTOOD),
            )
        return info

    def recognise(self, sound: SoundSource, question: RecognitionQuestion, report: Report) -> Recognition:
        """Recognise the whole sound."""
        return self._call("recognise", Recognition, sound, question, report)

    def translate(self, request: TranslationRequest) -> Translation:
        """Translate all texts."""
        return checked_translation(request, self._call("translate", Translation, request), self.name)

    def speak(self, request: SpeechRequest, hear: Hear | None = None) -> Speech:
        """Speak one line; it is heard as it comes if the engine says that it streams."""
        voice = self.info().voice(request.voice)
        more = (hear,) if hear is not None and self.info().streams else ()
        made = self._call("speak", (Speech, np.ndarray), request, *more)
        speech = made if isinstance(made, Speech) else Speech(self._at_48k(made, voice.sample_rate), ())
        return Speech(self._checked(speech.samples), speech.words, speech.cost, speech.start_us)

    def converse(self, request: DialogueRequest) -> tuple[Speech, ...]:
        """Speak lines together, or one by one if it cannot do so."""
        if not hasattr(self._engine, "converse"):
            return tuple(self.speak(turn) for turn in request.turns)
        clips = self._call("converse", tuple, request)
        if len(clips) != len(request.turns):
            raise BadAnswer(
                "{name} answered with {clips} clips for {turns} turns.",
                name=self.name,
                clips=len(clips),
                turns=len(request.turns),
            )
        return tuple(clips)

    def ask(self, request: Asked) -> Answered:
        """One of the other questions."""
        answer: Answered = self._call("ask", call_of(request).answer, request)
        return answer

    def usage(self) -> Usage:
        """What was used, if it keeps an account."""
        return self._call("usage", Usage) if hasattr(self._engine, "usage") else Usage()

    def close(self) -> None:
        """Let it go."""
        if self._made is not None and hasattr(self._made, "close"):
            self._safely(self._made.close)

    def _call(self, what: str, kind: Any, *given: object) -> Any:
        method = getattr(self._engine, what, None)
        if method is None:
            raise EngineError("{name} cannot {what}. Choose another engine for this.", name=self.name, what=what)
        answer = self._safely(lambda: method(*given))
        if not isinstance(answer, kind):
            raise BadAnswer(
                "{name} answered with a {kind} where its {what} should be.",
                name=self.name,
                kind=type(answer).__name__,
                what=what,
            )
        return answer

    def _safely(self, act: Callable[[], T]) -> T:
        """What code of others does; whatever it raises is a sentence."""
        try:
            return act()
        except ZweistimmeError:
            raise
        except Exception as error:
            why = str(error).splitlines()[0][:200].rstrip(".") if str(error) else tr("it does not say why")
            raise EngineFault(
                "{name} failed ({kind}: {why}).", name=self.name, kind=type(error).__name__, why=why
            ) from error

    def _at_48k(self, samples: Any, rate: int) -> Mono:
        import soxr

        mono = np.asarray(samples, dtype=np.float32)
        return mono if rate == RATE else np.asarray(soxr.resample(mono, rate, RATE, "HQ"), dtype=np.float32)

    def _checked(self, samples: Any) -> Mono:
        if not isinstance(samples, np.ndarray) or samples.ndim != 1 or not np.isfinite(samples).all():
            raise BadAnswer("{name} answered with something that is no clip of one channel.", name=self.name)
        return np.asarray(samples, dtype=np.float32)


def loaded(name: str, place: str) -> Callable[[], Any]:
    """The factory at a place; EngineError if there is none. Nothing is run yet but its module."""
    module_name, colon, factory_name = place.rpartition(":")
    if not colon or not module_name or not factory_name.isidentifier():
        raise EngineError("“{place}” names no factory. Write module:factory, or /path/file.py:factory.", place=place)
    try:
        module = _module_in(Path(module_name)) if module_name.endswith(".py") else importlib.import_module(module_name)
    except Exception as error:  # whatever a foreign module does while it is loaded
        raise EngineError(
            "{name}: {module} cannot be loaded ({kind}: {why}).",
            name=name,
            module=module_name,
            kind=type(error).__name__,
            why=str(error)[:200].rstrip("."),
        ) from error
    factory = getattr(module, factory_name, None)
    if not callable(factory):
        raise EngineError("{name}: {module} has no {factory}.", name=name, module=module_name, factory=factory_name)
    made: Callable[[], Any] = factory
    return made


def _module_in(file: Path) -> Any:
    spec = importlib.util.spec_from_file_location(f"zweistimme_engine_{file.stem}", file)
    if spec is None or spec.loader is None:
        raise ImportError(f"{file} is no Python file")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module
