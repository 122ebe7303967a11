"""Killed at any moment, hundreds of times: dubbing with files of one's own, importing, editing, handing over, packing.

    python tools/kill_storm.py COUNT SEED FOLDER

Each round forks this process, which has everything imported already, lets the child work for a moment and kills it with
SIGKILL. After each it is looked at whether something committed was lost; at the end everything is run once more,
undisturbed, and the hand-over must be the same, sample for sample, as one that was never disturbed. What was found is
printed as JSON.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import highspy  # noqa: F401 - forked processes need not import it
import numpy as np
import soundfile

from zweistimme.cli.main import main as command
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.line_edits import set_line_text
from zweistimme.store.document import Document

TAG = "de-DE"
SRT = (
    "1\n00:00:00,500 --> 00:00:01,900\n{}\n\n2\n00:00:02,200 --> 00:00:03,400\n{}\n\n"
    "3\n00:00:03,800 --> 00:00:05,200\n{}\n"
)
LONGEST_S = {"dub": 1.5}
"""Before a child is killed, at most; a third of a second where nothing is said."""
Work = Callable[[int], None]


class Storm:
    """The files, and what one may do with them. *said* is the pipe by which a child tells what it has committed."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.out, self.project = folder, folder / "out", folder / "out" / "project"
        clips = folder / "clips"
        clips.mkdir(parents=True)
        random_ = np.random.default_rng(1)
        soundfile.write(folder / "a.wav", (0.1 * random_.standard_normal(6 * 48_000)).astype(np.float32), 48_000)
        for number, seconds in enumerate((1.2, 1.0, 1.3), 1):
            sound = 0.2 * np.sin(np.arange(round(seconds * 48_000)) * 0.02 * number) * random_.uniform(0.5, 1)
            soundfile.write(clips / f"{number:03}.wav", sound.astype(np.float32), 48_000)
        (folder / "en.srt").write_text(SRT.format("The tide is high.", "Wait.", "Come with me."))
        (folder / "de.srt").write_text(SRT.format("Die Flut ist hoch.", "Warte.", "Komm mit."))

    def dub(self, _said: int) -> None:
        run("dub", self.folder / "a.wav", "--from", "en-GB", "--to", TAG, "--out", self.out, "--captions",
            self.folder / "en.srt", "--translation", f"{TAG}={self.folder / 'de.srt'}",
            "--takes", f"{TAG}={self.folder / 'clips'}")  # fmt: skip

    def import_takes(self, _said: int) -> None:
        run("voice", self.project, "--takes", f"{TAG}={self.folder / 'clips'}")

    def edit(self, said: int) -> None:
        with Document.open(self.project) as document:
            ids = [segment.id for segment in document.project.segments]
            for number in range(10_000):
                text = f"Satz {number} {time.monotonic_ns()}."
                key = ids[number % len(ids)]
                document.apply("Write", lambda p, key=key, text=text: set_line_text(p, TAG, key, text))
                os.write(said, f"{key}|{text}\n".encode())

    def hand_over(self, _said: int) -> None:
        run("handover", self.project, "--out", self.out)

    def pack(self, _said: int) -> None:
        run("pack", self.project, self.folder / "p.zweistimme", "--media")

    def digest(self) -> dict[str, bytes]:
        """Every file of a hand-over but the manifest, which names when it was made."""
        return {path.name: path.read_bytes() for path in self.out.iterdir() if path.suffix in (".wav", ".srt", ".vtt")}


def run(*arguments: str | Path) -> None:
    """A command, in this process; SystemExit with its code unless it was done."""
    sys.argv = ["zweistimme", *map(str, arguments)]
    try:
        command()
    except SystemExit as ended:
        if ended.code:
            raise


def forked(work: Work, seconds: float | None) -> tuple[int, str]:
    """Let a child work, and kill it after *seconds* if it still does; how it ended, and what it said."""
    there, here = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(there)
        null = os.open(os.devnull, os.O_WRONLY)
        os.dup2(null, 1)
        os.dup2(null, 2)
        code = 1
        try:
            work(here)
            code = 0
        except SystemExit as ended:
            code = int(ended.code or 0)
        finally:
            os._exit(code)
    os.close(here)
    if seconds is not None:
        time.sleep(seconds)
        os.kill(child, signal.SIGKILL)
    said = b""
    while part := os.read(there, 1 << 16):
        said += part
    os.close(there)
    _, status = os.waitpid(child, 0)
    return os.waitstatus_to_exitcode(status), said.decode()


def looked_after(storm: Storm, said: str) -> list[str]:
    """What was lost, after a child was killed."""
    try:
        with Document.open(storm.project) as document:
            lines, takes = document.project.versions[TAG].lines, document.project.versions[TAG].takes
            told = [line.split("|") for line in said.splitlines() if line.count("|") == 1 and line.endswith(".")]
            wrong = [f"{key} lost “{text}”" for key, text in dict(told).items() if not newer(lines[key].text, text)]
            for take in takes.values():
                if len(document.clips.get(take.clip)) != take.length_samples:
                    wrong.append(f"the clip of {take.id} is another")
    except ZweistimmeError as error:
        return [str(error)]
    left = [str(path) for name in ("clips", "answers", "cache") for path in (storm.project / name).rglob(".writing-*")]
    return wrong + left


def newer(kept: str, told: str) -> bool:
    """Whether what is kept is what was told, or something written after it and not told any more."""
    return kept == told or int(kept.rstrip(".").split()[-1]) >= int(told.rstrip(".").split()[-1])


def main() -> None:
    """Kill, look, and at the end compare."""
    count, seed, folder = int(sys.argv[1]), int(sys.argv[2]), Path(sys.argv[3])
    calm, storm, dice = Storm(folder / "calm"), Storm(folder / "storm"), random.Random(seed)
    for one in (calm, storm):
        assert forked(one.dub, None)[0] == 0
    wanted, found, killed = calm.digest(), [], 0
    assert wanted.keys() == storm.digest().keys()
    kinds = ("dub", "edit", "hand_over", "pack", "import_takes")
    for number in range(count):
        kind = kinds[number % len(kinds)]
        if kind == "dub" and number % 10 == 0:
            shutil.rmtree(storm.out)
            storm.out.mkdir()
        code, said = forked(getattr(storm, kind), dice.uniform(0.0, LONGEST_S.get(kind, 0.35)))
        killed += code == -signal.SIGKILL
        if kind == "dub":  # it must be able to go on from wherever it was
            code, _ = forked(storm.dub, None)
            found += [f"{number} {kind}: went on with {code}"] if code else []
        found += [f"{number} {kind}: {wrong}" for wrong in looked_after(storm, said)]
    shutil.rmtree(storm.out)
    assert forked(storm.dub, None)[0] == 0
    same = storm.digest() == wanted
    packed = forked(storm.pack, None)[0] == 0
    left = [str(path) for path in storm.folder.rglob(".writing-*")]
    print(json.dumps({"killed": killed, "rounds": count, "lost": found, "same": same, "packed": packed, "left": left}))


if __name__ == "__main__":
    main()
