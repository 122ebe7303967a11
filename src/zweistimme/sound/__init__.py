"""Numeric audio on NumPy arrays. Nothing here opens a file or knows what a project is.

Sound is ``float32`` in -1..1: mono has shape ``(n,)``, several channels ``(channels, n)``.
"""
