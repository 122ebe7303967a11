"""Finding a voice among those on offer: what somebody is looking for, and which voices are that."""

from __future__ import annotations

import unicodedata
from collections.abc import Collection, Iterable
from dataclasses import dataclass

from zweistimme.engines.voices import split_voice
from zweistimme.project.languages import language_of, own_name, region_of
from zweistimme.stages.cast.likeness import kind_of
from zweistimme.stages.cast.proposing import VoiceOnOffer


@dataclass(frozen=True, slots=True)
class VoiceSearch:
    """What a voice has to be; what is empty does not matter. *text* is looked for word by word in its name, what is
    said of it, its kind, ways of speaking and languages; *dearest* is the price of a character at most."""

    text: str = ""
    language: str = ""
    region: str = ""
    kind: str = ""
    direction: str = ""
    engine: str = ""
    tier: str = ""
    control: str = ""
    dearest: float | None = None
    varies: bool = False
    listed: bool = False

    def found(self, voices: Iterable[VoiceOnOffer], shortlist: Collection[str] = ()) -> list[VoiceOnOffer]:
        """Those of *voices* that are so, in their order."""
        return [voice for voice in voices if self._fits(voice, shortlist)]

    def _fits(self, voice: VoiceOnOffer, shortlist: Collection[str]) -> bool:
        info = voice.info
        regions = {region_of(language) for language in info.languages} | {info.region.upper()}
        checks = (
            not self.language or language_of(self.language) in {language_of(one) for one in info.languages},
            not self.region or self.region.upper() in regions,
            not self.kind or (kind_of(self.kind) or self.kind) == (kind_of(info.kind) or info.kind),
            not self.direction or self.direction in info.directions,
            not self.engine or self.engine == split_voice(voice.ref)[0],
            not self.tier or any(self.tier == tier.name for tier in info.tiers),
            not self.control or info.control(self.control) is not None,
            self.dearest is None or voice.price <= self.dearest,
            not self.varies or info.varies,
            not self.listed or voice.ref in shortlist,
        )
        return all(checks) and all(word in _said_of(voice) for word in _plain(self.text).split())


def _said_of(voice: VoiceOnOffer) -> str:
    info = voice.info
    names = (own_name(language) for language in info.languages)
    return _plain(" ".join((voice.ref, info.name, info.about, info.kind, *info.directions, *info.languages, *names)))


def _plain(text: str) -> str:
    """Without case and marks on letters."""
    parts = unicodedata.normalize("NFKD", text.casefold())
    return "".join(part for part in parts if not unicodedata.combining(part))
