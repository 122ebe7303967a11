"""TTML (W3C TTML2; IMSC 1.1 Text Profile and EBU-TT-D are of this family), read and written.

Read: ``begin``, ``end`` and ``dur`` on ``body``, ``div``, ``p`` and ``span`` as clock times with fractions or frames
and as offsets (h m s ms f t), nested times added up, ``br``, agents as speakers. Written: IMSC 1.1 Text, milliseconds.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Final

from zweistimme.formats.cue import Cue, Found, Reading, mended
from zweistimme.formats.dialogue import by_dashes, split
from zweistimme.formats.xml import ID, LANGUAGE, local_name, parse_xml
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.model import Word
from zweistimme.project.times import SECOND_US
from zweistimme.project.words import text_of
from zweistimme.project.writing import is_unspaced

if TYPE_CHECKING:
    from lxml.etree import _Element

TT: Final = "http://www.w3.org/ns/ttml"
_OLDER: Final = (
    "http://www.w3.org/2006/10/ttaf1",
    "http://www.w3.org/2006/04/ttaf1",
    "http://www.w3.org/2006/02/ttaf1",
    "http://www.w3.org/2004/11/ttaf1",
)
"""Namespaces of drafts in which many files were written."""
_TTM: Final = f"{TT}#metadata"
_TTP: Final = f"{TT}#parameter"
_PROFILE: Final = f"{TT}/profile/imsc1.1/text"
_TIMES: Final = ("begin", "end", "dur")
_CLOCK: Final = re.compile(r"^(\d{2,4}):(\d{2}):(\d{2})(?:\.(\d{1,12})|:(\d{2,5})(?:\.\d+)?)?$")
_OFFSET: Final = re.compile(r"^(\d{1,12})(?:\.(\d{1,12}))?(h|m|s|ms|f|t)$")


@dataclass(frozen=True, slots=True)
class _Clock:
    """How the file counts: frames and ticks a second."""

    frames: Fraction = Fraction(30)
    ticks: Fraction = Fraction(1)

    def time(self, text: str, place: str) -> int:
        """A time expression as microseconds."""
        text = text.strip()
        clock = _CLOCK.match(text)
        if clock:
            hours, minutes, seconds, fraction, frames = clock.groups()
            time = Fraction((int(hours) * 60 + int(minutes)) * 60 + int(seconds))
            time += Fraction(int(fraction), 10 ** len(fraction)) if fraction else 0
            time += int(frames) / self.frames if frames else 0
            return round(time * SECOND_US)
        offset = _OFFSET.match(text)
        if not offset:
            raise FormatError(
                "{place}: “{text}” is not a time of TTML, such as 00:01:02.500 or 62.5s.", place=place, text=text[:40]
            )
        whole, fraction, unit = offset.groups()
        value = int(whole) + (Fraction(int(fraction), 10 ** len(fraction)) if fraction else 0)
        scale = {"h": Fraction(3600), "m": Fraction(60), "s": Fraction(1), "ms": Fraction(1, 1000)}
        scale |= {"f": 1 / self.frames, "t": 1 / self.ticks}
        return round(value * scale[unit] * SECOND_US)


def parse_ttml(data: bytes, where: str) -> Reading:
    """The cues of a document."""
    for older in _OLDER:
        data = data.replace(older.encode(), TT.encode())
    root = parse_xml(data, where)
    if local_name(root) != "tt":
        raise FormatError(
            "{where} begins with <{local_name}>, TTML with <tt>.", where=where, local_name=local_name(root)
        )
    clock = _clock_of(root, where)
    agents = {
        agent.get(ID): " ".join("".join(name.itertext()).split())
        for agent in root.iter(f"{{{_TTM}}}agent")
        for name in agent.iter(f"{{{_TTM}}}name")
    }
    found: list[Found] = []
    shared: list[Finding] = []
    for body in root.iter(f"{{{TT}}}body"):
        found += _walk(body, _Context(clock, agents, where), shared)
    cues, repairs = mended(by_dashes(found, shared))
    repairs += shared
    if root.get(f"{{{_TTP}}}timeBase", "media") != "media":
        repairs.append(Finding("other-clock"))
    return Reading(cues, tuple(repairs), root.get(LANGUAGE, ""))


def _clock_of(root: _Element, where: str) -> _Clock:
    def number(name: str, fallback: str) -> str:
        return str(root.get(f"{{{_TTP}}}{name}", fallback))

    try:
        top, _, bottom = number("frameRateMultiplier", "1 1").replace(":", " ").partition(" ")
        frames = Fraction(int(number("frameRate", "30"))) * Fraction(int(top), int(bottom or 1))
        # without a rate of its own, a tick is a frame where frames are counted, else a second (TTML2, 7.2.18)
        usual = str(int(number("frameRate", "30")) * int(number("subFrameRate", "1")))
        counted = root.get(f"{{{_TTP}}}frameRate") is not None
        ticks = Fraction(int(number("tickRate", usual if counted else "1")))
    except (ValueError, ZeroDivisionError):
        raise FormatError(
            "{where}: its frame rate or tick rate is not a number. Correct its first element.", where=where
        ) from None
    if frames <= 0 or ticks <= 0:
        raise FormatError(
            "{where}: its frame rate or tick rate is not positive. Correct its first element.", where=where
        )
    return _Clock(frames, ticks)


@dataclass(frozen=True, slots=True)
class _Context:
    """What an element has from those around it."""

    clock: _Clock
    agents: dict[str | None, str]
    where: str
    origin_us: int = 0
    end_us: int | None = None
    speaker: str = ""


def _walk(element: _Element, around: _Context, repairs: list[Finding]) -> Iterator[Found]:
    inside = _entered(element, around)
    if local_name(element) == "p":
        yield from _paragraph(element, inside, repairs)
        return
    one_by_one = element.get("timeContainer") == "seq"
    for child in element:
        found = list(_walk(child, inside, repairs))
        yield from found
        if one_by_one and local_name(child):  # the next begins where this one ends
            ends = [one.cue.end_us for one in found]
            end = _entered(child, inside).end_us if _says_its_end(child) else max(ends, default=inside.origin_us)
            inside = replace(inside, origin_us=max(inside.origin_us, end or inside.origin_us))


def _says_its_end(element: _Element) -> bool:
    return any(element.get(name) for name in ("end", "dur"))


def _entered(element: _Element, around: _Context) -> _Context:
    """What an element gives to what is in it."""
    place = f"{around.where}, line {element.sourceline}"
    begin, end, dur = (element.get(name) for name in _TIMES)
    start = around.origin_us + (around.clock.time(begin, place) if begin else 0)
    stop = around.origin_us + around.clock.time(end, place) if end else around.end_us
    if dur:
        stop = start + around.clock.time(dur, place)
    agent = (element.get(f"{{{_TTM}}}agent") or "").split()
    speaker = around.agents.get(agent[0], agent[0]) if agent else around.speaker
    return replace(around, origin_us=start, end_us=stop, speaker=speaker)


@dataclass(frozen=True, slots=True)
class _Run:
    """Text of a paragraph that has one time and one speaker; *timed* if the time is not the paragraph's."""

    text: str
    inside: _Context
    timed: bool = False

    @property
    def lines(self) -> str:
        """The text with one space between words and no empty lines."""
        lines = (" ".join(line.split()) for line in self.text.split("\n"))
        return "\n".join(line for line in lines if line)


def _runs(element: _Element, inside: _Context, *, timed: bool = False) -> Iterator[_Run]:
    """The text of a paragraph in order; line ends of the file are spaces, ``br`` is a line end."""
    yield _Run((element.text or "").replace("\n", " "), inside, timed)
    for child in element:
        if local_name(child) == "br":
            yield _Run("\n", inside, timed)
        elif local_name(child) not in ("metadata", ""):
            own = any(child.get(name) for name in _TIMES)
            yield from _runs(child, _entered(child, inside), timed=timed or own)
        yield _Run((child.tail or "").replace("\n", " "), inside, timed)


def _paragraph(element: _Element, inside: _Context, repairs: list[Finding]) -> Iterator[Found]:
    """The captions of a paragraph: one, with words if each has a time; else one for each speaker or timed span."""
    place, runs = f"line {element.sourceline}", list(_runs(element, inside))
    if any(run.timed and run.text.strip() for run in runs):
        words = _words(runs)
        if words:
            start = inside.origin_us if element.get("begin") else words[0].start_us
            stop = inside.end_us if element.get("end") or element.get("dur") else None
            stop = words[-1].end_us if stop is None else stop
            yield Found(place, Cue(start, stop, text_of(words), _joined(runs)[0].inside.speaker, words))
        else:
            for run in _with_loose_text(runs):
                yield Found(place, _cue(run))
        return
    whole = _joined(runs)
    parts = [(run.inside.speaker, run.lines) for run in whole]
    if parts:
        yield from split(Found(place, _cue(whole[0])), parts, repairs)
    elif inside.end_us is not None:
        yield Found(place, Cue(inside.origin_us, inside.end_us, "", inside.speaker))


def _cue(run: _Run) -> Cue:
    start, stop = run.inside.origin_us, run.inside.end_us
    return Cue(start, start if stop is None else stop, run.lines, run.inside.speaker)


def _joined(runs: Iterable[_Run]) -> list[_Run]:
    """Runs with text; neighbours with the same time and speaker are one."""
    joined: list[tuple[_Run, list[str]]] = []
    for run in runs:
        if joined and (not run.text.strip() or joined[-1][0].inside == run.inside):
            joined[-1][1].append(run.text)
        elif run.text.strip():
            joined.append((run, [run.text]))
    return [replace(run, text="".join(texts)) for run, texts in joined]


def _with_loose_text(runs: Iterable[_Run]) -> list[_Run]:
    """Timed runs; text without a time of its own goes along with what stands before it, or else behind it."""
    timed: list[tuple[_Run, list[str]]] = []
    first: list[str] = []
    for run in runs:
        if run.timed and run.text.strip():
            timed.append((run, [*first, run.text]))
            first = []
        else:
            (timed[-1][1] if timed else first).append(run.text)
    return [replace(run, text="".join(texts)) for run, texts in timed]


def _words(runs: Sequence[_Run]) -> tuple[Word, ...]:
    """The words, where each is a span with its times, in order, and all are one speaker's; else none."""
    timed = [run for run in runs if run.timed and run.text.strip()]
    texts = [run.text.strip() for run in timed]
    whole = "".join(run.text for run in runs)
    as_words = whole.split() == texts or (is_unspaced(whole) and "".join(whole.split()) == "".join(texts))
    if len(timed) < 2 or not as_words or len({run.inside.speaker for run in timed}) > 1:
        return ()
    starts = [run.inside.origin_us for run in timed]
    words = []
    for run, text, following in zip(timed, texts, [*starts[1:], None], strict=True):
        start, stops = run.inside.origin_us, (run.inside.end_us, following)
        words.append(Word(text, start, min((stop for stop in stops if stop is not None), default=start)))
    times = [time for word in words for time in (word.start_us, word.end_us)]
    return tuple(words) if times == sorted(times) else ()


def write_ttml(cues: Iterable[Cue], tag: str, title: str = "") -> bytes:
    """IMSC 1.1 Text: one region at the bottom, speakers as agents."""
    from lxml import etree

    cues = list(cues)
    names = list(dict.fromkeys(cue.speaker for cue in cues if cue.speaker))
    root = etree.Element(f"{{{TT}}}tt", nsmap={None: TT, "ttm": _TTM, "ttp": _TTP, "tts": f"{TT}#styling"})
    root.set(LANGUAGE, tag)
    root.set(f"{{{_TTP}}}timeBase", "media")
    root.set(f"{{{_TTP}}}contentProfiles", _PROFILE)
    head = etree.SubElement(root, f"{{{TT}}}head")
    metadata = etree.SubElement(head, f"{{{TT}}}metadata")
    if title:
        etree.SubElement(metadata, f"{{{_TTM}}}title").text = _writable(title)
    for number, name in enumerate(names, 1):
        agent = etree.SubElement(metadata, f"{{{_TTM}}}agent", {ID: f"p{number}", "type": "person"})
        etree.SubElement(agent, f"{{{_TTM}}}name", {"type": "full"}).text = _writable(name)
    layout = etree.SubElement(head, f"{{{TT}}}layout")
    styling = f"{{{TT}}}region"
    region = {ID: "bottom", f"{{{TT}#styling}}origin": "10% 80%", f"{{{TT}#styling}}extent": "80% 15%"}
    region |= {f"{{{TT}#styling}}displayAlign": "after", f"{{{TT}#styling}}textAlign": "center"}
    etree.SubElement(layout, styling, region)
    division = etree.SubElement(etree.SubElement(root, f"{{{TT}}}body", {"region": "bottom"}), f"{{{TT}}}div")
    for cue in cues:
        times = {"begin": _stamp(cue.start_us), "end": _stamp(cue.end_us)}
        agent_of = {f"{{{_TTM}}}agent": f"p{names.index(cue.speaker) + 1}"} if cue.speaker else {}
        line, *rest = cue.text.split("\n")
        paragraph = etree.SubElement(division, f"{{{TT}}}p", {**times, **agent_of})
        paragraph.text = _writable(line)
        for line in rest:
            etree.SubElement(paragraph, f"{{{TT}}}br").tail = _writable(line)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=False))


def _writable(text: str) -> str:
    """Without the control characters that XML cannot hold."""
    return "".join(sign for sign in text if sign >= " " or sign == "\t")


def _stamp(time_us: int) -> str:
    seconds, millis = divmod((time_us + 500) // 1000, 1000)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}.{millis:03d}"
