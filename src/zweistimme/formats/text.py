"""Reading text files from anywhere: the encoding found, sizes bounded."""

from __future__ import annotations

from pathlib import Path

from zweistimme.project.errors import FormatError

LARGEST_BYTES = 64 << 20


def read_text(path: Path) -> str:
    """The text of a file in UTF-8, UTF-16 with a mark, or else Windows-1252; line ends made plain."""
    try:
        size = path.stat().st_size
        if size > LARGEST_BYTES:
            raise FormatError(f"{path} is {size >> 20} MiB; text files are read up to {LARGEST_BYTES >> 20} MiB.")
        data = path.read_bytes()
    except FileNotFoundError:
        raise FormatError(f"There is no file {path}. Check the name.") from None
    except IsADirectoryError:
        raise FormatError(f"{path} is a folder. Give a text file.") from None
    except OSError as error:
        raise FormatError(f"{path} cannot be read: {error.strerror}. Check its permissions.") from error
    if b"\0" in data[:4096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise FormatError(f"{path} is not a text file. Give captions or a script as text.")
    return _decoded(data, path).replace("\r\n", "\n").replace("\r", "\n")


def _decoded(data: bytes, path: Path) -> str:
    encodings = ["utf-16"] if data.startswith((b"\xff\xfe", b"\xfe\xff")) else ["utf-8-sig", "cp1252"]
    for encoding in encodings:
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    raise FormatError(f"The encoding of {path} is not known. Save it as UTF-8 and try again.")
