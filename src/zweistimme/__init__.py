"""Zweistimme: a desk for dubbing a programme into other languages."""

__version__ = "0.1.0"
