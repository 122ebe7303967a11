"""Who made something, in words."""

from __future__ import annotations

from zweistimme.messages import money, tr
from zweistimme.project.model import Maker


def maker_in_words(maker: Maker) -> str:
    """The engine, its voice if it spoke, and what it charged.

    >>> maker_in_words(Maker("quay", "2", "Alva", 0.0123, "EUR"))
    'Alva of quay 2, 0.0123 EUR'
    """
    who = tr("{voice} of {engine}", voice=maker.voice, engine=maker.engine) if maker.voice else maker.engine
    cost = f", {money(maker.amount, maker.currency, 4)}" if maker.amount else ", " + tr("free")
    return f"{who} {maker.version}".rstrip() + cost


def take_words(label: str) -> str:
    """What a take is called: those that were numbered, in the language of the desk; others as they are.

    >>> take_words("take 3"), take_words("Juna, second try")
    ('take 3', 'Juna, second try')
    """
    number = label.removeprefix("take ")
    return tr("take {number}", number=number) if number != label and number.isdecimal() else label
