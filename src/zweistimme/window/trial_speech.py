"""A text heard in somebody's voice, for a trial: a job, since an engine may take its time; nothing of it is kept as a
take."""

from __future__ import annotations

from collections.abc import Callable

from zweistimme.engines.registry import engine
from zweistimme.engines.voices import split_voice
from zweistimme.messages import msg_act
from zweistimme.project.model import AS_USUAL
from zweistimme.project.pronunciations import AS_WRITTEN, Pronunciations
from zweistimme.sound.arrays import Mono
from zweistimme.stages.answers import LineToSpeak, spoken_line
from zweistimme.stages.cast import spoken_language, stand_ins
from zweistimme.stages.voice import manner_for
from zweistimme.stages.work import Work
from zweistimme.window.bridge import Desk

Heard = Callable[[Mono, bool], None]
"""Given samples to be played, a piece of them or (True) the last."""


def speak_trial(
    desk: Desk, speaker_id: str, voice: str, text: str, heard: Heard, said: Pronunciations = AS_WRITTEN
) -> None:
    """Have *text* said in a voice as this person speaks in the version on the desk, some words as they are *said*."""
    version, (name, voice_id) = desk.version, split_voice(voice)
    if version is None or not text.strip():
        return
    tag = version.tag

    def speak(work: Work) -> None:
        asked = engine(name)
        language = spoken_language(asked.info(), voice_id, tag, stand_ins(work.project, tag))
        manner, _ = manner_for(asked.info().voice(voice_id), version.manners.get(speaker_id, AS_USUAL))
        pieces: list[int] = []

        def hear(samples: Mono) -> None:
            pieces.append(len(samples))
            heard(samples, False)

        wanted = LineToSpeak(text, voice_id, language, manner=manner, said=said)
        clip = spoken_line(work, asked, wanted, hear).samples
        heard(clip[:0] if pieces else clip, True)

    desk.jobs.read(msg_act("Listen to a voice"), speak)
