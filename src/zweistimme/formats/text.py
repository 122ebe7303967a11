"""Reading text files from anywhere: the encoding found, sizes bounded."""

from __future__ import annotations

import codecs
import stat
from pathlib import Path
from typing import Final

from zweistimme.formats.context import NOTHING_KNOWN, Context
from zweistimme.project.errors import FormatError
from zweistimme.project.findings import Finding
from zweistimme.project.languages import language_of

LARGEST_BYTES = 64 << 20
_NEAR: Final = {
    # encodings before Unicode that texts of a language come in, the likeliest first
    "ru": ("cp1251", "koi8_r", "iso8859_5", "cp866"), "uk": ("cp1251", "koi8_u"), "be": ("cp1251",), "bg": ("cp1251",),
    "sr": ("cp1251", "cp1250"), "mk": ("cp1251",), "el": ("cp1253", "iso8859_7"), "tr": ("cp1254", "iso8859_9"),
    "he": ("cp1255", "iso8859_8"), "ar": ("cp1256", "iso8859_6"), "fa": ("cp1256",), "ur": ("cp1256",),
    "pl": ("cp1250", "iso8859_2"), "cs": ("cp1250", "iso8859_2"), "sk": ("cp1250", "iso8859_2"),
    "hu": ("cp1250", "iso8859_2"), "ro": ("cp1250", "iso8859_2"), "hr": ("cp1250", "iso8859_2"),
    "sl": ("cp1250", "iso8859_2"), "lt": ("cp1257",), "lv": ("cp1257",), "et": ("cp1257",), "vi": ("cp1258",),
    "th": ("cp874",), "ja": ("cp932", "euc_jp", "iso2022_jp"), "ko": ("cp949", "euc_kr"),
    "zh": ("gb18030", "big5"), "yue": ("big5", "gb18030"),
}  # fmt: skip
_WESTERN: Final = ("cp1252",)


def read_text(path: Path, context: Context = NOTHING_KNOWN) -> tuple[str, tuple[Finding, ...]]:
    """The text of a file, line ends made plain; and what was odd about it."""
    data = read_bytes(path)
    text, repairs = decoded(data, str(path), context)
    return text.replace("\r\n", "\n").replace("\r", "\n"), repairs


def read_bytes(path: Path) -> bytes:
    """A file whole, if it is not too large; every trouble in a sentence."""
    try:
        status = path.stat()
        if not stat.S_ISREG(status.st_mode) and not path.is_dir():
            raise FormatError(
                "{path} is a device or a pipe, not a file. Copy what it gives into a file first.", path=path
            )
        size = status.st_size
        if size > LARGEST_BYTES:
            raise FormatError(
                "{path} is {size} MiB; text files are read up to {largest_bytes} MiB.",
                path=path,
                size=size >> 20,
                largest_bytes=LARGEST_BYTES >> 20,
            )
        return path.read_bytes()
    except FileNotFoundError:
        raise FormatError("There is no file {path}. Check the name.", path=path) from None
    except IsADirectoryError:
        raise FormatError("{path} is a folder. Give a text file.", path=path) from None
    except OSError as error:
        raise FormatError("{path} cannot be read: {why}. Check its permissions.", path=path, why=error) from error


def decoded(data: bytes, where: str, context: Context = NOTHING_KNOWN) -> tuple[str, tuple[Finding, ...]]:
    """Bytes as text: in the encoding that was said, else Unicode in any form, else the one they look most like. A guess
    is said, because it may be wrong."""
    if context.encoding:
        try:
            return data.decode(codecs.lookup(context.encoding).name), ()
        except LookupError:
            raise FormatError(
                "“{encoding}” is no encoding. Give one such as utf-8 or cp1251.", encoding=context.encoding[:40]
            ) from None
        except UnicodeDecodeError as error:
            raise FormatError(
                "{where} is not {encoding}: byte {start:,} means nothing there. Give another --encoding.",
                where=where,
                encoding=context.encoding,
                start=error.start,
            ) from None
    for encoding in _unicode_forms(data):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text[:4096]:
            return text, (Finding("utf-16-unmarked"),) if encoding.endswith("e") else ()
        break
    else:
        if data[:4096].count(0) == 0:
            return _guessed(data, where, context.tag)
    raise FormatError("{where} is not a text file. Give captions or a script as text, best in UTF-8.", where=where)


def _unicode_forms(data: bytes) -> list[str]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return ["utf-16"]
    head = data[:2048]
    if len(head) > 3 and head.count(0) * 5 > len(head) * 2 and len(data) % 2 == 0:  # half of plain UTF-16 is zeros
        return ["utf-16-le" if head[1::2].count(0) > head[::2].count(0) else "utf-16-be"]
    return ["utf-8-sig"]


def _guessed(data: bytes, where: str, tag: str) -> tuple[str, tuple[Finding, ...]]:
    """Text in an encoding from before Unicode: one of its language's, by how its letters come out, else any."""
    from charset_normalizer import from_bytes

    near = _NEAR.get(language_of(tag), ())
    if not near and (tag or _few_high(data)):
        near = _WESTERN
    best = from_bytes(data, cp_isolation=list(near)).best() if near else from_bytes(data).best()
    encoding = best.encoding if best is not None else next((name for name in near if _decodes(data, name)), "")
    if not encoding and _decodes(data, "cp1252"):
        encoding = "cp1252"
    text = data.decode(encoding or "latin-1")
    name = codecs.lookup(encoding or "latin-1").name
    return text, (Finding("not-utf-8", {"encoding": name}),)


def _few_high(data: bytes) -> bool:
    """Whether most letters are plain ones, as in the languages of Western Europe."""
    return 5 * sum(byte > 127 for byte in data[:65536]) < len(data[:65536].strip())


def _decodes(data: bytes, encoding: str) -> bool:
    try:
        data.decode(encoding)
    except UnicodeDecodeError:
        return False
    return True
