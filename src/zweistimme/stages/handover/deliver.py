"""Write everything a client gets: mixes, voice stems, captions, and one video that carries all versions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from zweistimme.formats.captions import marked_text
from zweistimme.formats.cue import Cue
from zweistimme.media.atomic import remove_unfinished, unfinished_folder
from zweistimme.media.containers import CopyPlan, plan_copy
from zweistimme.media.mux import CaptionTrackOut, Original, SoundTrackOut, mux_copy
from zweistimme.project.access import find_version
from zweistimme.project.delivery_edits import set_delivery
from zweistimme.project.errors import MediaError, StoreError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import own_name
from zweistimme.project.model import Delivery
from zweistimme.project.progress import delivery_made_from
from zweistimme.stages.caption import dub_captions, rules_for, source_captions
from zweistimme.stages.file_names import slug
from zweistimme.stages.fit.render import prune_fitted
from zweistimme.stages.handover.manifest import (
    MANIFEST,
    Entry,
    video_entry,
    write_manifest,
)
from zweistimme.stages.handover.ready import open_points, ready_versions
from zweistimme.stages.handover.unchanged import unchanged
from zweistimme.stages.handover.versions import Wanted, captions, check_same, made_versions
from zweistimme.stages.mix.sitting import prune_clips
from zweistimme.stages.work import Work, source_of


@dataclass(frozen=True, slots=True)
class _Copy:
    """The file a video is copied from, and how."""

    source: Path
    plan: CopyPlan


def hand_over(work: Work, tags: Sequence[str], folder: Path) -> list[Path]:
    """Write all files of the given versions into *folder*; their paths, the manifest last. What an earlier hand-over
    wrote there and is still right stays; all else appears together once all of it is made. What is not good about a
    version is said first; NotReady where one cannot be handed over (``ready.py``)."""
    project = work.project
    if project.programme is None:
        raise MediaError("There is no programme to hand over. Bring one in first.")
    _, held = ready_versions(project, tags)
    if held:
        raise held[0]
    folder = folder.absolute()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreError("{folder} cannot be made: {why}. Choose another folder.", folder=folder, why=error) from error
    remove_unfinished(folder)
    said: list[Finding] = []

    def keep_and_say(finding: Finding) -> None:
        said.append(finding)
        work.say(finding)

    for tag in tags:
        for finding in open_points(project, tag):
            keep_and_say(finding)
    with unfinished_folder(folder) as stage:
        made = _made(replace(work, say=keep_and_say), tags, folder, stage)
        (folder / MANIFEST).unlink(missing_ok=True)  # without one, nobody takes old and new files for one hand-over
        for path in sorted(stage.iterdir()):
            path.replace(folder / path.name)
    manifest = write_manifest(folder, project.title, project.source_tag, made, said)
    files = tuple(entry.name for entry in made)
    for tag in tags:
        delivery = Delivery(str(folder), files, delivery_made_from(project, find_version(project, tag)))
        work.note(partial(set_delivery, tag=tag, delivery=delivery))
    prune_fitted(work.cache, project)
    prune_clips(work.cache, project)
    work.report(1.0)
    return [*(folder / file for file in files), manifest]


def _made(work: Work, tags: Sequence[str], folder: Path, stage: Path) -> list[Entry]:
    """Make in *stage* what is not there already in *folder*; all of it as entries of the manifest."""
    project = work.project
    assert project.programme is not None
    name = slug(project.title)
    copy = _planned_copy(work)
    kept = unchanged(project, tags, folder)
    for note in kept.notes:
        work.say(note)
    rules = {tag: rules_for(tag, project.caption_limits.get(tag)) for tag in (project.source_tag, *tags)}
    cues: dict[str, list[Cue]] = {project.source_tag: source_captions(project, rules[project.source_tag])}
    for tag in tags:
        cues[tag] = dub_captions(project, tag, work.clips, rules[tag])
    anew = [tag for tag in tags if tag not in kept.files]
    wanted = Wanted(stage, name, cues, listeners=copy is None and project.programme.picture is None)
    files = {**kept.files, **made_versions(replace(work, report=work.part(0.0, 0.7)), anew, wanted)}
    entries = [entry for tag in tags for entry in files[tag]]
    entries += captions(work, wanted, project.source_tag)
    if copy is not None:
        mixes = {tag: (stage if tag in anew else folder) / f"{name}.{tag}.mix.wav" for tag in tags}
        entries.append(kept.video or _video(work, copy, mixes, wanted))
    work.report(0.98)
    return entries


def _planned_copy(work: Work) -> _Copy | None:
    """How the video will be copied, tried now: what cannot be is said before hours of mixing, not after."""
    programme = work.project.programme
    assert programme is not None
    if programme.picture is None:
        return None
    source = source_of(work, programme.sound)
    check_same(source, programme.sound)
    try:
        plan = plan_copy(source)
    except MediaError as error:
        work.say(Finding("no-video", {"why": error.finding}))
        return None
    for finding in plan.left_out:
        work.say(finding)
    return _Copy(source, plan)


def _video(work: Work, copy: _Copy, mixes: dict[str, Path], wanted: Wanted) -> Entry:
    project = work.project
    assert project.programme is not None
    target = wanted.folder / f"{wanted.name}.dubbed{copy.plan.container.ending}"
    sounds = [
        SoundTrackOut(mix, tag, f"{own_name(tag)} · dub", default=place == 0)
        for place, (tag, mix) in enumerate(mixes.items())
    ]
    texts = [_caption_track(wanted.cues[tag], tag) for tag in (*mixes, project.source_tag)]
    original = Original(project.programme.sound.pick.tracks[0], project.source_tag)
    coded = mux_copy(copy.source, target, copy.plan, sounds, texts, original, work.part(0.7, 0.95))
    entry = video_entry(target, coded, project.source_tag)
    if not entry.measured["picture_untouched"]:
        target.unlink()  # nothing broken keeps the name of a finished file
        raise MediaError(
            "The picture in {file} did not come out as it is in {source}. Please report this.",
            file=target.name,
            source=copy.source,
        )
    return entry


def _caption_track(cues: Sequence[Cue], tag: str) -> CaptionTrackOut:
    lines = tuple((cue.start_us, cue.end_us, marked_text(cue.text, tag)) for cue in cues)
    return CaptionTrackOut(lines, tag, own_name(tag))
