"""What a check notices about a line: a code with figures, where in the wording, and what would mend it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zweistimme.project.findings import Finding
from zweistimme.project.model import Line, Project, Segment


@dataclass(frozen=True, slots=True)
class Noticed:
    """Something about the line of a segment. ``[start, end)`` are letters of the wording, both -1 where it is about all
    of it; *mended* is the wording as it should be, where that is known."""

    segment_id: str
    finding: Finding
    start: int = -1
    end: int = -1
    mended: str | None = None

    @property
    def code(self) -> str:
        """The kind of it, by which it can be let be."""
        return self.finding.code


@dataclass(frozen=True, slots=True)
class Looked:
    """A line as checks look at it: the wording and the original as they are said, directions left out of neither."""

    project: Project
    tag: str
    segment: Segment
    line: Line

    @property
    def text(self) -> str:
        return self.line.text

    @property
    def source(self) -> str:
        return self.segment.text

    def noticed(
        self, code: str, start: int = -1, end: int = -1, mended: str | None = None, **figures: object
    ) -> Noticed:
        """Something of this line."""
        return Noticed(self.segment.id, Finding(code, figures), start, end, mended)  # type: ignore[arg-type]


Check = Callable[[Looked], Iterator[Noticed]]
