"""The voices made from samples: kept among the desk's data, with who consented, for as long as nobody removes them."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from functools import lru_cache
from pathlib import Path

import msgspec
import platformdirs

from zweistimme.engines.extra_roles import Consent
from zweistimme.media.atomic import written_text
from zweistimme.project.errors import StoreError
from zweistimme.standin.voice import BundledVoice


@dataclass(frozen=True, slots=True)
class KeptVoice:
    """A voice and the consent it was made with."""

    voice: BundledVoice
    languages: tuple[str, ...]
    consent: Consent


def voices_file() -> Path:
    """Where they are kept."""
    return Path(platformdirs.user_data_dir("zweistimme")) / "made-voices.json"


def made_voices() -> list[KeptVoice]:
    """All of them; StoreError if the file cannot be read."""
    file = voices_file()
    try:
        about = file.stat()
        return list(_read(file, about.st_mtime_ns, about.st_size))
    except FileNotFoundError:
        return []
    except (OSError, msgspec.MsgspecError) as error:
        raise StoreError("{file} cannot be read: {why}. Correct or remove it.", file=file, why=error) from None


@lru_cache(maxsize=1)
def _read(file: Path, _mtime_ns: int, _size: int) -> tuple[KeptVoice, ...]:
    """Read once as long as the file is the same: the engine is asked who it is for every line."""
    return msgspec.json.decode(file.read_bytes(), type=tuple[KeptVoice, ...])


def keep_voice(made: KeptVoice) -> None:
    """Keep a voice, in the place of the one of its name."""
    _write([*(one for one in made_voices() if one.voice.id != made.voice.id), made])


def remove_voice(voice_id: str) -> bool:
    """Forget a voice and the consent it was made with; False where there is none of this id."""
    kept = made_voices()
    left = [one for one in kept if one.voice.id != voice_id]
    if len(left) < len(kept):
        _write(left)
    return len(left) < len(kept)


def _write(kept: list[KeptVoice]) -> None:
    text = msgspec.json.format(msgspec.json.encode([asdict(one) for one in kept])).decode()
    written_text(voices_file(), text + "\n")
