"""What every page of the desk offers."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget


class Page(QWidget):
    """One page. What is written on it is a Draft of the desk's, which keeps it; so a page need not."""

    def show_segment(self, segment_id: str) -> None:
        """Bring a segment into sight, where the page shows any."""

    def close_parts(self) -> None:
        """End every thread of the page."""
