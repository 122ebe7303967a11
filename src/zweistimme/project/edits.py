"""Edits: pure functions ``Project -> Project``. Each is total: it returns a new project or raises an EditError
whose sentence a person can read. Parts that do not change keep their identity, so listeners see what differs.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace

from zweistimme.project.access import (
    find_line,
    find_segment,
    find_version,
    ids_of,
    put_line,
    put_version,
    with_key,
    without_keys,
)
from zweistimme.project.auditions import BEST
from zweistimme.project.errors import EditError
from zweistimme.project.facts import take_is_stale
from zweistimme.project.findings import Finding
from zweistimme.project.hand_fit import WordPin
from zweistimme.project.held_words import pins_in, waiting_pins
from zweistimme.project.languages import language_tag, named_tag
from zweistimme.project.model import Failure, Line, Pin, Placement, Preference, Project, Style, Take, Version
from zweistimme.project.programme import Programme, SoundTrack
from zweistimme.project.row_changes import with_rows
from zweistimme.project.segment_takes import takes_of
from zweistimme.project.words import SHORTEST_SEGMENT_US


def set_programme(project: Project, programme: Programme) -> Project:
    """Bring in (or replace) the programme."""
    return replace(project, programme=programme)


def set_bed(project: Project, bed: SoundTrack | None) -> Project:
    """Give the programme a bed, another one, or none."""
    if project.programme is None:
        raise EditError("There is no programme for a bed to belong to. Bring one in first.")
    return replace(project, programme=replace(project.programme, bed=bed))


def set_cuts(project: Project, sound: SoundTrack, cuts_us: tuple[int, ...]) -> Project:
    """Remember when shots of the picture begin that belongs to this sound; nothing where there is another meanwhile."""
    programme = project.programme
    if programme is None or programme.sound.checksum != sound.checksum:
        return project
    return replace(project, programme=replace(programme, cuts_us=cuts_us))


def move_media(project: Project, old_path: str, new_path: str) -> Project:
    """Say where a media file lies now that was found again somewhere else."""
    programme = project.programme
    if programme is None:
        return project
    sound, bed = (
        replace(track, path=new_path) if track and track.path == old_path else track
        for track in (programme.sound, programme.bed)
    )
    assert sound is not None
    return replace(project, programme=replace(programme, sound=sound, bed=bed))


def add_notes(project: Project, checksum: str, notes: Iterable[Finding]) -> Project:
    """Keep what was found out about the programme's sound, if it still has that sound."""
    programme = project.programme
    if programme is None or programme.sound.checksum != checksum:
        return project
    return replace(
        project,
        programme=replace(
            programme, notes=(*programme.notes, *(note for note in notes if note not in programme.notes))
        ),
    )


def add_version(
    project: Project,
    tag: str,
    style: Style = Style.PHRASE_SYNC,
    preference: Preference = Preference.BALANCED,
) -> Project:
    """Add a target language."""
    tag = language_tag(tag)
    if tag in project.versions:
        raise EditError("This project already has a version {tag}.", tag=tag)
    return put_version(project, Version(tag, style, preference))


def remove_version(project: Project, tag: str) -> Project:
    """Take a version away, with its lines, takes and placements; undo brings it back."""
    find_version(project, tag)
    return replace(
        project,
        versions=_on_basis(project, tag, ""),
        caption_limits=without_keys(project.caption_limits, {tag} - {project.source_tag}),
    )


def rename_version(project: Project, tag: str, name: str) -> Project:
    """Give a version a name of its own, or none; it comes last among the versions then, and counts as
    not handed over, since its files would have other names."""
    version = find_version(project, tag)
    wanted = named_tag(tag, name)
    if wanted != tag and wanted in project.versions:
        raise EditError("This project already has a version {tag}.", tag=wanted)
    limits = dict(project.caption_limits)
    if tag in limits and tag != project.source_tag:
        limits[wanted] = limits.pop(tag)
    rest = replace(project, versions=_on_basis(project, tag, wanted), caption_limits=limits)
    return put_version(rest, replace(version, tag=wanted, delivery=None))


def _on_basis(project: Project, tag: str, instead: str) -> dict[str, Version]:
    """All other versions; those that had their words from *tag* have them from another then, or from the original."""
    others = without_keys(project.versions, [tag])
    return {key: replace(one, basis=instead) if one.basis == tag else one for key, one in others.items()}


def set_version_style(project: Project, tag: str, style: Style, preference: Preference) -> Project:
    """Change how closely a version follows the original."""
    return put_version(project, replace(find_version(project, tag), style=style, preference=preference))


def choose_engine(project: Project, role: str, name: str, tag: str | None = None) -> Project:
    """Say which engine is asked for *role*, in one version or (tag None) wherever a version has none of its own."""
    if tag is None:
        return replace(project, engines=with_key(project.engines, role, name))
    version = find_version(project, tag)
    return put_version(project, replace(version, engines=with_key(version.engines, role, name)))


def set_follow(project: Project, follow: bool) -> Project:
    """Say whether lines that nobody has settled are translated again once their original was corrected, or held."""
    return project if follow is project.follow else replace(project, follow=follow)


def allow_substitutes(project: Project, allowed: bool) -> Project:
    """Say whether a voice of a related language may stand in for one of a version's own."""
    return replace(project, substitutes=allowed)


def set_direction(project: Project, tag: str, segment_id: str, direction: str) -> Project:
    """Say how a line is to be spoken."""
    line = find_line(project, tag, segment_id)
    return put_line(project, tag, replace(line, direction=" ".join(direction.strip("() ").split())))


def add_take(project: Project, tag: str, take: Take) -> Project:
    """Keep a finished take and choose it for its line, as a person does who made it."""
    line = find_line(project, tag, take.segment_id)
    version = find_version(project, tag)
    return put_line(
        put_version(project, replace(version, takes=with_key(version.takes, take.id, take))),
        tag,
        replace(line, take_id=take.id),
    )


def add_made_take(project: Project, tag: str, take: Take, *, instead_of: str | None) -> Project:
    """Keep a take that an engine made, and choose it if the line is still to have it: it says what was asked, in that
    voice, and nobody has chosen another take than *instead_of* meanwhile."""
    version = find_version(project, tag)
    line = version.lines.get(take.segment_id)
    if line is None or take.segment_id not in ids_of(project.segments):
        return project
    version = replace(version, takes=with_key(version.takes, take.id, take))
    project = put_version(project, version)
    segment = find_segment(project, take.segment_id)
    if line.take_id != instead_of or take_is_stale(project, version, segment, line, take):
        return project
    return put_line(project, tag, replace(line, take_id=take.id))


def put_take_instead(project: Project, tag: str, take: Take, known: Collection[str | None]) -> Project:
    """Keep a take and choose it, as long as its line still has one of the *known* takes: whoever has chosen another
    meanwhile keeps that."""
    version = find_version(project, tag)
    line = version.lines.get(take.segment_id)
    if line is None or take.segment_id not in ids_of(project.segments):
        return project
    project = put_version(project, replace(version, takes=with_key(version.takes, take.id, take)))
    return put_line(project, tag, replace(line, take_id=take.id)) if line.take_id in known else project


def choose_take(project: Project, tag: str, take_id: str) -> Project:
    """Use another take of a line."""
    version = find_version(project, tag)
    take = version.takes.get(take_id)
    if take is None:
        raise EditError("There is no take {take_id} in {tag}.", take_id=take_id, tag=tag)
    return put_line(project, tag, replace(find_line(project, tag, take.segment_id), take_id=take_id))


def score_take(project: Project, tag: str, take_id: str, score: int | None = None, note: str | None = None) -> Project:
    """Say what one thinks of a take: from 1 (of no use) to 5 (as it should be), 0 for nothing; None leaves it as it
    is."""
    version = find_version(project, tag)
    take = version.takes.get(take_id)
    if take is None:
        raise EditError("There is no take {take_id} in {tag}.", take_id=take_id, tag=tag)
    if score is not None and not 0 <= score <= BEST:
        raise EditError("A score lies between 1 and {best}; 0 takes it away.", best=BEST)
    after = replace(
        take, score=take.score if score is None else score, note=take.note if note is None else note.strip()
    )
    return put_version(project, replace(version, takes=with_key(version.takes, take_id, after)))


def choose_takes(project: Project, tag: str, take_ids: Iterable[str]) -> Project:
    """Use other takes of several lines."""
    for take_id in take_ids:
        project = choose_take(project, tag, take_id)
    return project


def use_best_takes(project: Project, tag: str, segment_ids: Iterable[str]) -> Project:
    """Use, of each of these lines, the take that is scored best, where that is better than the one in use and says
    what the line says; of equal ones the latest."""
    version = find_version(project, tag)
    chosen = {}
    for segment_id in segment_ids:
        line = version.lines.get(segment_id)
        if line is None:
            continue
        segment, current = find_segment(project, segment_id), version.takes.get(line.take_id or "")
        fresh = [
            one for one in takes_of(version, (segment_id,)) if not take_is_stale(project, version, segment, line, one)
        ]
        best = max(reversed(fresh), key=lambda one: one.score, default=None)
        if best is not None and best.score > (current.score if current is not None else 0):
            chosen[segment_id] = replace(line, take_id=best.id)
    return put_version(project, replace(version, lines=with_rows(version.lines, chosen))) if chosen else project


def pin_line(project: Project, tag: str, segment_id: str, pin: Pin | None) -> Project:
    """Pin a line where a hand put it, or leave it to the plan again (None). Its placement is as it was, and stale.
    Words that are held to moments before its start are let go, and all of them where it is to have a length."""
    line = find_line(project, tag, segment_id)
    if pin is not None:
        _check_pin(project, pin)
    if pin == line.pin:
        return project
    words = _words_that_fit(line, find_version(project, tag).takes.get(line.take_id or ""), pin)
    return put_line(project, tag, replace(line, pin=pin, word_pins=words))


def _words_that_fit(line: Line, take: Take | None, pin: Pin | None) -> tuple[WordPin, ...]:
    """The words of a line that are still held once it is pinned so."""
    if pin is None or take is None or not line.word_pins:
        return line.word_pins
    held = () if pin.length_us is not None else pins_in(line, take)
    kept = [one for one in held if one.word and one.start_us > pin.start_us]
    return tuple(sorted((*kept, *waiting_pins(line, take)), key=lambda one: one.word))


def _check_pin(project: Project, pin: Pin) -> None:
    if pin.start_us < 0:
        raise EditError("A take cannot start before the programme.")
    if pin.length_us is not None and pin.length_us < SHORTEST_SEGMENT_US:
        raise EditError("A take cannot be made shorter than 0.1 seconds.")
    end_us = project.programme.sound.duration_us if project.programme else None
    if end_us is not None and pin.start_us + (pin.length_us or SHORTEST_SEGMENT_US) > end_us:
        raise EditError("A take cannot be put behind the end of the programme.")


def put_placements(project: Project, tag: str, placements: Iterable[Placement]) -> Project:
    """Take over some placements; those that did not change keep their identity, the others stay."""
    version = find_version(project, tag)
    before = version.placements
    changed = {p.segment_id: p for p in placements if before.get(p.segment_id) != p}
    return put_version(project, replace(version, placements={**before, **changed})) if changed else project


def set_placements(project: Project, tag: str, placements: Iterable[Placement]) -> Project:
    """Take over a whole plan; placements that did not change keep their identity."""
    version = find_version(project, tag)
    before = version.placements
    after = {p.segment_id: before[p.segment_id] if before.get(p.segment_id) == p else p for p in placements}
    return put_version(project, replace(version, placements=after))


def put_failure(project: Project, tag: str, failure: Failure) -> Project:
    """Keep why a line or take could not be made. What is known of segments that are gone goes."""
    version = find_version(project, tag)
    kept = {key: one for key, one in version.failures.items() if key != failure.segment_id}
    kept[failure.segment_id] = failure
    there = set(ids_of(project.segments))
    return put_version(project, replace(version, failures={k: one for k, one in kept.items() if k in there}))
