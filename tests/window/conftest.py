"""What every test of the window needs."""

from __future__ import annotations

import gc
from collections.abc import Iterator

import pytest


@pytest.fixture(autouse=True)
def _collect_here() -> Iterator[None]:
    """Closed windows are collected on this thread, before the collector runs anywhere again."""
    yield
    gc.collect()
    gc.enable()
