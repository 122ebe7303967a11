"""Names within a project folder; quick to import."""

from typing import Final

DATABASE: Final = "project.sqlite"
"""What makes a folder a project."""
PACKED: Final = ".zweistimme"
"""How the name of a packed project ends."""
