"""A script that has no times, aligned to the sound: every sentence is spoken by a voice of the language, and what was
spoken is found in the programme. Where no voice speaks the language, sentences are laid over the speech by length."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from zweistimme.formats.prose import Prose
from zweistimme.formats.transcripts import UNNAMED, said_of
from zweistimme.project.errors import EngineError, FormatError, MediaError
from zweistimme.project.findings import Finding
from zweistimme.project.intervals import Intervals
from zweistimme.project.model import Project
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.segmentation import CutLimits, transcript_of, utterances
from zweistimme.project.speaker_edits import unused_name
from zweistimme.project.times import seconds_to_us
from zweistimme.sound.script_sureness import SURE
from zweistimme.stages.reference_voice import voice_of_language
from zweistimme.stages.transcribe.diarize import FoundSpeech, found_speech, laid_over
from zweistimme.stages.transcribe.script_layout import SaidSentence, laid_by_length, laid_out
from zweistimme.stages.transcribe.script_sentences import (
    ScriptSentence,
    sentences_of,
    spoken_sentences,
)
from zweistimme.stages.work import Work, open_sound

_NAMED: Final = 6


def align_script(work: Work, prose: Prose, source: Path, *, limits: CutLimits = CutLimits()) -> None:
    """Replace the transcript by a script. Sentences that are not heard, and speech that is not written, are said."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme yet. Bring one in before its script.")
    for finding in said_of(source.name, prose.notes):
        work.say(finding)
    part = work.part(0.0, 0.25)
    with open_sound(work, programme.sound) as reader:
        heard = found_speech(reader, part)
        if not heard.regions:
            raise FormatError("No speech was found in the sound, so there is nothing to align the script to.")
        voice = voice_of_language(work.project, work.project.source_tag)
        if voice is None:
            said = laid_by_length(prose, heard, work.project.source_tag)
            work.say(Finding("laid-by-length", {"language": work.project.source_tag}))
        else:
            written = spoken_sentences(work, sentences_of(prose), *voice)
            said = laid_out(work, reader, heard, written)
            _say_what_is_unsure(work, written, said, source)
    _deliver(work, said, heard, limits, source)


def _say_what_is_unsure(
    work: Work, written: Sequence[ScriptSentence], said: Sequence[SaidSentence], source: Path
) -> None:
    heard = {id(one.sentence) for one in said}
    missing = [one for one in written if id(one) not in heard]
    if not said:
        raise EngineError("No sentence of {file} was heard in the programme. Is it the right script?", file=source.name)
    unsure = sum(one.words[0].confidence <= SURE for one in said)
    if unsure == len(said):
        work.say(Finding("script-unsure", {"file": source.name}))
    elif unsure:
        work.say(Finding("script-partly-unsure", {"unsure": unsure, "sentences": len(written)}))
    for one in missing[:_NAMED]:
        work.say(Finding("sentence-not-heard", {"text": one.text[:60]}))
    if len(missing) > _NAMED:
        work.say(Finding("more-not-heard", {"sentences": len(missing) - _NAMED}))


def _deliver(work: Work, said: Sequence[SaidSentence], heard: FoundSpeech, limits: CutLimits, source: Path) -> None:
    named = any(one.sentence.speaker for one in said)
    voices = _voices(said, heard) if not named else {}
    words, owners = [], []
    name = UNNAMED
    for one in said:
        name = (one.sentence.speaker or name) if named else voices[id(one)]
        words += list(one.words)
        owners += [name] * len(one.words)
    programme = work.project.programme
    assert programme is not None
    seen, end_us = programme.picture is not None, programme.sound.duration_us
    speakers, segments = transcript_of(utterances(words, owners, limits), on_screen=seen)

    def edit(project: Project) -> Project:
        return laid_over(replace_transcript(project, speakers, segments), heard.turns, end_us, keep=True)

    extra = len(edit(work.project).segments) - len(segments)
    if extra:
        work.say(Finding("speech-not-written", {"stretches": extra, "file": source.name}))
    work.deliver(f"Align {source.name}", edit)


def _voices(said: Sequence[SaidSentence], heard: FoundSpeech) -> dict[int, str]:
    """Who says each sentence, told by voice alone; the sentences of a paragraph may differ."""
    turns = sorted(heard.turns, key=lambda turn: turn.start_s)
    spans = Intervals((seconds_to_us(turn.start_s), seconds_to_us(turn.end_s)) for turn in turns)
    names: dict[int, str] = {}
    letters: dict[int, str] = {}
    for one in said:
        shared: Counter[int] = Counter()
        for place, time in spans.shared(one.words[0].start_us, one.words[-1].end_us):
            shared[turns[place].speaker] += time
        voice = max(shared, key=lambda key: shared[key], default=0)
        letters.setdefault(voice, unused_name(letters.values()))
        names[id(one)] = letters[voice]
    return names
