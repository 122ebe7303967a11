"""Fixtures that many tests share."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from zweistimme.store.own_projects import Whose, set_whose
from zweistimme.store.read_only import id_of

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["LANGUAGE"] = "en"  # whatever whoever runs the tests speaks
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the package does, before anybody loads NumPy

import helpers
from zweistimme.engines.registry import close_engines
from zweistimme.stages.check import spelling
from zweistimme.store.document import Document

# how long an example takes depends on what else the machine does, so it fails nothing
settings.register_profile("desk", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("desk")


@pytest.fixture(autouse=True)
def _own_places(
    tmp_path: Path, tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch
) -> Iterator[None]:
    """No test reads or writes the desk's own files of whoever runs it; what can be made anew all tests share."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.getbasetemp().parent / "made-once"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("PYTHON_KEYRING_BACKEND", "keyring.backends.fail.Keyring")
    monkeypatch.setenv("XDG_DOCUMENTS_DIR", str(tmp_path / "documents"))
    monkeypatch.setenv("HOME", str(tmp_path))
    yield
    close_engines()


@pytest.fixture(autouse=True)
def _no_dictionaries(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """What the machine has for spelling is none of a test's business, unless the test brings its own."""
    spelling._dictionary.cache_clear()
    spelling._is_known.cache_clear()
    monkeypatch.setattr(spelling, "dictionaries", dict)
    yield
    spelling._dictionary.cache_clear()


@pytest.fixture(scope="session")
def _demo_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo carried through all steps, once for all workers."""
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if os.environ.get("PYTEST_XDIST_WORKER") else base
    folder = shared / "demo-master"
    with (shared / "demo-master.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / "done").exists():
            helpers.make_demo_project(folder)
            (folder / "done").touch()
    return folder


@pytest.fixture
def demo_folder(_demo_master: Path, tmp_path: Path) -> Path:
    """A project folder of one's own with the demo, voiced and fitted in both versions."""
    folder = tmp_path / "demo"
    shutil.copytree(_demo_master, folder)
    set_whose(id_of(folder), folder, Whose.OWN)
    return folder


@pytest.fixture
def demo(demo_folder: Path) -> Iterator[Document]:
    """The same, open."""
    with Document.open(demo_folder) as document:
        yield document
