"""The stages chained: what is next, and how each step is run."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Final

from zweistimme.engines.offers import Role
from zweistimme.engines.registry import engine
from zweistimme.messages import msg_act
from zweistimme.project.errors import EditError, MissingVoices, PartlyDone
from zweistimme.project.facts import spoken_segments
from zweistimme.project.model import Project
from zweistimme.project.progress import Step, progress
from zweistimme.stages.cast import cast, check_cast
from zweistimme.stages.engine_choice import engine_for
from zweistimme.stages.fit import fit
from zweistimme.stages.handover import hand_over, ready_versions
from zweistimme.stages.transcribe import transcribe
from zweistimme.stages.translate import Only, open_translations, translate_version
from zweistimme.stages.voice import open_takes, voice
from zweistimme.stages.work import Work

ORDER: Final = tuple(Step)
VERBS: Final = {
    Step.TRANSCRIPT: msg_act("Transcribe"),
    Step.TRANSLATION: msg_act("Translate"),
    Step.CAST: msg_act("Cast voices"),
    Step.TAKES: msg_act("Voice"),
    Step.FIT: msg_act("Fit"),
    Step.HANDOVER: msg_act("Hand over"),
}


def next_step(project: Project, tag: str) -> Step | None:
    """The first step of a version that an engine can carry further; None when all is done.

    Lines that only a person can settle (a stale line written by hand, a segment without words) hold nothing up.
    """
    version = project.versions[tag]
    states = progress(project, version)
    if not project.segments:
        return Step.TRANSCRIPT
    if not spoken_segments(project):
        return None  # a person has to write the words, or have them recognised
    if open_translations(project, tag):
        return Step.TRANSLATION
    if _uncast(project, tag):
        return Step.CAST
    if open_takes(project, tag):
        return Step.TAKES
    if states[Step.FIT].done < states[Step.TAKES].done or any(
        placed not in version.lines for placed in version.placements
    ):
        return Step.FIT
    if not version.left_out and not states[Step.HANDOVER].complete:
        return Step.HANDOVER
    return None


def _uncast(project: Project, tag: str) -> bool:
    """Whether a speaker without a voice has lines that need one; imported takes need none."""
    try:
        check_cast(project, [tag])
    except MissingVoices:
        return True
    return False


def how_many(project: Project, tag: str, step: Step) -> int:
    """How many things a step would make now."""
    if step is Step.TRANSLATION:
        return len(open_translations(project, tag))
    if step is Step.TAKES:
        return len(open_takes(project, tag))
    if step is Step.CAST:
        return progress(project, project.versions[tag])[step].missing
    return 0


def run_step(
    work: Work,
    step: Step,
    tag: str,
    folder: Path | None = None,
    segment_ids: Sequence[str] | None = None,
    only: Only | None = None,
) -> None:
    """Run one step for one version, with the engines chosen for it. *folder* is where a hand-over goes. With
    *segment_ids* engines are asked anew for the lines or takes of these; *only* says which lines are translated."""
    if step is Step.TRANSCRIPT:
        transcribe(work, engine(engine_for(work.project, Role.RECOGNISE)))
    elif step is Step.TRANSLATION:
        translate_version(work, engine(engine_for(work.project, Role.TRANSLATE, tag)), tag, segment_ids, only)
    elif step is Step.CAST:
        name = engine_for(work.project, Role.SPEAK, tag)
        cast(work, engine(name), tag, name)
    elif step is Step.TAKES:
        voice(work, tag, segment_ids)
    elif step is Step.FIT:
        fit(work, tag)
    else:
        tags = handed_over(work.project)
        if not tags and work.project.versions[tag].left_out:
            raise EditError("No version is left to hand over: {tag} is left out. Take it in again first.", tag=tag)
        ready, held = ready_versions(work.project, tags or [tag])
        hand_over(work, ready or tags or [tag], folder or work.cache.parent / "handover")
        if held:
            raise PartlyDone("{n:version is|versions are} handed over; not: {why}", n=len(ready), why=held[0].finding)


def handed_over(project: Project) -> list[str]:
    """The versions that are wanted of a hand-over: all that are not left out, so that one video carries them."""
    return [tag for tag, version in project.versions.items() if not version.left_out]
