"""Transcribe by an engine."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace

from zweistimme.engines.protocol import MOST_HINTS, Engine, HeardSegment, HeardWord, Recognition, RecognitionQuestion
from zweistimme.messages import msg
from zweistimme.project.errors import EngineError, MediaError
from zweistimme.project.findings import Figure, Finding, reason
from zweistimme.project.languages import language_of, same_language
from zweistimme.project.model import Project, Segment, Speaker, Word
from zweistimme.project.new_transcript import replace_transcript
from zweistimme.project.segmentation import CutLimits, utterances
from zweistimme.project.times import RATE
from zweistimme.project.words import SHORTEST_SEGMENT_US, Spellings, text_of
from zweistimme.stages.answers import cost_of_run
from zweistimme.stages.transcribe.long_sound import recognised_whole
from zweistimme.stages.work import Work, open_sound


def transcribe(
    work: Work,
    engine: Engine,
    *,
    candidates: tuple[str, ...] = (),
    hints: tuple[str, ...] = (),
    speakers: int | None = None,
    anew: bool = False,
    limits: CutLimits = CutLimits(),
) -> None:
    """Replace the transcript by what *engine* hears, cut within *limits*. *candidates* are other languages it may be
    in; *hints* are names and terms beside the project's own, and give words their capitals. With *anew* it is
    asked also for what it has answered before."""
    programme = work.project.programme
    if programme is None:
        raise MediaError("There is no programme to transcribe yet. Bring one in first.")
    tag = work.project.source_tag
    info = engine.info()
    known = {language_of(language) for language in info.recognises}
    if language_of(tag) not in known:
        raise EngineError(
            "{engine} does not recognise {tag}; it recognises {names}. Give captions or a script instead.",
            engine=info.name,
            tag=tag,
            names=", ".join(info.recognises) or "nothing",
        )
    hints = _most_hints(work, hints)
    languages = (tag, *(c for c in candidates if c != tag and language_of(c) in known)) if info.detects else (tag,)
    with open_sound(work, programme.sound) as reader:
        question = RecognitionQuestion(languages, hints, speakers)
        heard = recognised_whole(replace(work, anew=anew), engine, reader, programme.sound, question)
    _deliver(work, heard, reader.length / RATE, hints, limits)
    for finding in cost_of_run(info.name, heard.cost):
        work.say(finding)


def _most_hints(work: Work, hints: tuple[str, ...]) -> tuple[str, ...]:
    """The project's terms and what else is said, names first, as many as a question may have."""
    terms = sorted(work.project.terms.values(), key=lambda term: not term.is_name)
    wanted = tuple(dict.fromkeys((*(term.source for term in terms), *hints)))
    if len(wanted) > MOST_HINTS:
        work.say(Finding("hints-left-out", {"told": MOST_HINTS, "left_out": len(wanted) - MOST_HINTS}))
    return wanted[:MOST_HINTS]


def _placed(work: Work, segments: Sequence[HeardSegment], length_s: float) -> list[HeardSegment]:
    """Segments that lie in the programme. What an engine puts behind its end, or gives no time at all, is left out and
    said with its place; all else that was paid for is kept."""
    kept = []
    for segment in segments:
        if segment.start_us < length_s * 1e6 and segment.end_us > segment.start_us:
            kept.append(segment)
            continue
        words = " ".join(word.text for word in segment.words)[:40]
        no_time = segment.end_us <= segment.start_us
        why = msg("lasts no time") if no_time else msg("lies behind the end of the programme")
        work.say(Finding("heard-outside", {"words": words, "at_us": segment.start_us, "why": reason(why)}))
    if segments and not kept:
        raise EngineError("The engine answered with speech outside the programme alone. Its answer was not used.")
    return kept


def _deliver(work: Work, heard: Recognition, length_s: float, names: Sequence[str], limits: CutLimits) -> None:
    placed = _placed(work, heard.segments, length_s)
    spoken = [segment for segment in placed if not _hesitates(segment)]
    if not spoken:
        raise EngineError("No speech was found. Check the sound, or give captions or a script.")
    if heard.language and not same_language(heard.language, work.project.source_tag):
        figures: dict[str, Figure] = {"heard": heard.language, "said": work.project.source_tag}
        if heard.probability is None:
            work.say(Finding("sounds-like-another", figures))
        else:
            work.say(Finding("other-language-heard", {**figures, "share": heard.probability}))
    wordless = sum(1 for segment in spoken if all(word.filler for word in segment.words))
    if wordless:
        work.say(Finding("without-words", {"stretches": wordless}))
    fillers = sum(1 for segment in placed for word in segment.words if word.filler)
    if fillers:
        work.say(Finding("hesitations-left-out", {"sounds": fillers}))
    speakers, segments = _as_transcript(_cut(placed, limits), work.project, names)
    work.deliver("Transcribe", lambda project: replace_transcript(project, speakers, segments))


def _hesitates(segment: HeardSegment) -> bool:
    """Whether nothing but hesitation was heard."""
    return bool(segment.words) and all(word.filler for word in segment.words)


def _with_fillers(spoken: list[HeardSegment], everything: Sequence[HeardSegment]) -> list[HeardSegment]:
    """Hesitations that stand alone, given to the stretch of speech nearest in time, so that they can be put back.
    *spoken* is sorted by start."""
    starts = [segment.start_us for segment in spoken]
    latest: list[int] = []  # which of the first so many ends last
    for place, segment in enumerate(spoken):
        latest.append(place if not latest or segment.end_us > spoken[latest[-1]].end_us else latest[-1])
    beside: dict[int, list[HeardWord]] = {}
    for segment in filter(_hesitates, everything):
        place = bisect_left(starts, segment.end_us)
        before = [latest[place - 1]] if place else []  # of those that have begun, the one that ends last
        near = [*before, *([place] if place < len(spoken) else [])]
        gaps = [max(spoken[k].start_us - segment.end_us, segment.start_us - spoken[k].end_us) for k in near]
        beside.setdefault(near[gaps.index(min(gaps))], []).extend(segment.words)
    return [replace(segment, words=(*segment.words, *beside.get(place, ()))) for place, segment in enumerate(spoken)]


def _cut(heard: Sequence[HeardSegment], limits: CutLimits) -> list[HeardSegment]:
    """What was heard, cut as a person would dub it. Speech without words keeps its place."""
    wordless = [segment for segment in heard if not segment.words]
    spoken = [(word, segment.speaker) for segment in heard for word in segment.words]
    marked = {(w.start_us, w.end_us, w.text, speaker): w for w, speaker in spoken}
    kept = [(w, speaker) for w, speaker in spoken if not w.filler]
    cut = utterances([_word(w) for w, _ in kept], [speaker for _, speaker in kept], limits)
    segments = [
        HeardSegment(
            said[0].start_us,
            max(said[-1].end_us, said[0].start_us + SHORTEST_SEGMENT_US),
            speaker,
            tuple(marked[w.start_us, w.end_us, w.text, speaker] for w in said),
        )
        for speaker, said in cut
    ]
    hesitations = [HeardSegment(w.start_us, w.end_us, speaker, (w,)) for w, speaker in spoken if w.filler]
    everything = sorted((*segments, *wordless), key=lambda segment: segment.start_us)
    return _with_fillers(everything, hesitations)


def _as_transcript(
    heard: list[HeardSegment], project: Project, names: Sequence[str]
) -> tuple[list[Speaker], list[Segment]]:
    labels = list(dict.fromkeys(segment.speaker for segment in heard))
    ids = {label: f"p{number}" for number, label in enumerate(labels, 1)}
    speakers = [Speaker(ids[label], f"Speaker {label}") for label in labels]
    seen = project.programme is not None and project.programme.picture is not None
    spellings = Spellings(names)
    segments = [
        Segment(
            f"s{number:04d}",
            ids[item.speaker],
            item.start_us,
            item.end_us,
            text_of(said),
            said,
            seen,
            tuple(sorted((_word(w) for w in item.words if w.filler), key=lambda word: word.start_us)),
        )
        for number, item in enumerate(heard, 1)
        for said in [spellings.applied([_word(w) for w in item.words if not w.filler])]
    ]
    return speakers, segments


def _word(heard: HeardWord) -> Word:
    return Word(heard.text, heard.start_us, heard.end_us, heard.confidence, heard.filler)
