"""What a hand says of how a line is fitted, beyond where its take starts: words held to moments, tempo, pauses, slack,
and how it is faded and how loud it is. Frozen data, as in ``model.py``."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from zweistimme.messages import msg

TEMPO: Final = (0.4, 2.5)
PAUSES: Final = (0.0, 3.0)
MOST_SLACK_US: Final = 10_000_000
MOST_FADE_US: Final = 5_000_000
GAIN_DB: Final = (-24.0, 24.0)


@dataclass(frozen=True, slots=True)
class WordPin:
    """A word of a take, by its number, held to a moment of the programme: a gesture, a cut, a bell. *said* is that word
    between those around it, by which it is found in other takes (``held_words.py``); empty where only its number is
    known."""

    word: int
    start_us: int
    said: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class PhraseHand:
    """What a hand says of one phrase of a take, the one in which this *word* (its number) is said: tempo and the pause
    before it, where it is placed by itself; how much louder it is than the line, and how long its ends are faded.
    *said* is as for a ``WordPin``."""

    word: int
    tempo: float | None = None
    pause_us: int | None = None
    gain_db: float = 0.0
    fade_in_us: int = 0
    fade_out_us: int = 0
    said: tuple[str, ...] = ()


class FitAs(StrEnum):
    """As what a line is fitted, where that is not what the picture and the version say."""

    USUAL = "usual"
    OFF_SCREEN = "off-screen"
    VOICE_OVER = "voice-over"


@dataclass(frozen=True, slots=True)
class HandFit:
    """*tempo* of its speech and the share of its inner *pauses* that is kept, where a hand says so; so much later it
    may start, and end, without anybody minding; as what it is fitted; what is louder, and how long its ends are
    faded; and what is said of single *phrases*."""

    tempo: float | None = None
    pauses: float | None = None
    start_slack_us: int = 0
    end_slack_us: int = 0
    fit_as: FitAs = FitAs.USUAL
    gain_db: float = 0.0
    fade_in_us: int = 0
    fade_out_us: int = 0
    phrases: tuple[PhraseHand, ...] = ()


AS_PLANNED: Final = HandFit()


def hand_fit_problem(hand: HandFit) -> str:
    """Why no line can be fitted so; empty where one can."""
    parts: tuple[HandFit | PhraseHand, ...] = (hand, *hand.phrases)
    if not all(len(one.said) in (0, 3) for one in hand.phrases):
        return msg("It is not known which word is meant.")
    if not all(one.tempo is None or TEMPO[0] <= one.tempo <= TEMPO[1] for one in parts):
        return msg("A line is spoken at 0.4 to 2.5 times its own tempo.")
    if not all(one.word >= 0 and 0 <= (one.pause_us or 0) <= MOST_SLACK_US for one in hand.phrases):
        return msg("A phrase waits for ten seconds at most.")
    if hand.pauses is not None and not PAUSES[0] <= hand.pauses <= PAUSES[1]:
        return msg("Of its pauses a line keeps none up to three times as much.")
    if not (0 <= hand.start_slack_us <= MOST_SLACK_US and 0 <= hand.end_slack_us <= MOST_SLACK_US):
        return msg("A line may be late by ten seconds at most.")
    if not all(0 <= fade_us <= MOST_FADE_US for one in parts for fade_us in (one.fade_in_us, one.fade_out_us)):
        return msg("The ends of a line are faded over five seconds at most.")
    if not all(GAIN_DB[0] <= one.gain_db <= GAIN_DB[1] for one in parts):
        return msg("A line is made louder or softer by 24 dB at most.")
    return ""
