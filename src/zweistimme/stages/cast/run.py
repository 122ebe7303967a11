"""Casting as a step of the work: people measured, and a voice proposed for everybody who has none by their choice."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from functools import partial

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import VoiceInfo
from zweistimme.engines.protocol import Engine
from zweistimme.engines.voices import voice_ref
from zweistimme.project.access import find_version
from zweistimme.project.cast_edits import propose_voices, take_voices
from zweistimme.project.conversation import pairs_speaking
from zweistimme.project.errors import EditError, MissingVoices
from zweistimme.project.facts import cast_voice_of, fresh_take, speakers_in_use, spoken_segments
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project
from zweistimme.project.speaker_edits import set_traits
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.stages.cast.able import able_voices, speaks, spoken_language, stand_in_language, stand_ins
from zweistimme.stages.cast.earlier import earlier_voices, name_key
from zweistimme.stages.cast.measuring import kept_traits, measure_people, measure_voices, sample_text
from zweistimme.stages.cast.proposing import PersonToCast, Proposal, VoiceOnOffer, proposals
from zweistimme.stages.work import Work


def cast(work: Work, engine: Engine, tag: str, name: str = BUNDLED, *, anew: bool = False) -> dict[str, Proposal]:
    """Propose a voice of *engine*, whose connection is called *name*, for every speaker who has none in *tag*; with
    *anew* for everybody whose voice no person chose. What was proposed, by speaker."""
    people = measure_people(work)
    if people:
        work.deliver("Measure the speakers", partial(set_traits, measured=people))
    project = set_traits(work.project, people)
    info = engine.info()
    able = able_voices(project, tag, info.voices)
    related = stand_in_language(able[0], stand_ins(project, tag)) if able and not speaks(able[0], tag) else None
    if related:
        work.say(Finding("voices-stand-in", {"engine": info.name, "wanted": tag, "related": related}))
    if name == BUNDLED:  # others may charge for it, or have a quota: they are measured when somebody asks
        measure_voices(work, engine, _asked(project, tag, engine, able), tag)
    project = _without_refused(
        work,
        project,
        tag,
        {voice_ref(name, voice.id) for voice in info.voices} - {voice_ref(name, voice.id) for voice in able},
    )
    choice = proposed(project, tag, on_offer(project, tag, {name: engine}), anew=anew)
    mute = [key for key in speakers_in_use(project) if key not in choice and key not in find_version(project, tag).cast]
    if mute:
        names = ", ".join(project.speakers[key].name for key in mute)
        work.say(Finding("without-voice", {"engine": info.name, "language": tag, "names": names}))
    voices = {key: one.voice for key, one in choice.items()}
    work.deliver(f"Cast {tag}", partial(propose_voices, tag=tag, voices=voices))
    work.report(1.0)
    return choice


def _without_refused(work: Work, project: Project, tag: str, refused: Set[str]) -> Project:
    """The project without voices that were proposed and may not stand in any more; those that a person chose are said
    and stay."""
    version = find_version(project, tag)
    holders = [key for key, voice in version.cast.items() if voice in refused and key in project.speakers]
    chosen = [key for key in holders if key in version.cast_chosen]
    if chosen:
        names = ", ".join(project.speakers[key].name for key in chosen)
        work.say(Finding("chosen-voice-refused", {"names": names, "language": tag}))
    open_ = [key for key in holders if key not in version.cast_chosen]
    if not open_:
        return project
    take = partial(take_voices, tag=tag, speaker_ids=open_)
    work.deliver(f"Cast {tag}", take)
    return take(project)


def _asked(project: Project, tag: str, engine: Engine, able: Sequence[VoiceInfo]) -> list[tuple[str, str]]:
    info, related = engine.info(), stand_ins(project, tag)
    return [(v.id, spoken_language(info, v.id, tag, related)) for v in able]


def on_offer(project: Project, tag: str, engines: Mapping[str, Engine]) -> list[VoiceOnOffer]:
    """The voices of engines, by the names of their connections, that can be cast in a version, with what is known of
    each; those that stand in only where none speaks the language itself."""
    found, related = [], stand_ins(project, tag)
    for name, engine in engines.items():
        info = engine.info()
        for voice in able_voices(project, tag, info.voices):
            language = spoken_language(info, voice.id, tag, related)
            price = info.price_of_speech(voice.id, "").a_character
            traits = kept_traits(engine, voice.id, language)
            stands_in = "" if speaks(voice, tag) else language
            found.append(VoiceOnOffer(voice_ref(name, voice.id), voice, traits, price, stands_in))
    native = [voice for voice in found if not voice.stands_in]
    return native or found


def people_to_cast(project: Project, tag: str, *, anew: bool = False) -> list[PersonToCast]:
    """Everybody who speaks, as a proposal sees them: with *anew* only what a person chose is settled."""
    version, earlier = find_version(project, tag), earlier_voices(tag)
    talk: dict[str, dict[str, int]] = {}
    for speaker, listener, count in pairs_speaking(project):
        talk.setdefault(speaker, {})[listener] = count
    settled = {key: version.cast[key] for key in version.cast if not anew or key in version.cast_chosen}
    return [
        PersonToCast(
            key, speaker.name, speaker.traits or _by_pitch(speaker.pitch_hz), settled.get(key, ""),
            earlier.get(name_key(speaker.name), ()), talk.get(key, {}),
        )
        for key in speakers_in_use(project)
        for speaker in [project.speakers[key]]
    ]  # fmt: skip


def _by_pitch(pitch_hz: float | None) -> VoiceTraits | None:
    """What is known of somebody whose pitch alone was measured."""
    unknown = float("nan")
    return None if pitch_hz is None else VoiceTraits(pitch_hz, unknown, unknown, unknown, unknown, unknown, 0.0)


def proposed(project: Project, tag: str, voices: Sequence[VoiceOnOffer], *, anew: bool = False) -> dict[str, Proposal]:
    """A voice for everybody who has none; with *anew* also for those whose voice was proposed before."""
    return proposals(people_to_cast(project, tag, anew=anew), voices, tag)


def check_cast(project: Project, tags: Sequence[str]) -> None:
    """MissingVoices, with the whole list, if anything would reach synthesis without a voice."""
    missing = []
    for tag in tags:
        version = project.versions[tag]
        for speaker in speakers_in_use(project):
            if speaker in version.cast:
                continue
            mute = [s for s in spoken_segments(project) if s.speaker_id == speaker and not cast_voice_of(version, s)]
            count = sum(1 for s in mute if fresh_take(project, version, s) is None)
            if count:
                missing.append((tag, project.speakers[speaker].name, count))
    if missing:
        raise MissingVoices(missing)


def to_measure(project: Project, tag: str, engine: Engine) -> tuple[int, int]:
    """How many voices of an engine that can be cast in a version are not measured yet, and how many characters it takes
    to have them speak a sample."""
    asked = _asked(project, tag, engine, able_voices(project, tag, engine.info().voices))
    count = sum(kept_traits(engine, voice, language) is None for voice, language in asked)
    return count, count * len(sample_text(project, tag))


def measure(work: Work, engine: Engine, tag: str) -> dict[str, VoiceTraits]:
    """Have the voices of an engine that can be cast in a version speak a sample, and measure it. EditError where the
    version has too few words to speak."""
    if not sample_text(work.project, tag):
        raise EditError("There are too few words in {tag} to measure voices by. Translate first.", tag=tag)
    return measure_voices(
        work, engine, _asked(work.project, tag, engine, able_voices(work.project, tag, engine.info().voices)), tag
    )
