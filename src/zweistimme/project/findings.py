"""What the machine has to say, as data: a code, with its figures. It becomes a sentence at the edge (``sentences``)."""

from __future__ import annotations

import errno
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from zweistimme.messages import msg, tr

AS_WRITTEN = "as-written"
"""A sentence that an older Zweistimme kept as it was; its text is the figure *text*."""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing to be said. *code* is listed in the catalogue of sentences, or is a message itself; *figures* have
    their units in their names; *place* is a file, or where in it.

    A reason within a sentence is a finding among its figures, whose code is a message: so it is said in the language
    of whoever reads it, however long ago it was found.

    >>> str(Finding("{file}: {why}.", {"file": "a.wav", "why": Finding("No such file or directory")}))
    'a.wav: No such file or directory.'
    """

    code: str
    figures: Mapping[str, str | int | float | Finding] = field(default_factory=dict)
    place: str = ""

    def __str__(self) -> str:
        """What is said by a code that is a message."""
        return str(self.figures["text"]) if self.code == AS_WRITTEN else tr(self.code, **self.figures)


Figure = str | int | float | Finding

_CAUSES: Final[Mapping[int, str]] = {
    errno.ENOENT: msg("No such file or directory"),
    errno.EACCES: msg("Permission denied"),
    errno.EPERM: msg("Operation not permitted"),
    errno.ENOSPC: msg("No space left on device"),
    errno.EDQUOT: msg("Disk quota exceeded"),
    errno.EROFS: msg("Read-only file system"),
    errno.EISDIR: msg("Is a directory"),
    errno.ENOTDIR: msg("Not a directory"),
    errno.EEXIST: msg("File exists"),
    errno.ENAMETOOLONG: msg("File name too long"),
    errno.EIO: msg("Input/output error"),
    errno.EBUSY: msg("Device or resource busy"),
    errno.ENOEXEC: msg("Exec format error"),
    errno.ETXTBSY: msg("Text file busy"),
    errno.EFBIG: msg("File too large"),
    errno.EMFILE: msg("Too many open files"),
    errno.ECONNREFUSED: msg("Connection refused"),
    errno.EADDRINUSE: msg("Address already in use"),
    errno.EADDRNOTAVAIL: msg("Cannot assign requested address"),
    1_094_995_529: msg("Invalid data found when processing input"),  # as the media library counts
}
"""What the system says of files and connections, in its own English words, so that it can be said in others."""


def reason(message: str, **figures: Figure) -> Finding:
    """Words that stand within a sentence, as data: said by their message, in the language of whoever reads them."""
    return Finding(message, figures)


def cause(error: Exception) -> Figure:
    """Why the system, or the media library, did not do something."""
    words = _CAUSES.get(getattr(error, "errno", None) or 0)
    return reason(words) if words else getattr(error, "strerror", "") or str(error)
