"""Checks of what versions say, while they are written."""

from zweistimme.stages.check.checker import ByLine, Checker
from zweistimme.stages.check.noticed import Noticed

__all__ = ["ByLine", "Checker", "Noticed"]
