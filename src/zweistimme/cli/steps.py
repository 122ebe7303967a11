"""The steps that ask engines, as several commands run them: what it will cost is said first."""

from __future__ import annotations

from zweistimme.cli.desk import err, run
from zweistimme.engines.protocol import Role
from zweistimme.engines.registry import engine
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import Step
from zweistimme.stages.asked import engine_for
from zweistimme.stages.cast import cast
from zweistimme.stages.estimate import Estimate, asked_engines, estimated
from zweistimme.stages.transcribe import transcribe
from zweistimme.stages.translate import translate
from zweistimme.stages.voice import voice
from zweistimme.store.document import Document

ROLES = {Step.TRANSCRIPT: Role.RECOGNISE, Step.TRANSLATION: Role.TRANSLATE, Step.TAKES: Role.SPEAK}


def estimates(document: Document, step: Step, tag: str) -> list[tuple[Estimate, str]]:
    """What each engine of a step will be asked, and a warning if its quota will not do."""
    project = document.project
    found = []
    for name in asked_engines(project, tag, step, engine_for(project, ROLES[step], tag)):
        asked = engine(name)
        one = estimated(project, tag, step, name, asked.info())
        if not one.requests:
            continue
        try:
            warning = one.beyond(asked.usage())
        except EngineError:
            warning = ""  # it keeps no account
        found.append((one, warning))
    return found


def _say_cost(document: Document, step: Step, tag: str) -> None:
    for one, warning in estimates(document, step, tag):
        if one.cost.amount or warning:
            err.print(f"  {one.sentence}. {warning}".rstrip(), markup=False)


def run_transcribe(
    document: Document, *, candidates: tuple[str, ...] = (), hints: tuple[str, ...] = (), speakers: int | None = None
) -> None:
    """Recognise the programme."""
    _say_cost(document, Step.TRANSCRIPT, "")
    asked = engine(engine_for(document.project, Role.RECOGNISE))
    run(document, "Transcribe", transcribe, asked, candidates=candidates, hints=hints, speakers=speakers)


def run_translate(document: Document, tag: str) -> None:
    """Translate what is missing or stale."""
    _say_cost(document, Step.TRANSLATION, tag)
    run(document, f"Translate {tag}", translate, engine(engine_for(document.project, Role.TRANSLATE, tag)), tag)


def run_cast(document: Document, tag: str) -> None:
    """Propose voices."""
    name = engine_for(document.project, Role.SPEAK, tag)
    run(document, f"Cast {tag}", cast, engine(name), tag, name)


def run_voice(document: Document, tag: str) -> None:
    """Make takes for what is missing or stale."""
    _say_cost(document, Step.TAKES, tag)
    run(document, f"Voice {tag}", voice, tag)
