"""What a dubbing project is: frozen data without behaviour. Edits live in ``edits.py``, derived facts in ``facts.py``.

All times are whole microseconds in programme time unless a name says otherwise; intervals are half-open.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Final

from zweistimme.project.auditions import Audition
from zweistimme.project.brief import Brief
from zweistimme.project.findings import Finding
from zweistimme.project.fit_limits import Limits
from zweistimme.project.hand_fit import AS_PLANNED, HandFit, WordPin
from zweistimme.project.mix_settings import MixSettings, Place
from zweistimme.project.programme import Programme
from zweistimme.project.sayings import Saying
from zweistimme.project.sound_delivery import SoundPreset
from zweistimme.project.terms import Term
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.project.wordings import LineNote, LineState, Offer, Origin


class Style(StrEnum):
    """How closely a version's speech follows the original."""

    PHRASE_SYNC = "phrase-sync"
    LIP_SYNC = "lip-sync"
    VOICE_OVER = "voice-over"


class Preference(StrEnum):
    """What gives way first when a line is too long or too short."""

    BALANCED = "balanced"
    VOICE = "keep-voice"
    LIPS = "keep-lips"


class TakeKind(StrEnum):
    """Where a take came from."""

    SYNTHESIZED = "synthesized"
    IMPORTED = "imported"
    RECORDED = "recorded"


@dataclass(frozen=True, slots=True)
class Word:
    """A spoken word; confidence is 0..1, and 1 means certain."""

    text: str
    start_us: int
    end_us: int
    confidence: float = 1.0
    filler: bool = False
    """A sound of hesitation."""


@dataclass(frozen=True, slots=True)
class Speaker:
    """A person heard in the programme, with what was measured of their voice."""

    id: str
    name: str
    pitch_hz: float | None = None
    traits: VoiceTraits | None = None


@dataclass(frozen=True, slots=True)
class Segment:
    """One stretch of source speech by one speaker."""

    id: str
    speaker_id: str
    start_us: int
    end_us: int
    text: str
    words: tuple[Word, ...] = ()
    on_screen: bool = True
    fillers: tuple[Word, ...] = ()
    """Sounds of hesitation heard in it, kept aside: no part of the text."""
    respoken: str = ""
    """The clip in which somebody said it again to have it written down, if anybody did."""
    place: Place = Place.AS_SEEN


@dataclass(frozen=True, slots=True)
class Pin:
    """A placement set by hand: never moved by the plan. Length None leaves the tempo free."""

    start_us: int
    length_us: int | None = None


@dataclass(frozen=True, slots=True)
class Manner:
    """How a voice is to speak: pace and pitch as factors of its own, level in dB more, in which quality (a tier its
    engine offers; empty: as it is had where nothing is said), and in which of the ways that a voice has that varies
    (the number its first take is asked with)."""

    rate: float = 1.0
    pitch: float = 1.0
    volume_db: float = 0.0
    tier: str = ""
    seed: int = 0


AS_USUAL: Final = Manner()


@dataclass(frozen=True, slots=True)
class Maker:
    """Which engine made a wording or a take, which of its voices, and what it charged for it: of a request for several
    texts a share by their length."""

    engine: str
    version: str = ""
    voice: str = ""
    amount: float = 0.0
    currency: str = ""


@dataclass(frozen=True, slots=True)
class Line:
    """The wording of one segment in one version.

    *made_from* is the fingerprint of the source text it translates, *original* that text; *offers* are other wordings
    for it; *manner* is how this line is spoken, on top of how its speaker speaks; *maker* is the engine that worded
    it, where one did. A *locked* line keeps its words, whoever would change them. *voice* speaks this line alone, in
    the place of its speaker's. *word_pins* hold words of its take, in their order, to moments of the programme;
    *hand* is what a hand says of how it is fitted.
    """

    segment_id: str
    text: str
    made_from: str
    direction: str = ""
    offers: tuple[Offer, ...] = ()
    state: LineState = LineState.INITIAL
    origin: Origin | None = None
    take_id: str | None = None
    pin: Pin | None = None
    manner: Manner = AS_USUAL
    maker: Maker | None = None
    original: str = ""
    notes: tuple[LineNote, ...] = ()
    locked: bool = False
    voice: str = ""
    word_pins: tuple[WordPin, ...] = ()
    hand: HandFit = AS_PLANNED


@dataclass(frozen=True, slots=True)
class Take:
    """A sound clip of one line. Positions are samples of the clip at 48 kHz, words are in take time.

    ``[speech_start, speech_end)`` is what remains once outer silence is trimmed; *pauses* are the inner
    silences within it. *made_from* is the fingerprint of wording, direction and voice.
    """

    id: str
    segment_id: str
    kind: TakeKind
    label: str
    clip: str
    length_samples: int
    speech_start_samples: int
    speech_end_samples: int
    made_from: str
    pauses_samples: tuple[tuple[int, int], ...] = ()
    words: tuple[Word, ...] = ()
    maker: Maker | None = None
    """Who made it, where an engine did."""
    score: int = 0
    """What somebody thinks of it: 1 (of no use) to 5 (as it should be), 0 where nobody said."""
    note: str = ""


@dataclass(frozen=True, slots=True)
class PlacedPhrase:
    """A phrase of a take: samples ``[take_start, take_end)`` of its clip are heard from *start_us* on, *length_us*
    long; what its inner pauses gave stands in *pauses_cut_us*."""

    start_us: int
    length_us: int
    take_start_samples: int
    take_end_samples: int
    pauses_cut_us: int = 0


@dataclass(frozen=True, slots=True)
class Placement:
    """Where the chosen take sits after fitting.

    *tempo* is that of the speech itself (1.1 is ten percent faster), *pauses_cut_us* what inner pauses gave (negative
    when they were lengthened), *overflow_us* by how much the line is too long whatever is done, *clash_us* by how
    much it is heard at once with another, though the original is not; *why* says why it stands there. *phrases*,
    where there are any, are placed by themselves, from the first to the last sample of its speech.
    """

    segment_id: str
    take_id: str
    start_us: int
    length_us: int
    tempo: float
    why: tuple[Finding, ...]
    made_from: str
    pauses_cut_us: int = 0
    overflow_us: int = 0
    clash_us: int = 0
    phrases: tuple[PlacedPhrase, ...] = ()


class Made(StrEnum):
    """What an engine makes of a segment in a version."""

    LINE = "line"
    TAKE = "take"


@dataclass(frozen=True, slots=True)
class Failure:
    """Why the line or the take of a segment could not be made. *asked* is the fingerprint of what it was to be made
    from: the failure holds as long as that is the same."""

    segment_id: str
    made: Made
    why: Finding
    asked: str


@dataclass(frozen=True, slots=True)
class Delivery:
    """What was handed over for a version, and from what."""

    folder: str
    files: tuple[str, ...]
    made_from: str


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Version:
    """One target language of the programme. *cast* maps a speaker to a voice, *cast_chosen* are those whose voice a
    person chose, so that no proposal replaces it; *engines* maps a role to an engine
    where this version has one of its own; *failures* say what could not be made when it was last tried; *manners* say
    how a speaker's voice is to speak, *together* whether lines that answer each other are asked for together;
    *left_out* versions are worked on, and not handed over; *let_be* has, by line and kind, why a check is not to notice
    something (``checks.py``); *basis* is the version of the same language that it has its words from
    (``regions.py``); *auditions* are lines spoken in other voices to hear which suits; *mix* is how this version is
    mixed where that is not as the project says; *presets* are the names of the forms in which its sound is handed
    over, beside the mix that the video has; *limits* are what its plan is made to, where it has its own."""

    tag: str
    style: Style = Style.PHRASE_SYNC
    preference: Preference = Preference.BALANCED
    cast: Mapping[str, str] = field(default_factory=dict)
    lines: Mapping[str, Line] = field(default_factory=dict)
    takes: Mapping[str, Take] = field(default_factory=dict)
    placements: Mapping[str, Placement] = field(default_factory=dict)
    delivery: Delivery | None = None
    engines: Mapping[str, str] = field(default_factory=dict)
    failures: Mapping[str, Failure] = field(default_factory=dict)
    manners: Mapping[str, Manner] = field(default_factory=dict)
    together: bool = False
    left_out: bool = False
    let_be: Mapping[str, str] = field(default_factory=dict)
    basis: str = ""
    cast_chosen: tuple[str, ...] = ()
    auditions: Mapping[str, Audition] = field(default_factory=dict)
    mix: MixSettings | None = None
    presets: tuple[str, ...] = ()
    limits: Limits | None = None


@dataclass(frozen=True, slots=True)
class CaptionLimits:
    """What the captions of a language are held to where somebody said so; None is as its language has it. Letters of a
    line and of a second; times in microseconds."""

    lines: int | None = None
    line_letters: float | None = None
    most_speed: float | None = None
    shortest_us: int | None = None
    longest_us: int | None = None
    gap_us: int | None = None


@dataclass(frozen=True, slots=True)
class Project:
    """Everything a person decided or an engine made. *segments* are sorted by (start, id); *engines* maps a role to
    the engine asked for it; *substitutes* allows a voice of a related language where none speaks a version's own,
    unless that language is among the *refused*; *terms* are names and terms with what they are elsewhere, by an id;
    *segments_made* and *people_made* are the highest numbers ids ever had, since none is given twice; *caption_limits*
    are by language tag, the source's among them; *follow* has lines that nobody has settled translated again once their
    original was corrected; *brief* is what everybody who translates has to know; *sayings* are how words are said, by
    language and word; *presets* are forms of sound deliveries of its own, by name."""

    title: str
    source_tag: str
    programme: Programme | None = None
    speakers: Mapping[str, Speaker] = field(default_factory=dict)
    segments: tuple[Segment, ...] = ()
    versions: Mapping[str, Version] = field(default_factory=dict)
    mix: MixSettings = field(default_factory=MixSettings)
    engines: Mapping[str, str] = field(default_factory=dict)
    substitutes: bool = True
    refused: tuple[str, ...] = ()
    terms: Mapping[str, Term] = field(default_factory=dict)
    segments_made: int = field(default=0, compare=False)
    people_made: int = field(default=0, compare=False)
    caption_limits: Mapping[str, CaptionLimits] = field(default_factory=dict)
    follow: bool = False
    brief: Brief = field(default_factory=Brief)
    sayings: Mapping[str, Saying] = field(default_factory=dict)
    presets: Mapping[str, SoundPreset] = field(default_factory=dict)
