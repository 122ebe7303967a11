"""Files of every kind that is read, spoilt at random: each is read, or refused in a sentence, and nothing else happens.

python tools/mutated_files.py COUNT SEED
"""

from __future__ import annotations

import io
import json
import random
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile

from zweistimme.demo.script import MEDIA, SCRIPT, data_file
from zweistimme.engines.program import description_from
from zweistimme.engines.protocol import Recognition
from zweistimme.engines.wire import parsed
from zweistimme.formats.captions import read_captions
from zweistimme.formats.prose import read_prose
from zweistimme.formats.ssml import plain_text
from zweistimme.formats.tmx import TmxCount, read_tmx, write_tmx
from zweistimme.formats.transcripts import read_transcript, written_transcript
from zweistimme.media.decode import decoded_blocks
from zweistimme.media.decode_notes import DecodeNotes
from zweistimme.media.probe import probe
from zweistimme.project.edits import add_version
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.line_edits import set_line_text
from zweistimme.project.model import Project, Segment, Speaker
from zweistimme.project.term_edits import merged, put_terms
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.project.units import Unit
from zweistimme.project.words import spread
from zweistimme.stages.translate.exchange import proposed, read_exchange, take_back, written_exchange
from zweistimme.stages.translate.term_files import read_terms, written_terms
from zweistimme.store.document import Document
from zweistimme.store.packing import pack, unpack
from zweistimme.store.read_only import project_in

SLOW_S = 10.0
Reader = Callable[[Path], object]


def made_project() -> Project:
    """Eight segments with words, two speakers, a version."""
    texts = (
        "The tide is high.",
        "Wait, it turns!",
        "No.",
        "Größe und Übermut",
        "「時計」です。",
        "A, b; c: d",
        "And on.",
        "So.",
    )
    segments = tuple(
        Segment(f"s{k:04}", f"p{k % 2 + 1}", k * 2_000_000, k * 2_000_000 + 1_500_000, text,
                spread(text.split(), k * 2_000_000, k * 2_000_000 + 1_500_000))
        for k, text in enumerate(texts)
    )  # fmt: skip
    people = {"p1": Speaker("p1", "Mira"), "p2": Speaker("p2", "Tobin")}
    project = add_version(replace(Project("Tide", "en-GB"), speakers=people, segments=segments), "de-DE")
    for segment in segments:
        project = set_line_text(project, "de-DE", segment.id, f"Zeile {segment.id}")
    return project


_TERMS = (
    Term("tide clock", {"de-DE": Rendering("Gezeitenuhr", ("Tidenuhr",), ("Ebbeuhr",), "x")}, "in the tower"),
    Term("Varnholm", part=PartOfSpeech.NAME, kept=True),
)


def _terms_of(path: Path) -> object:
    terms, _ = read_terms(path, "en-GB")
    return merged(Project("Tide", "en-GB"), terms)


class Kinds:
    """A good file of every kind, and who reads it."""

    def __init__(self, place: Path) -> None:
        self.place = place
        self.files: dict[str, tuple[bytes, Reader]] = {}
        project = made_project()
        for kind in (".srt", ".vtt", ".csv", ".ctm", ".rttm", ".ttml", ".json"):
            self.files[kind] = written_transcript(project, kind)[0], read_transcript
        self.files[".captions.vtt"] = self.files[".vtt"][0], lambda path: read_captions(path, whole=True)
        script = data_file(SCRIPT).read_bytes()
        for ending in (".txt", ".md", ".html"):
            self.files[ending] = script, read_prose
        self.files[".docx"] = _word(script.decode()), read_prose
        self.files[".ssml"] = b'<speak xml:lang="de"><p><s>Die Flut.</s><break time="300ms"/></p></speak>', _ssml
        self.files[".toml"] = Path("docs/examples/little-engine/little.toml").read_bytes(), description_from
        heard = {
            "language": "en",
            "probability": 1.0,
            "segments": [{"start_us": 0, "end_us": 9, "speaker": "A", "words": []}],
        }
        self.files[".answer.json"] = json.dumps(heard).encode(), _answer
        for ending in (".xlf", ".review.csv", ".review.docx", ".review.xlsx"):
            self.files[ending] = written_exchange(project, "de-DE", Path(f"x{ending}").suffix), self._taken_back
        project = put_terms(project, {f"k{k}": term for k, term in enumerate(_TERMS)})
        for ending in (".tbx", ".terms.csv"):
            self.files[ending] = written_terms(project, Path(f"x{ending}").suffix), _terms_of
        units = [Unit("en-GB", "de-DE", one.text, f"Zeile {one.id}", "c", "Tide") for one in project.segments]
        memory = io.BytesIO()
        write_tmx(memory, units, "0.1.0")
        self.files[".tmx"] = memory.getvalue(), lambda path: list(read_tmx(path, TmxCount()))
        self.project = project
        for ending in (".wav", ".flac"):
            self.files[ending] = _sound(ending), _decoded
        self.files[".mp4"] = data_file(MEDIA).read_bytes()[:400_000], _decoded
        Document.create(place / "p", project).close()
        self.files[".sqlite"] = (place / "p" / "project.sqlite").read_bytes(), self._opened
        pack(place / "p", place / "p.zweistimme", media=False)
        self.files[".zweistimme"] = (place / "p.zweistimme").read_bytes(), self._unpacked

    def _taken_back(self, path: Path) -> object:
        changes, _ = proposed(self.project, "de-DE", read_exchange(path))
        return take_back(self.project, "de-DE", changes, path.name)

    def _opened(self, path: Path) -> object:
        folder = self.place / "opened"
        folder.mkdir(exist_ok=True)
        path.replace(folder / "project.sqlite")
        project_in(folder)
        with Document.open(folder) as document:
            return document.project

    def _unpacked(self, path: Path) -> object:
        folder = self.place / f"unpacked-{time.monotonic_ns()}"
        unpack(path, folder)
        return folder


def _ssml(path: Path) -> str:
    return plain_text(path.read_text(encoding="utf-8", errors="replace"))


def _answer(path: Path) -> object:
    try:
        return parsed(Recognition, path.read_bytes())
    except ValueError as error:  # which its callers make a sentence of
        raise ZweistimmeError(str(error)) from error


def _decoded(path: Path) -> int:
    probe(path)
    return sum(block.shape[1] for block in decoded_blocks(path, DecodeNotes()))


def _sound(ending: str) -> bytes:
    sound = (0.1 * np.random.default_rng(1).standard_normal(24_000)).astype(np.float32)
    buffer = io.BytesIO()
    soundfile.write(buffer, sound, 48_000, format=ending[1:].upper())
    return buffer.getvalue()


def _word(text: str) -> bytes:
    from docx import Document as Word

    document, buffer = Word(), io.BytesIO()
    for line in text.splitlines()[:20]:
        document.add_paragraph(line)
    document.save(buffer)
    return buffer.getvalue()


def spoilt(data: bytes, dice: random.Random) -> bytes:
    """The same with bytes changed, cut out, put twice, exchanged with others, or its end missing."""
    made = bytearray(data)
    for _ in range(dice.randint(1, 6)):
        at, size = dice.randrange(len(made) + 1), dice.randint(1, 40)
        what = dice.randrange(6)
        if what == 0 and made:
            made[min(at, len(made) - 1)] = dice.randrange(256)
        elif what == 1:
            del made[at : at + size]
        elif what == 2:
            made[at:at] = made[at : at + size]
        elif what == 3:
            made[at:at] = bytes(
                dice.choice((b"\0", b"\xff", b"9" * 30, b"-", b"\n\n", b"<", b"{[", b"\xd8\x00", b"1e999"))
            )
        elif what == 4 and dice.random() < 0.3:
            del made[at:]
        else:
            other = dice.randrange(len(made) + 1)
            made[at : at + size], made[other : other + size] = made[other : other + size], made[at : at + size]
    return bytes(made)


def main() -> None:
    """Spoil, read, count; what was neither read nor refused in a sentence is printed."""
    count, dice = int(sys.argv[1]), random.Random(int(sys.argv[2]))
    read, refused, wrong, slowest = Counter[str](), Counter[str](), [], (0.0, "")
    with tempfile.TemporaryDirectory() as folder:
        kinds = Kinds(Path(folder))
        names = list(kinds.files)
        for number in range(count):
            kind = names[number % len(names)]
            data, reader = kinds.files[kind]
            path = Path(folder) / f"bad{kind}"
            path.write_bytes(spoilt(data, dice))
            begun = time.monotonic()
            try:
                reader(path)
                read[kind] += 1
            except ZweistimmeError as error:
                refused[kind] += 1
                if not str(error).strip():
                    wrong.append(f"{kind}: refused without a word")
            except Exception as error:
                wrong.append(f"{kind}: {type(error).__name__}: {error}"[:200])
            slowest = max(slowest, (round(time.monotonic() - begun, 2), kind))
        left = [path.name for path in Path(folder).glob(".writing-*")]
    print(json.dumps({"files": count, "read": sum(read.values()), "refused": sum(refused.values()), "wrong": wrong[:40],
                      "count_wrong": len(wrong), "slowest": slowest, "left": left}))  # fmt: skip


if __name__ == "__main__":
    main()
