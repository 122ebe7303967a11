"""Names within a project folder; quick to import."""

from typing import Final

DATABASE: Final = "project.sqlite"
"""What makes a folder a project."""
LOCK: Final = "lock"
RUNS: Final = "runs.jsonl"
WRITING_TEXTS: Final = "writing.json"
CLIPS: Final = "clips"
ANSWERS: Final = "answers"
CACHE: Final = "cache"
FOLDERS: Final = (CLIPS, ANSWERS, CACHE)
PACKED: Final = ".zweistimme"
"""How the name of a packed project ends."""
