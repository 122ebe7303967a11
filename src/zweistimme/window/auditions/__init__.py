"""Auditions: a person's lines in several voices, side by side."""

from zweistimme.window.auditions.panel import NAME, AuditionPanel

__all__ = ["NAME", "AuditionPanel"]
