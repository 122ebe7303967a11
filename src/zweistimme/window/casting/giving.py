"""Giving people voices by hand, in one place: it is kept, and remembered for other projects."""

from __future__ import annotations

from functools import partial

from zweistimme.messages import msg_act
from zweistimme.project.cast_edits import cast_voice, settle_voice
from zweistimme.stages.cast.earlier import forget_voice, remember_voices
from zweistimme.window.bridge import Desk


def give_voice(desk: Desk, speaker_id: str, voice: str | None) -> None:
    """Give somebody a voice in the version on the desk, or none."""
    tag = desk.tag
    desk.apply(msg_act("Cast a voice"), partial(cast_voice, tag=tag, speaker_id=speaker_id, voice=voice))
    remember_voices(desk.project, tag)


def settle(desk: Desk, speaker_id: str, *, settled: bool) -> None:
    """Say that somebody's voice is to stay, or that another may be proposed."""
    label = msg_act("Keep a voice") if settled else msg_act("Let a voice be proposed")
    desk.apply(label, partial(settle_voice, tag=desk.tag, speaker_id=speaker_id, settled=settled))
    if settled:
        remember_voices(desk.project, desk.tag)
    else:
        forget_voice(desk.project, desk.tag, speaker_id)
