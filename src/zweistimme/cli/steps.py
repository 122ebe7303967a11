"""The steps that ask engines, as several commands run them: what it will cost is said first."""

from __future__ import annotations

from collections.abc import Sequence

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import err
from zweistimme.cli.desk import run
from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Project
from zweistimme.project.progress import Step
from zweistimme.project.segmentation import CutLimits
from zweistimme.stages.cuts import cuts_wanted, find_cuts
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.estimate import Estimate, asked_engines, estimated
from zweistimme.stages.fit import fit
from zweistimme.stages.pipeline import VERBS, run_step
from zweistimme.stages.transcribe import transcribe
from zweistimme.stages.translate import Only
from zweistimme.store.document import Document


def estimates(project: Project, step: Step, tag: str, anew: Sequence[str] | None = None) -> list[tuple[Estimate, str]]:
    """What each engine of a step will be asked, and what is left of its quota."""
    found = []
    for name in asked_engines(project, tag, step, anew):
        asked = engine(name)
        one = estimated(project, tag, step, name, asked.info(), anew)
        try:
            warning = one.left_words(asked.usage())
        except EngineError:
            warning = ""  # it keeps no account
        found.append((one, warning))
    return found


def _say_cost(document: Document, step: Step, tag: str, anew: Sequence[str] | None = None) -> None:
    for one, warning in estimates(document.project, step, tag, anew):
        if one.cost.amount or warning:
            err.print(f"  {one.sentence}. {warning}".rstrip())


def run_transcribe(
    document: Document,
    *,
    candidates: tuple[str, ...] = (),
    speakers: int | None = None,
    limits: CutLimits = CutLimits(),
    anew: bool = False,
) -> None:
    """Recognise the programme; with *anew* also what the engine has answered before."""
    _say_cost(document, Step.TRANSCRIPT, "")
    asked = engine(engine_for(document.project, Role.RECOGNISE))
    run(
        document, "Transcribe", transcribe, asked,
        candidates=candidates, speakers=speakers, limits=limits, anew=anew,
    )  # fmt: skip


def run_fit(document: Document, tag: str) -> None:
    """Fit a version, once the cuts of the picture are known."""
    if cuts_wanted(document.project.programme):
        run(document, "Find the cuts of the picture", find_cuts)
    run(document, f"Fit {tag}", fit, tag)


def check_transcript(project: Project) -> None:
    """CommandError where nobody says anything yet, so that there is nothing to do."""
    if not spoken_segments(project):
        raise CommandError("There is no transcript yet. Make it first: zweistimme transcribe PROJECT")


def run_for(
    document: Document, step: Step, tag: str, anew: Sequence[str] | None = None, only: Only | None = None
) -> None:
    """Run a step of one version with the engines chosen for it; with *anew* they are asked anew for these segments;
    *only* says which lines are translated."""
    check_transcript(document.project)
    _say_cost(document, step, tag, anew)
    run(document, f"{VERBS[step]} {tag}", run_step, step, tag, segment_ids=anew, only=only)
