"""How loud the dub is: like its speakers in the original, whatever the takes, the bed and the channels."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from helpers import speechlike, work_on
from zweistimme.project import delivery_edits, edits, line_edits, transcript
from zweistimme.project.facts import IMPORTED_VOICE, source_fingerprint, take_fingerprint
from zweistimme.project.model import Line, Project, Segment, Speaker, Take, TakeKind
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import RATE, seconds_to_us
from zweistimme.sound.loudness import EnergyMeter, gated_energy
from zweistimme.stages.bring_in import bring_in
from zweistimme.stages.fit import fit
from zweistimme.stages.intake import Intake
from zweistimme.stages.mix import write_mix
from zweistimme.store.document import Document

SPEECH_S, EVERY_S, LINES = 2.0, 4.0, 8
LENGTH_S = EVERY_S * LINES


def energy_db(sound: np.ndarray) -> float:
    meter = EnergyMeter(len(sound))
    meter.feed(np.ascontiguousarray(sound, dtype=np.float32))
    return 10 * float(np.log10(gated_energy(meter.energies()) + 1e-20))


def spoken(k: int) -> slice:
    return slice(round(k * EVERY_S * RATE) + RATE, round((k * EVERY_S + SPEECH_S) * RATE) + RATE)


def original(levels_db: tuple[float, float]) -> np.ndarray:
    """Two people in turn, each at a level of their own."""
    sound = np.zeros(round((LENGTH_S + 1) * RATE), np.float32)
    for k in range(LINES):
        voice = speechlike(SPEECH_S, pitch=110.0 if k % 2 else 190.0)
        sound[spoken(k)] = voice * 10 ** (levels_db[k % 2] / 20) / 4
    return sound


def dubbed(
    folder: Path, media: Path, takes_db: list[float], *, bed: Path | None = None, whisper: int | None = None
) -> tuple[Document, list[str]]:
    """A project of that programme with a take for each line at the given level, fitted."""
    document = Document.create(folder / "p", edits.add_version(Project("Levels", "en-GB"), "de-DE"))
    said: list[str] = []
    bring_in(work_on(document, said), Intake(media, SoundPick(), bed))
    segments = [
        Segment(f"s{k}", f"p{k % 2}", seconds_to_us(k * EVERY_S + 1), seconds_to_us(k * EVERY_S + 1 + SPEECH_S), "Yes.")
        for k in range(LINES)
    ]
    people = [Speaker("p0", "Mira"), Speaker("p1", "Tobin")]
    document.apply("Transcript", lambda p: transcript.set_transcript(p, people, segments))
    for k, segment in enumerate(segments):
        voice = speechlike(SPEECH_S, pitch=120.0)
        if k == whisper:
            voice = np.random.default_rng(1).standard_normal(len(voice)).astype(np.float32) * np.abs(voice)
        voice *= 10 ** (takes_db[k] / 20) / max(1.0, float(np.abs(voice).max()))
        clip = document.clips.put(voice)
        line = Line(segment.id, "Ja.", source_fingerprint(segment))
        made_from = take_fingerprint(line, IMPORTED_VOICE)
        take = Take(f"t{k}", segment.id, TakeKind.IMPORTED, "a", clip, len(voice), 0, len(voice), made_from)
        document.apply("Line", lambda p, s=segment: line_edits.set_line_text(p, "de-DE", s.id, "Ja."))
        document.apply("Take", lambda p, t=take: edits.add_take(p, "de-DE", t))
    fit(work_on(document), "de-DE")
    return document, said


def lines_in(path: Path) -> list[float]:
    sound = soundfile.read(path, dtype="float32", always_2d=True)[0].T
    return [energy_db(sound[:, spoken(k)]) for k in range(LINES)]


@pytest.mark.parametrize("channels", [1, 2])
def test_takes_of_any_level_are_as_loud_as_their_speakers_were(tmp_path: Path, channels: int) -> None:
    sound = original((0.0, -8.0))
    soundfile.write(tmp_path / "a.wav", np.repeat(sound[:, None], channels, axis=1), RATE, "PCM_24")
    document, _ = dubbed(tmp_path, tmp_path / "a.wav", [-6.0 if k % 3 else -35.0 for k in range(LINES)])
    with document:
        silent = tmp_path / "silence.wav"
        soundfile.write(silent, np.zeros((len(sound), 2)), RATE, "PCM_24")
        from zweistimme.stages.bring_in import bring_in_bed

        bring_in_bed(work_on(document), silent, SoundPick())
        files = write_mix(work_on(document), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        mixed = lines_in(files.mix)
        before = [energy_db(np.repeat(sound[None, spoken(k)], 2, axis=0)) for k in range(LINES)]
        # nothing but the loudness of the whole may differ, by as much for every line
        offsets = np.array(mixed) - np.array(before)
        assert np.abs(offsets - np.median(offsets)).max() < 4.1  # what is left between loud and soft takes of a voice
        speakers = [np.median(offsets[k::2]) for k in (0, 1)]
        assert abs(speakers[0] - speakers[1]) < 1.0
        assert offsets.max() - offsets.min() < 7.1


def test_a_whisper_stays_softer(tmp_path: Path) -> None:
    soundfile.write(tmp_path / "a.wav", original((0.0, 0.0)), RATE, "PCM_24")
    levels = [-12.0] * LINES
    levels[4] = -30.0
    document, _ = dubbed(tmp_path, tmp_path / "a.wav", levels, whisper=4)
    with document:
        files = write_mix(work_on(document), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        voice = soundfile.read(files.voice, dtype="float32")[0]
        stems = [energy_db(voice[None, spoken(k)]) for k in range(LINES)]
        assert -11 < stems[4] - np.median(stems) < -8


def test_the_dub_follows_the_dialogue_not_the_music(tmp_path: Path) -> None:
    sound = original((-10.0, -10.0))
    times = np.arange(len(sound)) / RATE
    music = np.where(times > LENGTH_S - 6, 0.35, 0.01) * np.sin(2 * np.pi * 440 * times)
    both = (sound + music).astype(np.float32)
    soundfile.write(tmp_path / "a.wav", np.stack([both, both], 1), RATE, "PCM_24")
    soundfile.write(tmp_path / "bed.wav", np.stack([music, music], 1), RATE, "PCM_24")
    document, said = dubbed(tmp_path, tmp_path / "a.wav", [-20.0] * LINES, bed=tmp_path / "bed.wav")
    with document:
        files = write_mix(work_on(document, said), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        mixed, voice = (soundfile.read(path, dtype="float32", always_2d=True)[0].T for path in (files.mix, files.voice))
        quiet = [k for k in range(LINES) if (k + 1) * EVERY_S < LENGTH_S - 6]
        for k in quiet:  # speech over bed is what it was
            was = energy_db(np.stack([sound[spoken(k)]] * 2)) - energy_db(np.stack([music[spoken(k)]] * 2))
            is_ = energy_db(np.repeat(voice[:, spoken(k)], 2, axis=0)) - energy_db(
                mixed[:, spoken(k)] - np.repeat(voice[:, spoken(k)], 2, axis=0)
            )
            assert is_ == pytest.approx(was, abs=1.5)
    assert any("softer than what is under them" in sentence for sentence in said)


def test_what_the_limiter_would_crush_is_left_and_said(tmp_path: Path) -> None:
    sound = original((0.0, 0.0))
    sound[RATE // 2] = 0.99  # one click, 30 dB over everything
    soundfile.write(tmp_path / "a.wav", 0.02 * sound, RATE, "PCM_24")
    document, said = dubbed(tmp_path, tmp_path / "a.wav", [-20.0] * LINES)
    with document:
        document.apply("Loud", lambda p: delivery_edits.set_mix(p, replace(p.mix, loudness_lufs=-8.0)))
        files = write_mix(work_on(document, said), "de-DE", tmp_path / "mix.wav", tmp_path / "voice.wav")
        assert files.loudness.true_peak_dbtp <= -1.0
    assert any("cannot be reached" in sentence for sentence in said)
