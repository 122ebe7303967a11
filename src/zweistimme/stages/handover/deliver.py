"""Write everything a client gets: mixes, voice stems, captions, and one video that carries all versions."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from zweistimme.formats.captions import write_srt, write_vtt
from zweistimme.formats.cue import Cue
from zweistimme.media.atomic import remove_unfinished, written_text
from zweistimme.media.mux import CaptionTrackOut, SoundTrackOut, container_for, mux_copy
from zweistimme.project.edits import set_delivery
from zweistimme.project.errors import MediaError, StoreError
from zweistimme.project.facts import mix_fingerprint
from zweistimme.project.languages import own_name
from zweistimme.project.model import Delivery
from zweistimme.project.parts import find_version
from zweistimme.stages.caption import CaptionRules, dub_captions, source_captions
from zweistimme.stages.handover.manifest import Entry, caption_entry, sound_entry, video_entry, write_manifest
from zweistimme.stages.mix import write_mix
from zweistimme.stages.work import Work


def slug(title: str) -> str:
    """A title as the beginning of a file name.

    >>> slug("The Tide Clock of Varnholm")
    'the-tide-clock-of-varnholm'
    """
    plain = unicodedata.normalize("NFKD", title).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or "programme"


def hand_over(work: Work, tags: Sequence[str], folder: Path) -> list[Path]:
    """Write all files of the given versions into *folder*; their paths, the manifest last."""
    project = work.project
    if project.programme is None:
        raise MediaError("There is no programme to hand over. Bring one in first.")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StoreError(f"{folder} cannot be made: {error.strerror}. Choose another folder.") from error
    remove_unfinished(folder)
    said: list[str] = []
    tell = work.say

    def keep_and_say(text: str) -> None:
        said.append(text)
        tell(text)

    work = replace(work, say=keep_and_say)
    name, rules = slug(project.title), CaptionRules()
    entries: list[Entry] = []
    cues: dict[str, list[Cue]] = {project.source_tag: source_captions(project, rules)}
    share = 0.8 / max(1, len(tags))
    for number, tag in enumerate(tags):
        part = replace(work, report=work.part(number * share, (number + 1) * share))
        mix, voice = (folder / f"{name}.{tag}.{kind}.wav" for kind in ("mix", "voice"))
        write_mix(part, tag, mix, voice)
        cues[tag] = dub_captions(project, tag, work.clips, rules)
        entries += [sound_entry(mix, "mix", tag), sound_entry(voice, "voice stem", tag)]
        entries += _captions(folder, name, tag, cues[tag], rules)
    entries += _captions(folder, name, project.source_tag, cues[project.source_tag], rules)
    work.report(0.82)
    if project.programme.picture is not None:
        entries.append(_video(work, tags, folder, name, cues))
    work.report(0.98)
    manifest = write_manifest(folder, project.title, project.source_tag, entries, said)
    files = tuple(entry.name for entry in entries)
    for tag in tags:
        made_from = mix_fingerprint(project, find_version(project, tag))
        delivery = Delivery(str(folder), files, made_from)
        work.note(partial(set_delivery, tag=tag, delivery=delivery))
    work.report(1.0)
    return [*(folder / file for file in files), manifest]


def _captions(folder: Path, name: str, tag: str, cues: list[Cue], rules: CaptionRules) -> list[Entry]:
    written_text(folder / f"{name}.{tag}.srt", write_srt(cues))
    written_text(folder / f"{name}.{tag}.vtt", write_vtt(cues, tag))
    return [caption_entry(folder / f"{name}.{tag}.{ending}", tag, rules) for ending in ("srt", "vtt") if cues]


def _video(work: Work, tags: Sequence[str], folder: Path, name: str, cues: dict[str, list[Cue]]) -> Entry:
    project = work.project
    assert project.programme is not None
    source = Path(project.programme.sound.path)
    if not source.is_file():
        raise MediaError(f"{source} is not there any more, so no video can be made. Put it back and hand over again.")
    target = folder / f"{name}.dubbed{container_for(source)}"
    sounds = [
        SoundTrackOut(folder / f"{name}.{tag}.mix.wav", tag, f"{own_name(tag)} · dub", default=place == 0)
        for place, tag in enumerate(tags)
    ]
    captions = [
        CaptionTrackOut(tuple((c.start_us, c.end_us, c.text) for c in cues[tag]), tag, own_name(tag))
        for tag in (*tags, project.source_tag)
    ]
    mux_copy(source, target, sounds, captions, project.source_tag)
    entry = video_entry(target, source, project.source_tag)
    if not entry.measured["picture_untouched"]:
        raise MediaError(f"The picture in {target} is not the source's, packet by packet. Please report this.")
    return entry
