"""The language the window speaks: our messages, those of Qt's own dialogs, figures in fields, the way it is read."""

from __future__ import annotations

from PyQt6.QtCore import QLibraryInfo, QLocale, QTranslator
from PyQt6.QtWidgets import QApplication

from zweistimme import messages
from zweistimme.messages.lookup import ENGLISH

_translators: list[QTranslator] = []


def speak(app: QApplication, tag: str = "") -> None:
    """Speak a language from now on; none is what the system asks for. What is shown already is made anew by whoever
    shows it."""
    messages.use(tag)
    suit(app, messages.language())


def suit(app: QApplication, language: str) -> None:
    """Have Qt's own words, figures and direction go with a language."""
    locale = QLocale(language)
    QLocale.setDefault(locale)
    while _translators:
        app.removeTranslator(_translators.pop())
    if language != ENGLISH:
        translator = QTranslator(app)
        place = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
        if translator.load(locale, "qtbase", "_", place):
            app.installTranslator(translator)
            _translators.append(translator)
    app.setLayoutDirection(locale.textDirection())
