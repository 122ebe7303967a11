"""Playback through a real sound server that has no hardware: what is played is recorded and listened to."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

PLAYER = """
import sys, time
from pathlib import Path
from PyQt6.QtTest import QTest
from zweistimme.window.app import make_app
from zweistimme.window.main_window import MainWindow
app = make_app()
window = MainWindow()
window.show()
window.open_project(Path(sys.argv[1]))
view = window.view
QTest.qWait(400)
view.playback.player.seek(13_500_000)
view.playback.player.play()
end = time.monotonic() + 10
while view.playback.player.position_us <= 13_600_000 and time.monotonic() < end:  # until the sound server has begun
    QTest.qWait(20)
began, first_us = time.monotonic(), view.playback.player.position_us
QTest.qWait(2000)
print((view.playback.player.position_us - first_us) / 1e6 / (time.monotonic() - began))
view.playback.player.pause()
window.close()
"""


@pytest.fixture
def server(tmp_path: Path) -> Iterator[dict[str, str]]:
    """A sound server with one sink that goes nowhere; the environment to reach it."""
    assert shutil.which("pulseaudio"), "pulseaudio is missing; make setup installs it"
    home = tmp_path / "pulse"
    home.mkdir()
    socket = home / "pulse.sock"
    environment = {**os.environ, "XDG_RUNTIME_DIR": str(home), "HOME": str(home), "QT_QPA_PLATFORM": "offscreen"}
    process = subprocess.Popen(
        [
            "pulseaudio", "-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", "--realtime=no",
            "--high-priority=no", "-L", f"module-native-protocol-unix auth-anonymous=1 socket={socket}", "-L",
            "module-null-sink sink_name=nullsink format=float32le rate=48000 channels=2 norewinds=1",
        ],
        env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        end = time.monotonic() + 10
        while not socket.exists():
            assert time.monotonic() < end, "the sound server did not start"
            time.sleep(0.05)
        yield {**environment, "PULSE_SERVER": f"unix:{socket}"}
    finally:
        process.terminate()
        process.wait()


def test_what_is_played_can_be_heard(server: dict[str, str], demo_folder: Path, tmp_path: Path) -> None:
    recorded = tmp_path / "heard.raw"
    with recorded.open("wb") as file:
        recorder = subprocess.Popen(
            ["parec", "-d", "nullsink.monitor", "--format=float32le", "--rate=48000", "--channels=2", "--raw"],
            env=server, stdout=file, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        answer = subprocess.run(
            [sys.executable, "-c", PLAYER, str(demo_folder)],
            env=server,
            capture_output=True,
            text=True,
            timeout=60,
            check=True,
        )
        time.sleep(0.3)
        recorder.terminate()
        recorder.wait()
    assert 0.6 < float(answer.stdout.strip()) < 1.2, "the playhead goes with the clock, however busy the machine is"
    heard = np.fromfile(recorded, np.float32).reshape(-1, 2)
    loud = np.abs(heard).max(axis=1) > 0.01
    assert loud.sum() > 48_000 // 2


LISTENER = """
import time
import numpy as np
from PyQt6.QtTest import QTest
from zweistimme.window.app import make_app
from zweistimme.window.microphones import microphones
app = make_app()
microphone = microphones()[0]
microphone.start()
parts = []
end = time.monotonic() + 2.0
while time.monotonic() < end:
    QTest.qWait(30)
    parts.append(microphone.read())
microphone.stop()
sound = np.concatenate(parts)
spectrum = np.abs(np.fft.rfft(sound[-48_000:]))
print(microphone.name, "|", len(sound), float(np.abs(sound).max()), int(spectrum.argmax()))
"""


def with_microphone(server: dict[str, str]) -> None:
    """Give the sound server a source that hears its own sink."""
    for arguments in (
        ("load-module", "module-remap-source", "master=nullsink.monitor", "source_name=loop"),
        ("set-default-source", "loop"),
    ):
        subprocess.run(["pactl", *arguments], env=server, check=True, stdout=subprocess.DEVNULL)


def test_a_microphone_of_the_machine_is_heard(server: dict[str, str], tmp_path: Path) -> None:
    """A tone played into the sink is what the microphone, the sink's own echo, gives."""
    tone = (0.4 * np.sin(2 * np.pi * 440 * np.arange(6 * 48_000) / 48_000)).astype(np.float32)
    (tmp_path / "tone.raw").write_bytes(np.repeat(tone, 2).tobytes())
    with_microphone(server)
    player = subprocess.Popen(
        ["pacat", "--format=float32le", "--rate=48000", "--channels=2", "--raw", str(tmp_path / "tone.raw")], env=server
    )
    try:
        answer = subprocess.run(
            [sys.executable, "-c", LISTENER], env=server, capture_output=True, text=True, timeout=60, check=True
        )
    finally:
        player.terminate()
        player.wait()
    name, figures = answer.stdout.strip().split(" | ")
    count, peak, hertz = figures.split()
    assert name
    assert int(count) > 48_000
    assert 0.2 < float(peak) < 0.6
    assert abs(int(hertz) - 440) <= 1


DESERTED = """
import subprocess, time
from PyQt6.QtTest import QTest
from zweistimme.project.errors import MediaError
from zweistimme.window.app import make_app
from zweistimme.window.microphones import microphones
app = make_app()
microphone = microphones()[0]
microphone.start()
count, end = 0, time.monotonic() + 15
while count < 24_000 and time.monotonic() < end:
    QTest.qWait(40)
    count += len(microphone.read())
subprocess.run(["pactl", "exit"], check=True)
while time.monotonic() < end:
    QTest.qWait(40)
    try:
        microphone.read()
    except MediaError as error:
        print(count, error)
        break
microphone.stop()
"""


def test_a_microphone_that_is_gone_is_said(server: dict[str, str]) -> None:
    with_microphone(server)
    answer = subprocess.run(
        [sys.executable, "-c", DESERTED], env=server, capture_output=True, text=True, timeout=60, check=True
    )
    assert int(answer.stdout.split()[0]) >= 24_000
    assert "gives no sound any more. Plug it in again" in answer.stdout
