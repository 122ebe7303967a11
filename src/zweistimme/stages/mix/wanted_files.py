"""Which files a version's sound is handed over in: the mix that the video has, and those of each preset that was
chosen."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path
from typing import Final

from zweistimme import __version__
from zweistimme.media.broadcast_chunk import BroadcastNote
from zweistimme.media.encode import SoundFormat
from zweistimme.project.facts import fingerprint
from zweistimme.project.languages import own_name
from zweistimme.project.model import Project, Version
from zweistimme.project.sound_delivery import Channels, Part, SoundForm, SoundPreset
from zweistimme.project.timecode import timecode_us
from zweistimme.project.times import RATE, us_to_samples
from zweistimme.stages.file_names import slug
from zweistimme.stages.mix.gain import HOUSE, house_preset, presets_for
from zweistimme.stages.mix.outputs import Wanted
from zweistimme.stages.mix.placed import placed_takes

_MODES: Final = {Channels.MONO: "mono", Channels.STEREO: "stereo", Channels.SURROUND: "multichannel"}


def house_files(project: Project, version: Version, mix_path: Path, voice_path: Path) -> list[Wanted]:
    """The mix that the video has, and the dub alone as it is in it, on one channel and without its room."""
    preset = house_preset(project, version)
    return [
        Wanted(mix_path, HOUSE, preset, Part.MIX, SoundFormat(2)),
        Wanted(voice_path, HOUSE, preset, Part.DUB, SoundFormat(1), channels=Channels.MONO),
    ]


def preset_files(project: Project, version: Version, folder: Path, name: str, start_samples: int = 0) -> list[Wanted]:
    """The files of all presets of a version in *folder*; their names begin with *name*. *start_samples* is where in the
    programme they begin."""
    wanted = []
    for preset_name, preset in presets_for(project, version).items():
        if preset_name == HOUSE:
            continue
        for part in preset.parts:
            for person, called in _people(project, version) if part is Part.PEOPLE else [("", part.value)]:
                file = folder / f"{name}.{version.tag}.{preset_name}.{called}{preset.form.ending}"
                form = _form(project, version, preset, called, start_samples)
                wanted.append(Wanted(file, preset_name, preset, part, form, person))
    return wanted


def _people(project: Project, version: Version) -> Iterator[tuple[str, str]]:
    """Everybody who is heard in the dub, with a name for their file that nobody else has."""
    heard = dict.fromkeys(item.segment.speaker_id for item in placed_takes(project, version))
    taken = {part.value for part in Part}  # somebody may be called as a part of the mix is
    for person in heard:
        speaker = project.speakers.get(person)
        called = slug(speaker.name if speaker else person)
        number = 2
        unlike = called
        while unlike in taken:
            unlike, number = f"{called}-{number}", number + 1
        taken.add(unlike)
        yield person, unlike


def _form(project: Project, version: Version, preset: SoundPreset, called: str, start_samples: int) -> SoundFormat:
    title = f"{project.title} · {own_name(version.tag)}"
    note = _note(project, version, preset, called, start_samples) if preset.form is SoundForm.BWF else None
    return SoundFormat(
        preset.channels.number, preset.form, preset.rate, preset.bits, preset.bit_rate_kbit, title, version.tag, note
    )


def _note(project: Project, version: Version, preset: SoundPreset, called: str, start_samples: int) -> BroadcastNote:
    now = datetime.now(UTC)
    samples = _since_midnight_samples(project) + start_samples
    mode = _MODES[preset.channels]
    return BroadcastNote(
        f"{project.title} / {version.tag} / {called}",
        "Zweistimme",
        fingerprint("file", project.title, version.tag, called, now.isoformat()),
        now.strftime("%Y-%m-%d"),
        now.strftime("%H:%M:%S"),
        samples * preset.rate // RATE,
        history=f"A=PCM,F={preset.rate},W={preset.bits},M={mode},T=Zweistimme {__version__}\r\n",
    )


def _since_midnight_samples(project: Project) -> int:
    """Where the programme begins by its timecode, if it has one."""
    programme = project.programme
    if programme is None or programme.picture is None or not programme.timecode:
        return 0
    rate = Fraction(programme.picture.rate_numerator, programme.picture.rate_denominator)
    return us_to_samples(timecode_us(programme.timecode, rate))
