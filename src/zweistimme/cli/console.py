"""Where the command line writes to."""

from __future__ import annotations

from rich.console import Console

out = Console(highlight=False, soft_wrap=True)
err = Console(stderr=True, highlight=False, soft_wrap=True)
