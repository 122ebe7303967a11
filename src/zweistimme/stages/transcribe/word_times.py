"""The times of the words of segments looked for in the sound around them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Final

from zweistimme.project.access import find_segment, find_segments
from zweistimme.project.errors import EditError, EngineError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Project, Word
from zweistimme.project.times import RATE, SECOND_US
from zweistimme.project.transcript import retime_segment, set_words
from zweistimme.project.words import says, spoken_words
from zweistimme.sound.script_align import align_one
from zweistimme.stages.reference_voice import voice_of_language
from zweistimme.stages.transcribe.script_layout import spectra_of, timed
from zweistimme.stages.transcribe.script_sentences import spoken_sentences
from zweistimme.stages.work import Work, open_sound

_OTHERS: Final = 20
_AROUND_S: Final = 0.4


def realign(work: Work, segment_ids: Sequence[str]) -> None:
    """Look for the times of the words of some segments in the sound around them. Their wording stays; where nothing
    like it is heard, so do their times."""
    programme, project = work.project.programme, work.project
    wanted = [segment for segment in find_segments(project, segment_ids) if segment.text]
    voice = voice_of_language(project, project.source_tag)
    if programme is None or not wanted:
        return
    if voice is None:
        raise EngineError(
            "No voice speaks {source_tag}, so the words cannot be looked for in the sound.",
            source_tag=project.source_tag,
        )
    written = spoken_sentences(work, [(s.text, "", k) for k, s in enumerate(wanted)], *voice)
    with open_sound(work, programme.sound) as reader:
        spectra = spectra_of(reader)
        templates = [one.template for one in written if one.template is not None]
        unheard = 0
        for number, (segment, sentence) in enumerate(zip(wanted, written, strict=True)):
            start = max(0.0, segment.start_us / SECOND_US - _AROUND_S)
            end = min(reader.length / RATE, segment.end_us / SECOND_US + _AROUND_S)
            assert sentence.template is not None
            others = [one for one in templates if one is not sentence.template][:_OTHERS]
            placed = align_one(spectra, start, end, sentence.template, others)
            if placed is None:
                unheard += 1
            else:
                words = timed(sentence, placed)
                work.deliver("Find word times", partial(_with_times, segment_id=segment.id, words=words))
            work.report(0.5 + 0.5 * (number + 1) / len(wanted))
    if unheard:
        work.say(Finding("words-not-heard", {"unheard": unheard, "segments": len(wanted)}))


def _with_times(project: Project, segment_id: str, words: tuple[Word, ...]) -> Project:
    segment = find_segment(project, segment_id)
    if not says(segment.text, words):
        raise EditError("Its text has been changed meanwhile; look for its times again.")
    start, end = min(segment.start_us, words[0].start_us), max(segment.end_us, words[-1].end_us)
    kept = tuple(replace(w, confidence=was.confidence) for w, was in zip(words, spoken_words(segment), strict=True))
    return set_words(retime_segment(project, segment_id, start, end), segment_id, kept)
