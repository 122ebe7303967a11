"""What an engine may do besides recognising, translating and speaking: make a voice from samples, describe pictures,
draft text, compose a bed, sense the tone of a text. It came with version 2 of the protocol.

Each is one question and one answer in JSON; ``CALLS`` lists them. Sound and pictures go as files in base64, in this
process too, so that there is one set of types.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Final

from annotated_types import Ge, Gt, Le, MaxLen, MinLen

from zweistimme.engines.offers import NOTHING_USED, Cost, Id, Microseconds, Role, Share, Tag, Text, VoiceInfo

Base64 = Annotated[str, MinLen(4)]
Short = Annotated[str, MaxLen(500)]


# a voice made from samples


@dataclass(frozen=True, slots=True)
class VoiceSample:
    """A clip (WAV or FLAC, in base64) of the person whose voice is wanted, what is said in it, and how."""

    sound: Base64
    text: Text = ""
    tone: Short = ""


@dataclass(frozen=True, slots=True)
class Consent:
    """Who allowed a voice to be made of theirs, in their own words, and when (ISO 8601)."""

    person: Annotated[str, MinLen(1), MaxLen(200)]
    words: Annotated[str, MinLen(1), MaxLen(2_000)]
    given_on: Annotated[str, MinLen(4), MaxLen(40)]


@dataclass(frozen=True, slots=True)
class ImitationRequest:
    """A voice is to be made from samples. Without consent none is."""

    name: Id
    languages: Annotated[tuple[Tag, ...], MinLen(1), MaxLen(100)]
    samples: Annotated[tuple[VoiceSample, ...], MinLen(1), MaxLen(100)]
    consent: Consent


@dataclass(frozen=True, slots=True)
class MadeVoice:
    """The voice, which the engine offers from now on."""

    voice: VoiceInfo
    cost: Cost = NOTHING_USED


@dataclass(frozen=True, slots=True)
class VoiceRemoval:
    """A voice that was made from samples is to be removed, with all that was kept of it."""

    voice: Id


@dataclass(frozen=True, slots=True)
class RemovedVoice:
    """The voice, which the engine does not offer any more."""

    voice: Id
    cost: Cost = NOTHING_USED


# pictures described


@dataclass(frozen=True, slots=True)
class SeenPicture:
    """A picture (PNG or JPEG, in base64) and when it is seen."""

    at_us: Microseconds
    image: Base64


@dataclass(frozen=True, slots=True)
class DescriptionRequest:
    """What happens in these pictures is to be said in so many seconds, in so many words at most."""

    language: Tag
    pictures: Annotated[tuple[SeenPicture, ...], MinLen(1), MaxLen(200)]
    seconds: Annotated[float, Gt(0), Le(600)]
    longest_words: Annotated[int, Ge(1), Le(2_000)]
    instruction: Text = ""
    before: Text = ""
    """What was said last, for context only."""


@dataclass(frozen=True, slots=True)
class Description:
    """Ways to say it, the fullest first."""

    texts: Annotated[tuple[Text, ...], MinLen(1)]
    cost: Cost = NOTHING_USED


# text drafted


@dataclass(frozen=True, slots=True)
class DraftRequest:
    """Something to be spoken is to be written: about a subject or from material, for so many people, so long."""

    language: Tag
    seconds: Annotated[float, Gt(0), Le(7_200)]
    subject: Short = ""
    material: Text = ""
    people: Annotated[tuple[Id, ...], MinLen(1), MaxLen(20)] = ("A",)


@dataclass(frozen=True, slots=True)
class DraftTurn:
    """What one of the people says, and how."""

    person: Id
    text: Text
    tone: Short = ""


@dataclass(frozen=True, slots=True)
class Draft:
    """The turns, in order."""

    turns: Annotated[tuple[DraftTurn, ...], MinLen(1)]
    title: Short = ""
    cost: Cost = NOTHING_USED


# a bed composed


@dataclass(frozen=True, slots=True)
class BedSection:
    """A stretch of a bed: music of a mood, or the atmosphere of a place, and how much goes on in it."""

    seconds: Annotated[float, Gt(0), Le(3_600)]
    mood: Short
    energy: Share = 0.5


@dataclass(frozen=True, slots=True)
class BedRequest:
    """Music and atmosphere by a plan; sections follow one another without a gap."""

    sections: Annotated[tuple[BedSection, ...], MinLen(1), MaxLen(200)]
    seed: Annotated[int, Ge(0), Le(2**31)] = 0


@dataclass(frozen=True, slots=True)
class Bed:
    """One piece of sound, one or two channels, as long as the plan (a WAV or FLAC file in base64)."""

    sound: Base64
    cost: Cost = NOTHING_USED


# the tone of a text


@dataclass(frozen=True, slots=True)
class ToneItem:
    """A text, with the id its answer carries."""

    id: Id
    text: Text


@dataclass(frozen=True, slots=True)
class ToneRequest:
    """In what tone would these be said?"""

    language: Tag
    items: Annotated[tuple[ToneItem, ...], MinLen(1), MaxLen(1_000)]


@dataclass(frozen=True, slots=True)
class Tone:
    """The tone of one text, in a word, and how marked it is; no word where there is nothing to be said of it."""

    id: Id
    tone: Short
    strength: Share


@dataclass(frozen=True, slots=True)
class Tones:
    """Tones of what was asked for, each once."""

    items: tuple[Tone, ...]
    cost: Cost = NOTHING_USED


Asked = ImitationRequest | VoiceRemoval | DescriptionRequest | DraftRequest | BedRequest | ToneRequest
Answered = MadeVoice | RemovedVoice | Description | Draft | Bed | Tones


@dataclass(frozen=True, slots=True)
class Call:
    """One kind of question: the role it belongs to, where a service takes it, its type and that of its answer; what
    it is called, where a role has several."""

    role: Role
    path: str
    request: type[Any]
    answer: type[Any]
    also: str = ""

    @property
    def name(self) -> str:
        """What it is called."""
        return self.also or self.role.value


CALLS: Final = (
    Call(Role.IMITATE, "/v1/voices", ImitationRequest, MadeVoice),
    Call(Role.IMITATE, "/v1/voices/removal", VoiceRemoval, RemovedVoice, "remove-voice"),
    Call(Role.DESCRIBE, "/v1/descriptions", DescriptionRequest, Description),
    Call(Role.DRAFT, "/v1/drafts", DraftRequest, Draft),
    Call(Role.COMPOSE, "/v1/beds", BedRequest, Bed),
    Call(Role.SENSE, "/v1/tones", ToneRequest, Tones),
)


def call_of(request: Asked) -> Call:
    """The call that a question is."""
    return next(call for call in CALLS if call.request is type(request))
