"""What is said to people, in their language: ``tr`` where it is shown, ``msg`` where it is only written down."""

from zweistimme.messages.lookup import language, listed, msg, msg_act, tr, tr_act, use
from zweistimme.messages.places import Places, fill, money, number

__all__ = ["Places", "fill", "language", "listed", "money", "msg", "msg_act", "number", "tr", "tr_act", "use"]
