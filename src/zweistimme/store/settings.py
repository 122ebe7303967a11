"""What a person has set for the whole desk. Every setting is declared here once: its default, what it may be, and what
it is called. They are kept as JSON with the person's configuration, and only where they are not as they come.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Final
from urllib.parse import urlsplit

import msgspec
import platformdirs

from zweistimme.media.atomic import written_bytes
from zweistimme.messages import msg
from zweistimme.messages.lookup import NAMES
from zweistimme.project.errors import EditError, StoreError

Value = str | bool


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting. *default* tells its type; *choices* are the values there are, with what each is called, where they
    are few; *group* is the part of the desk it is for."""

    id: str
    group: str
    title: str
    about: str
    default: Value
    choices: Mapping[str, str] | None = None


AS_SYSTEM: Final = ""
_AMOUNT: Final = re.compile(r"(?=.*[1-9])\d{1,8}(\.\d{1,4})?")
LANGUAGE: Final = Setting(
    "language",
    msg("The desk"),
    msg("Language"),
    msg("Of window, commands and all that is said."),
    AS_SYSTEM,
    {AS_SYSTEM: msg("as the system"), **NAMES},
)
THEME: Final = Setting(
    "theme",
    msg("The desk"),
    msg("Colours"),
    msg("Light, dark, or with the greatest contrast."),
    AS_SYSTEM,
    {AS_SYSTEM: msg("as the system"), "day": msg("day"), "night": msg("night"), "contrast": msg("high contrast")},
)
DEVICE: Final = Setting(
    "device",
    msg("Listening"),
    msg("Sound device"),
    msg("What one listens with, by its name; empty, or not there: that of the system."),
    AS_SYSTEM,
)
PROJECTS: Final = Setting(
    "projects",
    msg("Places"),
    msg("New projects"),
    msg("The folder they are made in; empty: Zweistimme in your documents."),
    "",
)
PROXY: Final = Setting(
    "proxy",
    msg("Engines"),
    msg("Proxy"),
    msg("The address engines are reached through, such as http://proxy:3128; empty: as the environment says."),
    "",
)
BUDGET: Final = Setting(
    "budget",
    msg("Engines"),
    msg("Budget"),
    msg("What any engine may charge in a month that has no budget of its own on the Engines page; empty: no limit."),
    "",
)
NAME: Final = Setting(
    "name",
    msg("The desk"),
    msg("Your name"),
    msg("Stands with notes you write about lines; empty: they are nobody's in particular."),
    "",
)
MEMORY: Final = Setting(
    "memory",
    msg("Translating"),
    msg("Translation memory"),
    msg("What you settle is kept for other projects, and found again in them."),
    True,
)
ORDER: Final = Setting(
    "order",
    msg("Voicing"),
    msg("Order of takes"),
    msg("Which takes are asked for first: scene by scene, or those that have the least room for their words."),
    "scenes",
    {"scenes": msg("scene by scene"), "tightest": msg("the tightest first")},
)
SETTINGS: Final = (LANGUAGE, THEME, NAME, MEMORY, ORDER, DEVICE, PROJECTS, PROXY, BUDGET)
_BY_ID: Final = {setting.id: setting for setting in SETTINGS}


class Settings(msgspec.Struct, frozen=True, omit_defaults=True):
    """What was set: *values* by a setting's id, and *keys*, shortcuts by an action's."""

    values: dict[str, Value] = {}
    keys: dict[str, str] = {}

    def value(self, setting: Setting) -> Value:
        """What a setting is; its default where nothing that could be meant was set."""
        value = self.values.get(setting.id, setting.default)
        with suppress(EditError):
            if type(value) is type(setting.default):
                _check(setting, value)
                return value
        return setting.default

    def text(self, setting: Setting) -> str:
        """The same, of a setting that is a text."""
        return str(self.value(setting))

    def having(self, setting: Setting, value: Value) -> Settings:
        """The same with one setting as somebody wants it; an EditError says what is wrong with it."""
        _check(setting, value)
        values = {key: kept for key, kept in self.values.items() if key != setting.id}
        return msgspec.structs.replace(
            self, values=values if value == setting.default else {**values, setting.id: value}
        )

    def having_keys(self, keys: Mapping[str, str]) -> Settings:
        """The same with these shortcuts in place of those there were."""
        return msgspec.structs.replace(self, keys=dict(keys))


def _check(setting: Setting, value: Value) -> None:
    if setting.choices is not None and value not in setting.choices:
        names = ", ".join(name or "“”" for name in setting.choices)
        raise EditError("“{value}” is no {setting}. There is {names}.", value=value, setting=setting.id, names=names)
    if setting is PROXY and value and urlsplit(str(value)).scheme not in ("http", "https"):
        raise EditError("“{value}” is no address of a proxy, such as http://proxy:3128.", value=value)
    if setting is BUDGET and value and not _AMOUNT.fullmatch(str(value)):
        raise EditError("“{value}” is no amount, such as 20 or 12.50.", value=value)
    if setting is PROJECTS and value and not Path(str(value)).expanduser().is_absolute():
        raise EditError("“{value}” is no whole path. Begin it with / or ~.", value=value)


def setting_called(name: str) -> Setting:
    """The setting with this id, or an EditError that lists them."""
    if name not in _BY_ID:
        raise EditError("There is no setting {name}. There is {names}.", name=name, names=", ".join(_BY_ID))
    return _BY_ID[name]


def value_from(setting: Setting, text: str) -> Value:
    """A value as it is written in a command: of a switch, *on* or *off*."""
    if isinstance(setting.default, str):
        return text
    if text not in ("on", "off"):
        raise EditError("“{value}” is neither on nor off.", value=text)
    return text == "on"


def settings_file() -> Path:
    """Where they are kept."""
    return Path(platformdirs.user_config_dir("zweistimme")) / "settings.json"


def read_settings() -> Settings:
    """What was set; everything as it comes where nothing can be read."""
    with suppress(OSError, ValueError):
        return msgspec.json.decode(settings_file().read_bytes(), type=Settings)
    return Settings()


def write_settings(settings: Settings) -> None:
    """Keep them, or a StoreError."""
    try:
        written_bytes(settings_file(), msgspec.json.format(msgspec.json.encode(settings)))
    except OSError as error:
        raise StoreError("{file} cannot be written: {why}.", file=settings_file(), why=error) from error
