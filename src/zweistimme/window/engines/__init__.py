"""The Engines page: what is connected, what it says of itself, and who does what."""

from zweistimme.window.engines.page import EnginesPage

__all__ = ["EnginesPage"]
