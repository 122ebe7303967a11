"""Work done ahead of those who wait for it, on a thread of its own."""

from __future__ import annotations

import queue
import threading
from collections.abc import Generator, Iterable
from typing import TypeVar

Item = TypeVar("Item")
_WAITING = 8


def ahead(items: Iterable[Item], most: int = _WAITING) -> Generator[Item, None, None]:
    """The same items, made on another thread while those before them are used; at most *most* wait. What is raised
    there is raised where it is waited for. Closing it stops the thread."""
    ready: queue.Queue[tuple[Item] | BaseException | None] = queue.Queue(most)
    stopped = threading.Event()

    def hand_over(one: tuple[Item] | BaseException | None) -> None:
        while not stopped.is_set():
            try:
                return ready.put(one, timeout=0.2)
            except queue.Full:
                continue

    def make() -> None:
        try:
            for item in items:
                hand_over((item,))
                if stopped.is_set():
                    return
            hand_over(None)
        except BaseException as error:  # raised again where the items are wanted
            hand_over(error)

    thread = threading.Thread(target=make, name="ahead", daemon=True)
    thread.start()
    try:
        while (one := ready.get()) is not None:
            if isinstance(one, BaseException):
                raise one
            yield one[0]
    finally:
        stopped.set()
        thread.join()
