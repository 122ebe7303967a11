"""Reading text files from anywhere: the encoding found, sizes bounded."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from zweistimme.formats.cue import Repair
from zweistimme.project.errors import FormatError

LARGEST_BYTES = 64 << 20
_SAID: Final = {
    "utf-16-le": "the file is UTF-16 without a mark",
    "utf-16-be": "the file is UTF-16 without a mark",
    "cp1252": "the file is not UTF-8; it was read as Windows-1252. Check letters with accents",
    "latin-1": "the file is not UTF-8; it was read as Latin-1. Check letters with accents",
}


def read_text(path: Path) -> tuple[str, tuple[Repair, ...]]:
    """The text of a file in UTF-8, UTF-16 or else Windows-1252, line ends made plain; and what was odd about it."""
    data = read_bytes(path)
    text, repairs = decoded(data, str(path))
    return text.replace("\r\n", "\n").replace("\r", "\n"), repairs


def read_bytes(path: Path) -> bytes:
    """A file whole, if it is not too large; every trouble in a sentence."""
    try:
        size = path.stat().st_size
        if size > LARGEST_BYTES:
            raise FormatError(f"{path} is {size >> 20} MiB; text files are read up to {LARGEST_BYTES >> 20} MiB.")
        return path.read_bytes()
    except FileNotFoundError:
        raise FormatError(f"There is no file {path}. Check the name.") from None
    except IsADirectoryError:
        raise FormatError(f"{path} is a folder. Give a text file.") from None
    except OSError as error:
        raise FormatError(f"{path} cannot be read: {error.strerror}. Check its permissions.") from error


def decoded(data: bytes, where: str) -> tuple[str, tuple[Repair, ...]]:
    """Bytes as text. An encoding that is not UTF-8 is said, because it may have been guessed."""
    for encoding in _candidates(data):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" in text[:4096]:
            break
        said = _SAID.get(encoding)
        return text, (Repair("", said),) if said else ()
    raise FormatError(f"{where} is not a text file. Give captions or a script as text, best in UTF-8.")


def _candidates(data: bytes) -> list[str]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return ["utf-16"]
    head = data[:2048]
    if len(head) > 3 and head.count(0) * 5 > len(head) * 2 and len(data) % 2 == 0:  # half of plain UTF-16 is zeros
        return ["utf-16-le" if head[1::2].count(0) > head[::2].count(0) else "utf-16-be"]
    return ["utf-8-sig", "cp1252", "latin-1"]
