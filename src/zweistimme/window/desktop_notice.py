"""Telling somebody who works in another window that a long job has ended, the way the desktop does it.

The Desktop Notifications Specification 1.2, ``org.freedesktop.Notifications.Notify`` on the session bus. Where there is
no such service, the window asks for attention in the list of windows.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QMetaType
from PyQt6.QtWidgets import QApplication, QWidget

from zweistimme.messages import tr

if TYPE_CHECKING:
    from zweistimme.window.job_board import Run

LONG_S = 60.0
"""Who starts what takes longer than that does not sit and wait."""
_SERVICE: Final = "org.freedesktop.Notifications"
_PATH: Final = "/org/freedesktop/Notifications"
_AS_USUAL: Final = -1
"""How long it is shown: as the desktop does."""


def tell_of_run(window: QWidget, run: Run) -> None:
    """Who works in another window meanwhile is told that a long job has ended."""
    if not run.writes or (run.entry.took_s or 0.0) <= LONG_S or window.isActiveWindow():
        return
    if run.done:
        title = tr("{job} is done", job=run.words)
    elif run.failed:
        title = tr("{job} failed", job=run.words)
    else:
        title = tr("{job} was stopped", job=run.words)
    tell_desktop(window, title, run.job.message or window.windowTitle())


def tell_desktop(window: QWidget, title: str, text: str) -> None:
    """Say something on the desktop, without waiting for it."""
    QApplication.alert(window)
    from PyQt6.QtDBus import QDBusArgument, QDBusConnection, QDBusMessage  # 20 ms that nothing else needs

    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return
    replaces = QDBusArgument(0, QMetaType.Type.UInt.value)  # type: ignore[call-overload]  # the stubs have no number there
    buttons = QDBusArgument([], QMetaType.Type.QStringList.value)  # type: ignore[call-overload]
    message = QDBusMessage.createMethodCall(_SERVICE, _PATH, _SERVICE, "Notify")
    message.setArguments(["Zweistimme", replaces, "", title, text, buttons, {}, _AS_USUAL])
    bus.asyncCall(message)
