"""Who made something, in words."""

from __future__ import annotations

from zweistimme.project.model import Maker


def maker_in_words(maker: Maker) -> str:
    """The engine, its voice if it spoke, and what it charged.

    >>> maker_in_words(Maker("quay", "2", "Alva", 0.0123, "EUR"))
    'Alva of quay 2, 0.0123 EUR'
    """
    who = f"{maker.voice} of {maker.engine}" if maker.voice else maker.engine
    cost = f", {maker.amount:,.4f} {maker.currency}" if maker.amount else ", free"
    return f"{who} {maker.version}".rstrip() + cost
