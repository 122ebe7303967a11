"""A bed by a plan of sections, composed by an engine, and laid under the programme."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from pathlib import Path

from zweistimme.engines.extra_questions import asked_extra, check_role
from zweistimme.engines.extra_roles import Bed, BedRequest, BedSection
from zweistimme.engines.offers import Cost, Role
from zweistimme.engines.registry import engine
from zweistimme.media.atomic import written_bytes
from zweistimme.project.errors import EditError, MediaError
from zweistimme.project.facts import fingerprint
from zweistimme.project.programme import SoundPick
from zweistimme.project.times import SECOND_US
from zweistimme.stages.bring_in import bring_in_bed
from zweistimme.stages.work import Work

FOLDER = "beds"


def section_of(text: str) -> BedSection | None:
    """A section as people write it, SECONDS:MOOD or SECONDS:MOOD:ENERGY; None where it is none.

    >>> section_of("20:calm:0.4"), section_of("calm")
    (BedSection(seconds=20.0, mood='calm', energy=0.4), None)
    """
    seconds, _, rest = text.partition(":")
    mood, _, energy = rest.partition(":")
    try:
        length, share = float(seconds), float(energy or 0.5)
    except ValueError:
        return None
    if not mood.strip() or not 0 < length <= 3_600 or not 0 <= share <= 1:
        return None
    return BedSection(length, mood.strip(), share)


def compose_bed(work: Work, name: str, sections: Sequence[BedSection], seed: int = 0) -> Path:
    """Have the engine of a connection compose a bed, keep it in the project's folder, and lay it under the programme.
    EngineError where it composes none; EditError where the plan is longer than the programme."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme for a bed to belong to. Bring one in first.")
    asked = engine(name)
    check_role(asked.info(), Role.COMPOSE, name)
    planned_s, whole_s = sum(one.seconds for one in sections), programme.sound.duration_us / SECOND_US
    if not sections or planned_s > whole_s + 1:
        raise EditError(
            "The plan lasts {planned:.0f} s, the programme {whole:.0f} s. Make the plan fit.",
            planned=planned_s,
            whole=whole_s,
        )
    request = BedRequest(tuple(sections), seed)
    with work.ledger.question(name, Role.COMPOSE, Cost()) as charge:
        answer = asked_extra(asked, request, Bed)
        charge(answer.cost)
    work.report(0.5)
    sound = base64.b64decode(answer.sound)
    ending = ".flac" if sound[:4] == b"fLaC" else ".wav"
    file = work.cache.parent / FOLDER / f"bed-{fingerprint('bed', name, request)}{ending}"
    written_bytes(file, sound)
    bring_in_bed(work, file, SoundPick())
    return file
