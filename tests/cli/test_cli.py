"""The command line as a person meets it: a process, its output, its exit code."""

from __future__ import annotations

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from helpers import speech, write_sound
from zweistimme.cli.main import main
from zweistimme.demo.script import BED, MEDIA, SCRIPT, data_file
from zweistimme.engines.registry import engine
from zweistimme.project.errors import NeverFinished
from zweistimme.project.times import RATE
from zweistimme.store.document import Document

COMMAND = [sys.executable, "-c", "from zweistimme.cli.main import main; main()"]


def run(*arguments: str | Path, display: bool = False, apart: bool = False) -> subprocess.CompletedProcess[str]:
    """Run a command to its end: in this process, since a new one takes a second to begin, or, wherever that matters,
    *apart* in one of its own."""
    opens_window = not arguments or arguments[0] == "window" or Path(arguments[0]).exists()
    if not (display or apart or opens_window):
        return _here([*map(str, arguments)])
    environment = {
        key: value for key, value in os.environ.items() if display or key not in ("DISPLAY", "QT_QPA_PLATFORM")
    }
    return subprocess.run(
        [*COMMAND, *map(str, arguments)], capture_output=True, text=True, env=environment, timeout=240
    )


def _here(arguments: list[str]) -> subprocess.CompletedProcess[str]:
    before, signals = sys.argv, {number: signal.getsignal(number) for number in (signal.SIGTERM, signal.SIGHUP)}
    said, warned, code = io.StringIO(), io.StringIO(), 0
    try:
        sys.argv = ["zweistimme", *arguments]
        with contextlib.redirect_stdout(said), contextlib.redirect_stderr(warned):
            main()
    except SystemExit as ended:
        code = int(ended.code or 0)
    finally:
        sys.argv = before
        for number, handler in signals.items():
            signal.signal(number, handler)
    return subprocess.CompletedProcess(arguments, code, said.getvalue(), warned.getvalue())


def refused(*arguments: str | Path, code: int | None = None) -> str:
    """Run a command that cannot succeed, or was given wrongly; what it says in one plain sentence."""
    answer = run(*arguments)
    assert answer.returncode in ((1, 2) if code is None else (code,)), answer
    assert "Traceback" not in answer.stderr + answer.stdout
    return answer.stderr


def test_help_and_version() -> None:
    text = run("--help").stdout
    for name in (
        "dub",
        "new",
        "transcribe",
        "translate",
        "cast",
        "voice",
        "fit",
        "mix",
        "handover",
        "status",
        "stretch",
    ):
        assert name in text
    assert "--captions" in run("dub", "--help").stdout
    assert run("--version").stdout.startswith("Zweistimme ")


def test_wrong_input_is_answered_in_a_sentence(tmp_path: Path, demo_folder: Path) -> None:
    media = data_file(MEDIA)
    words = tmp_path / "words.txt"
    words.write_text("no media at all\n" * 100)
    out = tmp_path / "out"
    dub = ("--to", "de-DE", "--out", out)
    assert "There is no file" in refused("dub", tmp_path / "none.mp4", "--from", "en-GB", *dub)
    assert "not a video or sound file" in refused("dub", words, "--from", "en-GB", *dub)
    assert "not a language tag" in refused("dub", media, "--from", "english-please", *dub)
    assert "not among the --to languages" in refused("dub", media, "--from", "en-GB", *dub, "--takes", "es-ES=x")
    assert "wants TAG=PATH" in refused("dub", media, "--from", "en-GB", *dub, "--takes", "clips")
    assert "either --captions or --script" in refused(
        "dub", media, "--from", "en-GB", *dub, "--captions", words, "--script", words
    )
    assert not out.exists()
    refused("dub", media, code=2)
    refused("nonsense", code=2)
    assert "no Zweistimme project" in refused("status", tmp_path)
    assert "not empty" in refused("new", demo_folder, media, "--from", "en-GB")
    assert "has a transcript" in refused("transcribe", demo_folder)
    assert "no version fr-FR" in refused("fit", demo_folder, "--to", "fr-FR")
    assert "no speaker “Nobody”" in refused("cast", demo_folder, "--voice", "Nobody=alva")
    assert "no voice robot" in refused("cast", demo_folder, "--voice", "Mira=robot")
    assert "between 0.25 and 4" in refused("stretch", media, tmp_path / "a.wav", "--tempo", "40")
    assert "must end in .wav" in refused("stretch", media, tmp_path / "a.mp3", "--tempo", "1.1")
    assert "There is no file" in refused("loudness", tmp_path / "none.wav")
    assert "no display" in refused("window", demo_folder)


def test_two_commands_on_one_project(demo_folder: Path) -> None:
    with Document.open(demo_folder):
        assert "open already by process" in refused("fit", demo_folder)


def test_speakers_without_a_voice_have_a_code_of_their_own(demo_folder: Path) -> None:
    from zweistimme.project import cast_edits

    with Document.open(demo_folder) as document:
        document.apply("Uncast", lambda p: cast_edits.cast_voice(p, "es-ES", "p3", None))
    assert "Juna in es-ES (5 lines)" in refused("voice", demo_folder, code=3)


def test_status_and_fit_as_json(demo_folder: Path) -> None:
    state = json.loads(run("status", demo_folder, "--json").stdout)
    assert state["versions"]["de-DE"]["Takes"] == {"done": 18, "stale": 0, "missing": 0, "clashes": 0}
    assert "Translation" in run("status", demo_folder).stdout
    rows = json.loads(run("fit", demo_folder, "--to", "de-DE", "--json").stdout)["de-DE"]
    assert len(rows) == 18
    assert {
        "line",
        "segment_start_s",
        "segment_end_s",
        "take_s",
        "start_s",
        "length_s",
        "tempo",
        "overflow_s",
        "reason",
    } <= set(rows[0])
    for row in rows:
        cap = 1.6
        assert abs(row["start_s"] - row["segment_start_s"]) <= cap


def test_stretch_and_loudness(tmp_path: Path) -> None:
    source = write_sound(tmp_path / "a.wav", 4.0, channels=2)
    answer = run("stretch", source, tmp_path / "b.wav", "--tempo", "1.25")
    assert answer.returncode == 0, answer.stderr
    assert soundfile.info(tmp_path / "b.wav").frames == round(4 * RATE / 1.25)
    figures = json.loads(run("loudness", tmp_path / "b.wav", "--json").stdout)
    assert -30 < figures["integrated_lufs"] < -5
    assert "LUFS" in run("loudness", source).stdout
    soundfile.write(tmp_path / "silent.wav", np.zeros(RATE), RATE)
    assert json.loads(run("loudness", tmp_path / "silent.wav", "--json").stdout)["integrated_lufs"] is None


def test_the_stages_one_by_one(tmp_path: Path) -> None:
    project = tmp_path / "p"
    steps = [
        (
            "new",
            project,
            data_file(MEDIA),
            "--from",
            "en-GB",
            "--to",
            "es-ES",
            "--bed",
            data_file(BED),
            "--title",
            "Clock",
        ),
        ("transcribe", project, "--script", data_file(SCRIPT)),
        ("translate", project),
        ("cast", project, "--voice", "Mira=edda"),
        ("voice", project),
        ("fit", project),
        ("mix", project, "--out", tmp_path / "mixes", "--loudness", "-16"),
        ("handover", project, "--out", tmp_path / "out"),
    ]
    for step in steps:
        answer = run(*step)
        assert answer.returncode == 0, (step, answer.stderr)
    mixed = json.loads(run("loudness", tmp_path / "mixes" / "clock.es-ES.mix.wav", "--json").stdout)
    assert mixed["integrated_lufs"] == pytest.approx(-16, abs=0.3)
    assert (tmp_path / "out" / "clock.dubbed.mp4").is_file()
    with Document.open(project) as document:
        version = document.project.versions["es-ES"]
        assert [s.name for s in document.project.speakers.values()] == ["Mira", "Tobin", "Juna"]
        assert version.cast["p1"] == "edda"


def somebody_elses(tmp_path: Path) -> dict[str, Path]:
    """A two-minute programme that is not the demo: sound, captions in two languages, and clips."""
    english = [
        "The kettle is on.",
        "Where did you put the ladder?",
        "Behind the shed, where it always is.",
        "Then I will fetch it.",
    ]
    german = [
        "Das Wasser kocht gleich.",
        "Wo hast du die Leiter?",
        "Hinter dem Schuppen, wie immer.",
        "Dann hole ich sie.",
    ]
    sound = 0.003 * np.random.default_rng(5).standard_normal(120 * RATE).astype(np.float32)
    clips = tmp_path / "clips"
    clips.mkdir()
    files = {"media": tmp_path / "kitchen.wav", "clips": clips, "en": tmp_path / "en.srt", "de": tmp_path / "de.srt"}
    blocks: dict[str, list[str]] = {"en": [], "de": []}
    for k in range(24):
        start = 2 + 4.8 * k
        spoken = engine().speak(speech(english[k % 4], "en-GB", "dario" if k % 2 else "alva")).samples
        place = round(start * RATE)
        sound[place : place + len(spoken)] += 0.4 * spoken
        soundfile.write(
            clips / f"{k + 1:03d}.wav", engine().speak(speech(german[k % 4], "de-DE", "edda")).samples, RATE
        )
        end = start + len(spoken) / RATE
        stamps = " --> ".join(f"00:{int(t // 60):02d}:{t % 60:06.3f}".replace(".", ",") for t in (start, end))
        name = "BEN" if k % 2 else "ANNE"
        blocks["en"].append(f"{k + 1}\n{stamps}\n{name}: {english[k % 4]}\n")
        blocks["de"].append(f"{k + 1}\n{stamps}\n{german[k % 4]}\n")
    soundfile.write(files["media"], np.clip(sound, -1, 1), RATE)
    for language in ("en", "de"):
        files[language].write_text("\n".join(blocks[language]), encoding="utf-8")
    return files


def test_somebody_elses_programme_comes_out_right(tmp_path: Path) -> None:
    files = somebody_elses(tmp_path)
    out = tmp_path / "out"
    answer = run(
        "dub", files["media"], "--from", "en-GB", "--to", "de-DE", "--out", out, "--captions", files["en"],
        "--translation", f"de-DE={files['de']}", "--takes", f"de-DE={files['clips']}",
    )  # fmt: skip
    assert answer.returncode == 0, answer.stderr
    manifest = json.loads((out / "manifest.json").read_text())
    (mix,) = [entry for entry in manifest["files"] if entry["kind"] == "mix"]
    assert mix["measured"]["loudness_lufs"] == pytest.approx(-23, abs=0.5)
    assert mix["measured"]["true_peak_dbtp"] <= -1
    assert not [entry for entry in manifest["files"] if entry["kind"] == "video"]
    with Document.open(out / "project") as document:
        project = document.project
        assert [s.name for s in project.speakers.values()] == ["ANNE", "BEN"]
        version = project.versions["de-DE"]
        assert len(version.placements) == len(version.takes) == 24
        assert not any(p.overflow_us for p in version.placements.values())
        for segment in project.segments:
            assert abs(version.placements[segment.id].start_us - segment.start_us) <= 1_600_000
    again = run("dub", files["media"], "--from", "en-GB", "--to", "de-DE", "--out", out)
    assert again.returncode == 0, again.stderr
    assert "another programme" in refused("dub", data_file(MEDIA), "--from", "en-GB", "--to", "de-DE", "--out", out)


def test_killed_at_any_moment_it_goes_on(tmp_path: Path) -> None:
    """Killed twenty times while it works: every take that was finished stays, and the run completes."""
    out = tmp_path / "out"
    command = [
        *COMMAND, "dub", str(data_file(MEDIA)), "--from", "en-GB", "--to", "de-DE", "--out", str(out),
        "--script", str(data_file(SCRIPT)), "--bed", str(data_file(BED)),
    ]  # fmt: skip
    random = np.random.default_rng(11)
    takes: set[str] = set()
    finished = False
    for attempt in range(20):
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
        try:
            process.wait(timeout=float(random.uniform(0.4, 3.2)))
            finished = process.returncode == 0
            assert finished, (attempt, process.stderr.read() if process.stderr else "")
            break
        except subprocess.TimeoutExpired:
            process.send_signal(signal.SIGKILL)
            process.wait()
        finally:
            if process.stderr:
                process.stderr.close()
        if (out / "project" / "project.sqlite").is_file():
            try:
                takes = check_nothing_lost(out / "project", takes)
            except NeverFinished:  # killed while the project itself was made: it is made anew
                assert not takes
    if not finished:
        answer = run(*command[3:])
        assert answer.returncode == 0, answer.stderr
    assert json.loads((out / "manifest.json").read_text())["format"] == "zweistimme-manifest"
    assert not list(out.rglob(".writing-*.wav"))


def check_nothing_lost(folder: Path, before: set[str]) -> set[str]:
    """Every take known before is still there, with its clip; the project opens."""
    time.sleep(0.05)
    with Document.open(folder) as document:
        version = document.project.versions.get("de-DE")
        takes = set(version.takes) if version else set()
        assert before <= takes
        for take in version.takes.values() if version else ():
            assert len(document.clips.get(take.clip)) == take.length_samples
    return takes
