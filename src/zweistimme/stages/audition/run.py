"""Auditions as a step of the work: lines of people spoken in voices that they do not have, or not yet."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial

from zweistimme.engines.offers import Cost, EngineInfo
from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice
from zweistimme.messages import msg_act
from zweistimme.project.access import find_version
from zweistimme.project.audition_edits import add_audition
from zweistimme.project.auditions import Audition
from zweistimme.project.errors import EditError
from zweistimme.project.facts import fingerprint
from zweistimme.project.manner_edits import set_line_voices
from zweistimme.project.model import Project, Take
from zweistimme.project.pronunciations import pronunciations_of
from zweistimme.stages.estimate import cost_of_takes
from zweistimme.stages.voice.by_engine import check_all_made, speak_takes
from zweistimme.stages.voice.open_takes import OpenTake, take_to_make
from zweistimme.stages.work import Work


@dataclass(frozen=True, slots=True)
class Wish:
    """A line that is to be heard in a voice."""

    segment_id: str
    voice: str


def wishes_of(segment_ids: Iterable[str], voices: Iterable[str]) -> list[Wish]:
    """Each of these lines in each of these voices, line by line."""
    named = list(dict.fromkeys(voices))
    return [Wish(segment_id, voice) for segment_id in dict.fromkeys(segment_ids) for voice in named]


def open_auditions(project: Project, tag: str, wishes: Iterable[Wish]) -> list[OpenTake]:
    """What is still to be spoken for these wishes: what was auditioned before, and says the same, is not."""
    version, segments = find_version(project, tag), {segment.id: segment for segment in project.segments}
    found = []
    for wish in dict.fromkeys(wishes):
        line = version.lines.get(wish.segment_id)
        if wish.segment_id not in segments or line is None or not line.text.strip():
            continue
        given = set_line_voices(project, tag, [wish.segment_id], wish.voice)
        item = take_to_make(given, given.versions[tag], segments[wish.segment_id])
        if item is not None and _key(item) not in version.auditions:
            found.append(item)
    return found


def _info(name: str) -> EngineInfo | None:
    return engine(name).info()


def cost_of_auditions(
    project: Project, tag: str, wishes: Iterable[Wish], info_of: Callable[[str], EngineInfo | None] = _info
) -> dict[str, Cost]:
    """What these auditions cost, by engine; those that are there already cost nothing. *info_of* gives what is known
    of an engine: of one it knows nothing of, nothing is said."""
    by_engine: dict[str, list[OpenTake]] = {}
    for item in open_auditions(project, tag, wishes):
        by_engine.setdefault(split_voice(item.voice)[0], []).append(item)
    said = pronunciations_of(project, tag)
    known = {name: info for name in by_engine if (info := info_of(name)) is not None}
    return {name: cost_of_takes(tag, info, said, by_engine[name]) for name, info in known.items()}


def audition(work: Work, tag: str, wishes: Iterable[Wish]) -> None:
    """Have lines spoken in voices, and keep them as auditions; each the moment it is there. EditError where none of the
    lines has a wording."""
    wanted = list(wishes)
    lines = find_version(work.project, tag).lines
    if not any(wish.segment_id in lines and lines[wish.segment_id].text.strip() for wish in wanted):
        raise EditError("None of these lines has a wording in {tag}. Translate or write them first.", tag=tag)
    todo = open_auditions(work.project, tag, wanted)

    def keep(item: OpenTake, take: Take) -> None:
        work.deliver(msg_act("Audition voices"), partial(add_audition, tag=tag, audition=_audition(item, take)))

    check_all_made(speak_takes(work, tag, todo, keep), len(todo))


def _key(item: OpenTake) -> str:
    return fingerprint("audition", item.segment.id, item.voice, item.made_from)


def _audition(item: OpenTake, take: Take) -> Audition:
    return Audition(
        _key(item), item.segment.id, item.voice, item.line.text, take.clip, take.length_samples,
        take.speech_start_samples, take.speech_end_samples, item.made_from,
    )  # fmt: skip
